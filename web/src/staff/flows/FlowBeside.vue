<script setup lang="ts">
import { nextTick, reactive } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { useAct } from '../shared/act'

/** What the script says, turn by turn, and beside it the same in another language. */
const props = defineProps<{
  texts: Schemas['Said'][]
  language: string
  beside: string
  source: string
  editable: boolean
}>()
const emit = defineEmits<{ typed: [source: string] }>()
const { act } = useAct()
/** What is typed and not yet in the script: it stands there whatever is drawn again meanwhile. */
const typing = reactive<Record<string, string>>({})
const key = (s: Schemas['Said']) => `${s.turn} ${s.field} ${props.beside}`
const value = (s: Schemas['Said']) => typing[key(s)] ?? s.texts[props.beside] ?? ''

// One after the other: each is put into the text that the one before has made.
let last: Promise<unknown> = Promise.resolve()
function put(s: Schemas['Said'], text: string) {
  if (text.trim() === (s.texts[props.beside] ?? '').trim()) return
  typing[key(s)] = text
  last = last.then(nextTick).then(() =>
    act(async () => {
      const body = { source: props.source, turn: s.turn, field: s.field, language: props.beside, text }
      emit('typed', (await call(api.POST('/api/staff/flow-texts', { body }))).source)
    }),
  )
}
const missing = (s: Schemas['Said']) => !value(s).trim()
</script>

<template>
  <p class="faded small">
    {{ texts.filter(missing).length }} of {{ texts.length }} texts are missing in “{{ beside }}”. Whoever
    reads it gets them in “{{ language }}” until then.
  </p>
  <table class="beside">
    <thead>
      <tr>
        <th>Turn</th>
        <th>{{ language }}</th>
        <th>{{ beside }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="s in texts" :key="key(s)" :class="{ missing: missing(s) }">
        <td class="faded small">{{ s.what === 'option' ? 'choice' : s.what }}</td>
        <td class="said">{{ s.texts[language] }}</td>
        <td>
          <textarea
            :value="value(s)"
            :disabled="!editable"
            :rows="Math.max(1, Math.ceil((s.texts[language] ?? '').length / 42))"
            :aria-label="`“${s.texts[language]}” in ${beside}`"
            maxlength="4000"
            :lang="beside"
            @input="(e) => (typing[key(s)] = (e.target as HTMLTextAreaElement).value)"
            @change="(e) => put(s, (e.target as HTMLTextAreaElement).value)"
          />
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.beside {
  width: 100%;
  border-collapse: collapse;
  background: var(--leaf);
  border: 1px solid var(--rule);
  table-layout: fixed;
}
th:first-child {
  width: 6.5rem;
}
th {
  text-align: left;
  font: 600 0.85rem var(--face);
  color: var(--faded);
}
th,
td {
  padding: 0.4rem 0.7rem;
  border-bottom: 1px solid var(--rule);
  vertical-align: top;
}
.said {
  font: 1rem/1.5 var(--text-face);
  white-space: pre-line;
}
textarea {
  width: 100%;
  font: 1rem/1.5 var(--text-face);
  border: 1px solid var(--rule);
  border-radius: 4px;
  padding: 0.1rem 0.5rem;
  field-sizing: content;
}
.missing textarea {
  border-color: var(--ochre, #b07a10);
}
</style>
