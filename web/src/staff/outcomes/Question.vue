<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { day, exact, time } from '../../shared/format'
import { channels, kinds, outcomeOf } from '../../shared/words'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import OutcomeChip from './OutcomeChip.vue'
import { saidWithWayBack, useAct } from '../shared/act'
import { useKey } from '../shared/keys'
import { useLoad } from '../shared/load'

const props = defineProps<{ id: string }>()
const {
  value: question,
  error,
  reload,
} = useLoad(
  () => props.id,
  () => call(api.GET('/api/staff/question', { params: { query: { key: props.id } } })),
)
const link = (key: string) => `/outcomes/question/${encodeURIComponent(key)}`

interface Named {
  ref: string
  title: string
  to?: string
}
function named(ref: string, q: Schemas['LedgerQuestion']): Named {
  const [bare = '', revision] = ref.split('@')
  if (revision) return { ref, title: q.titles[bare] ?? bare, to: `/library/${bare}` }
  if (/^[HR]-\d+(\.\d+)?$/.test(ref)) return { ref, title: '', to: `/conversations/${ref.split('.')[0]}` }
  return { ref: ref.replace(/^turn:/, 'turn '), title: '' }
}
/** What may have answered it, the likeliest first. */
const answers = computed(() => (question.value?.answers ?? []).slice(0, 5))
const title = (reference: string) => question.value?.titles[reference] ?? reference
const { act, busy } = useAct()
const at = ref(-1) // the answer that is chosen
async function judge(reference: string | undefined) {
  if (!reference || !question.value?.last_asked) return
  const body = { key: props.id, reference }
  if (!(await act(() => call(api.POST('/api/staff/question/answered-by', { body }))))) return
  const takeBack = () =>
    act(() => call(api.DELETE('/api/staff/question/answered-by', { params: { query: body } })), 'Taken back')
  saidWithWayBack(`Judged: ${title(reference)} answers it`, takeBack)
}
useKey(['j', 'k'], (e) => {
  at.value = Math.min(answers.value.length - 1, Math.max(0, at.value + (e.key === 'j' ? 1 : -1)))
})
useKey('t', () => void judge(answers.value[at.value]))
const items = computed(() => {
  const q = question.value
  return (q?.evidence ?? []).map((e) => ({
    ...e,
    names: [e.ref, ...(e.refs ?? [])]
      .filter((r) => r && !r.startsWith('results:'))
      .map((r) => named(r, q as Schemas['LedgerQuestion'])),
  }))
})
</script>

<template>
  <Frame margin-title="Why this outcome">
    <Failed v-if="error" :error="error" @retry="reload" />
    <template v-if="question">
      <p class="crumbs small"><RouterLink to="/outcomes">Outcomes</RouterLink> › Question</p>
      <h1>{{ question.asked || 'A question without words' }}</h1>
      <p class="faded">
        {{ question.asker }} · {{ day(question.began) }} ·
        {{ question.channels.map((c) => channels[c] ?? c).join(', ') }}
      </p>
      <ol class="evidence panel plainlist">
        <li v-for="e in items" :key="e.line">
          <time :datetime="e.at" :title="exact(e.at)" class="faded">{{ time(e.at) }}</time>
          <span class="faded">{{ channels[e.channel] }}</span>
          <span>
            <strong>{{ kinds[e.kind] ?? e.kind }}</strong>
            <template v-if="e.text"> “{{ e.text }}”</template>
            <span v-for="n in e.names" :key="n.ref" class="ref">
              <RouterLink v-if="n.to" :to="n.to">{{ n.title || n.ref }}</RouterLink>
              <template v-else>{{ n.ref }}</template>
              <span v-if="n.title" class="faded small"> {{ n.ref }}</span>
            </span>
          </span>
        </li>
      </ol>
    </template>
    <template v-if="question" #margin>
      <h2 class="first"><OutcomeChip :outcome="question.outcome" :settling="question.settling" /></h2>
      <p>{{ outcomeOf(question.outcome).means }}</p>
      <p v-if="question.asked_again" class="faded">
        The same asker began another question with the same article offered: they asked again.
      </p>
      <p v-if="question.words_lost" class="faded">Its words have ended, or were forgotten.</p>
      <p v-if="question.put_aside" class="faded">
        Its evidence is not at hand any more: how it was counted is final.
      </p>
      <dl>
        <dt>Began</dt>
        <dd>{{ exact(question.began) }}</dd>
        <template v-if="question.closed">
          <dt>Closed</dt>
          <dd>{{ exact(question.closed) }}</dd>
          <dt>{{ question.settling ? 'Settles' : 'Settled' }}</dt>
          <dd>{{ exact(question.settles) }}</dd>
        </template>
      </dl>
      <template v-if="question.last_asked && answers.length">
        <h3>What answered it?</h3>
        <p class="small faded">
          What you say is kept with the judged questions, by which the search is measured. <kbd>j</kbd>
          <kbd>k</kbd> choose, <kbd>t</kbd> says it.
        </p>
        <ul class="plainlist">
          <li
            v-for="(a, i) in answers"
            :key="a"
            :class="{ at: i === at }"
            :aria-current="i === at || undefined"
          >
            <button type="button" class="quiet" :disabled="busy" @click="judge(a)">
              {{ title(a) }} answered it
            </button>
          </li>
        </ul>
      </template>
      <p v-if="question.returned_in">
        <RouterLink :to="link(question.returned_in)">The question in which the customer came back</RouterLink>
      </p>
      <template v-if="question.earlier.length">
        <h3>Questions that this contact returned</h3>
        <ul class="plainlist">
          <li v-for="q in question.earlier" :key="q.key">
            <RouterLink :to="link(q.key)">{{ q.asked || 'Without words' }}</RouterLink>
          </li>
        </ul>
      </template>
    </template>
  </Frame>
</template>

<style scoped>
.crumbs {
  margin: 0 0 0.5rem;
}
.evidence li {
  display: grid;
  grid-template-columns: 3.4rem 7rem minmax(0, 1fr);
  gap: 0.8rem;
  padding: 0.5rem 0.9rem;
  border-top: 1px solid var(--rule);
}
.evidence li:first-child {
  border-top: 0;
}
.ref {
  display: block;
}
.first {
  margin-top: 0;
}
.at {
  background: #f6efe1;
}
dt {
  color: var(--faded);
}
dd {
  margin: 0 0 0.4rem;
}
</style>
