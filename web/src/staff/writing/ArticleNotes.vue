<script setup lang="ts">
import { useElementSize, useEventListener } from '@vueuse/core'
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { counted } from '../../shared/format'
import { useAct } from '../shared/act'
import MarginNote from './MarginNote.vue'
import { lineAt, lineTop } from './lines'

/** What the margin says of a text, each note at the height of its line. */
const props = defineProps<{
  reference: string
  found: Schemas['Checks']
  drawn: number
  editable: boolean
}>()
const emit = defineEmits<{ changed: []; keyword: [word: string] }>()
const box = ref<HTMLElement>()
const { act } = useAct()
const { height } = useElementSize(box)

const whole = computed(() => props.found.checks.filter((c) => c.line < 0))
const atLines = computed(() => props.found.checks.filter((c) => c.line >= 0))
const ease = (r: Schemas['Reading']) => Math.max(0, Math.round(r.ease))

const tops = ref<number[]>([])
const bottom = ref(0)

/** Puts each note at its line, and below the note before it where the two would overlap. */
async function place() {
  await nextTick()
  const notes = [...(box.value?.querySelectorAll<HTMLElement>('.at') ?? [])]
  const from = box.value?.getBoundingClientRect().top ?? 0
  let free = 0
  tops.value = notes.map((n, i) => {
    const line = atLines.value[i]?.line ?? 0
    const top = Math.max(free, lineTop(line) - from)
    free = top + n.offsetHeight + 6
    return top
  })
  bottom.value = free
}
onMounted(place)
watch(() => [props.found, props.drawn], place, { deep: false })
useEventListener(window, 'resize', place)
watch(height, (now, before) => before && Math.abs(now - before) > 200 && place())

async function setAside(key: string, why: string) {
  const ok = await act(() =>
    call(
      api.POST('/api/staff/articles/{reference}/dismissals', {
        params: { path: { reference: props.reference } },
        body: { key, reason: why },
      }),
    ),
  )
  if (!ok) return
  emit('changed')
}

function go(line: number) {
  const e = lineAt(line)
  e?.scrollIntoView({ block: 'center' })
  if (e) getSelection()?.collapse(e, 0)
  e?.closest<HTMLElement>('[contenteditable]')?.focus({ preventScroll: true })
}
</script>

<template>
  <section aria-label="Notes">
    <p class="small faded reading">
      <template v-if="found.reading.words && !found.reading.sentences">{{
        counted(found.reading.words, 'word')
      }}</template>
      <template v-else-if="found.reading.words"
        >{{ counted(found.reading.words, 'word') }} · reading ease {{ ease(found.reading) }} · grade
        {{ Math.max(0, Math.round(found.reading.grade)) }}</template
      >
      <template v-else>Nothing written yet.</template>
    </p>
    <details v-if="found.contents.length > 1" class="small">
      <summary>Contents</summary>
      <ul class="plainlist">
        <li v-for="h in found.contents" :key="h.line" :style="{ paddingLeft: `${(h.level - 2) * 0.8}rem` }">
          <button type="button" class="quiet" @click="go(h.line)">{{ h.text }}</button>
          <span v-for="s in found.sections.filter((s) => s.line === h.line)" :key="s.line" class="faded">
            ease {{ ease(s.reading) }}</span
          >
        </li>
      </ul>
    </details>
    <MarginNote
      v-for="c in whole"
      :key="c.key"
      :check="c"
      :editable="editable"
      @aside="(why) => setAside(c.key, why)"
      @sized="place"
    />
    <p v-if="found.keywords.length && editable" class="small">
      Customers typed
      <button v-for="w in found.keywords" :key="w" type="button" class="word" @click="emit('keyword', w)">
        {{ w }} +
      </button>
    </p>
    <p v-if="!found.checks.length && found.reading.words" class="small faded">Nothing to mend.</p>
    <div ref="box" class="lines" :style="{ minHeight: `${bottom}px` }">
      <MarginNote
        v-for="(c, i) in atLines"
        :key="c.key + c.line"
        class="at"
        :check="c"
        :editable="editable"
        :style="{ top: `${tops[i] ?? 0}px` }"
        @go="go(c.line)"
        @aside="(why) => setAside(c.key, why)"
        @sized="place"
      />
    </div>
    <details v-if="found.dismissed.length" class="small">
      <summary>{{ counted(found.dismissed.length, 'note') }} set aside</summary>
      <ul class="plainlist">
        <li v-for="d in found.dismissed" :key="d.key">
          {{ d.message }} <span class="faded">{{ d.who }}: {{ d.reason }}</span>
          <button v-if="editable" type="button" class="aside" @click="setAside(d.key, '')">Take back</button>
        </li>
      </ul>
    </details>
  </section>
</template>

<style scoped>
.reading {
  margin: 0 0 0.4rem;
}
.lines {
  position: relative;
}
.at {
  position: absolute;
  left: 0;
  right: 0;
  margin: 0;
}
.aside {
  font: inherit;
  color: var(--faded);
  background: none;
  border: 0;
  padding: 0;
  text-decoration: underline;
  text-underline-offset: 3px;
  cursor: pointer;
}
.word {
  font: inherit;
  background: var(--leaf);
  border: 1px solid var(--rule);
  border-radius: 4px;
  padding: 0 0.4rem;
  margin: 0 0.2rem 0.2rem 0;
  cursor: pointer;
}
</style>
