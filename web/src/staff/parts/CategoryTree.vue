<script setup lang="ts">
import { Button, Input, Modal, Textarea } from 'ant-design-vue'
import { reactive, ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { audiences } from '../../shared/words'
import { has } from '../session'
import { useAct } from '../use/act'
import Choice from './Choice.vue'

/** The category tree as an index, with ways to add, change and remove. */
const props = defineProps<{ categories: Schemas['Category'][]; chosen: number }>()
const emit = defineEmits<{ choose: [id: number]; changed: [] }>()

const open = ref(false)
const editing = ref(0)
const form = reactive({ name: '', description: '', audience: 'everyone', parent_id: 0 })
const { act, busy, refused } = useAct()

function add() {
  editing.value = 0
  Object.assign(form, { name: '', description: '', audience: 'everyone', parent_id: props.chosen })
  open.value = true
}

function change() {
  const c = props.categories.find((c) => c.id === props.chosen)
  if (!c) return
  editing.value = c.id
  Object.assign(form, {
    name: c.name,
    description: c.description,
    audience: c.audience,
    parent_id: c.parent_id,
  })
  open.value = true
}

async function save() {
  const ok = await act(async () => {
    if (editing.value) {
      await call(
        api.PUT('/api/staff/categories/{id}', { params: { path: { id: editing.value } }, body: { ...form } }),
      )
    } else {
      const made = await call(api.POST('/api/staff/categories', { body: { ...form } }))
      emit('choose', made.id)
    }
  })
  if (ok) {
    open.value = false
    emit('changed')
  }
}

async function remove() {
  const ok = await act(
    () => call(api.DELETE('/api/staff/categories/{id}', { params: { path: { id: editing.value } } })),
    'Category removed',
  )
  if (ok) {
    open.value = false
    emit('choose', 0)
    emit('changed')
  }
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
      <li v-for="c in categories" :key="c.id" :style="{ paddingLeft: `${(c.depth - 1) * 0.9}rem` }">
        <button
          type="button"
          :aria-current="chosen === c.id ? 'true' : undefined"
          @click="emit('choose', c.id)"
        >
          {{ c.name }} <span v-if="c.articles" class="faded small">{{ c.articles }}</span>
        </button>
      </li>
    </ul>
    <p v-if="has('author', 'publisher', 'administrator')" class="row small under">
      <button type="button" class="quiet" @click="add">Add category</button>
      <button v-if="chosen" type="button" class="quiet" @click="change">Change</button>
    </p>
    <Modal v-model:open="open" :title="editing ? 'Change category' : 'Add category'" :footer="null">
      <form class="fields" @submit.prevent="save">
        <label for="category-name">Name</label>
        <Input id="category-name" v-model:value="form.name" :maxlength="80" />
        <p v-if="refused?.field('name')" class="fault">{{ refused.field('name') }}</p>
        <label for="category-description">What customers find in it</label>
        <Textarea id="category-description" v-model:value="form.description" :rows="2" :maxlength="400" />
        <template v-if="!editing">
          <label for="category-parent">Inside</label>
          <Choice
            id="category-parent"
            v-model="form.parent_id"
            :options="[
              { value: 0, label: 'The top' },
              ...categories.map((c) => ({ value: c.id, label: c.name })),
            ]"
          />
        </template>
        <label for="category-audience">New articles in it are for</label>
        <Choice
          id="category-audience"
          v-model="form.audience"
          :options="Object.entries(audiences).map(([value, label]) => ({ value, label }))"
        />
        <div class="row buttons">
          <Button type="primary" html-type="submit" :loading="busy">{{
            editing ? 'Save category' : 'Add category'
          }}</Button>
          <Button v-if="editing && has('publisher', 'administrator')" @click="remove">Remove it</Button>
        </div>
      </form>
    </Modal>
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
.under {
  padding-left: 0.6rem;
}
.fields {
  display: grid;
  gap: 0.3rem;
}
label {
  margin-top: 0.5rem;
}
.buttons {
  margin-top: 1rem;
}
</style>
