<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { may } from '../session'
import { useAct } from '../shared/act'
import { moveByDrop, moveByKey, type Move } from './tree'
import CategoryDialog from './CategoryDialog.vue'

/** The category tree as an index: chosen, ordered by drag and by keys, added to and changed. */
const props = defineProps<{ categories: Schemas['Category'][]; chosen: number }>()
const emit = defineEmits<{ choose: [id: number]; changed: [] }>()
const { act } = useAct()
const open = ref(false)
const editing = ref<Schemas['Category']>()
const mayChange = computed(() => may('change_categories'))
const over = ref<{ id: number; inside: boolean }>()
let dragged = 0

function edit(c?: Schemas['Category']) {
  editing.value = c
  open.value = true
}

async function move(to: Move | undefined) {
  if (!to) return
  const { id, ...body } = to
  const ok = await act(() =>
    call(api.POST('/api/staff/categories/{id}/move', { params: { path: { id } }, body })),
  )
  if (!ok) return
  emit('changed')
  await nextTick()
  setTimeout(() => document.querySelector<HTMLElement>(`[data-category="${id}"]`)?.focus(), 150)
}

function key(e: KeyboardEvent, id: number) {
  if (!e.altKey || !mayChange.value || !e.key.startsWith('Arrow')) return
  e.preventDefault()
  e.stopPropagation()
  void move(moveByKey(props.categories, id, e.key))
}

/** On the upper quarter of a row it goes before it, else inside. */
function hover(e: DragEvent, id: number) {
  if (!dragged) return
  e.preventDefault()
  const box = (e.currentTarget as HTMLElement).getBoundingClientRect()
  over.value = { id, inside: e.clientY - box.top > box.height * 0.35 }
}
function drop() {
  const at = over.value
  over.value = undefined
  if (at && dragged) void move(moveByDrop(props.categories, dragged, at.id, at.inside))
  dragged = 0
}
</script>

<template>
  <nav aria-label="Categories">
    <ul class="plainlist tree">
      <li>
        <button type="button" :aria-current="!chosen ? 'true' : undefined" @click="emit('choose', 0)">
          All articles
        </button>
      </li>
      <li
        v-for="c in categories"
        :key="c.id"
        :style="{ paddingLeft: `${(c.depth - 1) * 0.9}rem` }"
        :class="{ before: over?.id === c.id && !over.inside, inside: over?.id === c.id && over.inside }"
      >
        <button
          type="button"
          :data-category="c.id"
          :aria-current="chosen === c.id ? 'true' : undefined"
          :draggable="mayChange || undefined"
          @click="emit('choose', c.id)"
          @keydown="(e) => key(e, c.id)"
          @dragstart="dragged = c.id"
          @dragend="((dragged = 0), (over = undefined))"
          @dragover="(e) => hover(e, c.id)"
          @dragleave="over = undefined"
          @drop.prevent="drop"
        >
          {{ c.name }} <span v-if="c.articles" class="faded small">{{ c.articles }}</span>
        </button>
      </li>
    </ul>
    <p v-if="mayChange" class="row small under">
      <button type="button" class="quiet" @click="edit()">Add category</button>
      <button
        v-if="chosen"
        type="button"
        class="quiet"
        @click="edit(categories.find((c) => c.id === chosen))"
      >
        Change
      </button>
    </p>
    <p v-if="mayChange && categories.length > 1" class="small faded under">
      Drag to re-order, or <kbd>Alt</kbd>+arrows.
    </p>
    <CategoryDialog
      v-model:open="open"
      :category="editing"
      :categories="categories"
      :inside="chosen"
      @choose="(id) => emit('choose', id)"
      @changed="emit('changed')"
    />
  </nav>
</template>

<style scoped>
.tree button {
  font: inherit;
  width: 100%;
  text-align: left;
  color: var(--ink);
  background: none;
  border: 0;
  border-left: 2px solid transparent;
  padding: 0.22rem 0.5rem;
  cursor: pointer;
}
.tree button:hover {
  color: var(--rubric);
}
.tree button[aria-current] {
  border-color: var(--rubric);
  color: var(--rubric);
}
.before {
  box-shadow: inset 0 2px var(--rubric);
}
.inside {
  background: #f3ead8;
}
.under {
  padding-left: 0.6rem;
}
kbd {
  font-family: var(--face);
}
</style>
