<script setup lang="ts">
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, call } from '../../shared/api/client'
import { counted, day } from '../../shared/format'
import { outcomeOf } from '../../shared/words'
import DateField from '../shared/DateField.vue'
import DayBars from './DayBars.vue'
import OutcomeCounts from './OutcomeCounts.vue'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import Ledger from './Ledger.vue'
import LedgerFilters from './LedgerFilters.vue'
import RangeBar from '../shared/RangeBar.vue'
import { useLoad } from '../shared/load'

const route = useRoute()
const router = useRouter()
const text = (name: string) => (route.query[name] as string | undefined) || undefined
const page = computed(() => Number(route.query.page) || 1)

/** What narrows the figures, and the Ledger with them. */
const narrowing = ['site', 'category', 'flow', 'language'] as const
const narrowed = () => Object.fromEntries(narrowing.map((n) => [n, text(n)]))

const {
  value: figures,
  error,
  reload,
} = useLoad(
  () => [text('from'), text('to'), ...narrowing.map(text)],
  () =>
    call(
      api.GET('/api/staff/outcomes', {
        params: { query: { from: text('from'), to: text('to'), ...narrowed() } },
      }),
    ),
)
const first = computed(() => text('from') ?? figures.value?.period.from.slice(0, 10) ?? '')
const last = computed(() => {
  if (text('to') || !figures.value) return text('to') ?? ''
  return new Date(new Date(figures.value.period.to).getTime() - 43_200_000).toISOString().slice(0, 10)
})
const ledger = useLoad(
  () => [route.query, first.value, last.value],
  async () => {
    if (!first.value || !last.value) return undefined
    const query = {
      from: text('day') ?? first.value,
      to: text('day') ?? last.value,
      outcome: text('outcome'),
      settling: text('settling') === '1' || undefined,
      settled: text('settled') === '1' || undefined,
      channel: text('channel'),
      article: text('article'),
      words: text('words'),
      again: text('again') === '1' || undefined,
      traced: text('traced') as 'yes' | 'no' | undefined,
      followed: text('followed') as 'yes' | 'no' | undefined,
      group: text('group'),
      team: text('team'),
      ...narrowed(),
      since: figures.value?.state, // what the figures count is in the list
      page: page.value,
    }
    return call(api.GET('/api/staff/ledger', { params: { query } }))
  },
)
const questions = ledger.value

function set(query: Record<string, string | number | undefined>) {
  router.push({ query: { ...route.query, page: undefined, ...query } })
}
function searchWords(event: Event) {
  const words = new FormData(event.target as HTMLFormElement).get('words')
  set({ words: String(words ?? '') || undefined })
}
/** Shows the questions behind a count: the settled ones with that outcome. */
function show(query: Record<string, string | undefined>) {
  set({
    outcome: undefined,
    settled: undefined,
    settling: undefined,
    day: undefined,
    channel: undefined,
    again: undefined,
    traced: undefined,
    followed: undefined,
    ...query,
  })
}
const filters = computed(() =>
  [
    text('outcome') && { name: 'outcome', says: outcomeOf(text('outcome') ?? '').word },
    text('settled') && { name: 'settled', says: 'settled' },
    text('settling') && { name: 'settling', says: 'settling' },
    text('again') && { name: 'again', says: 'asked again' },
    text('traced') && {
      name: 'traced',
      says: text('traced') === 'yes' ? 'contacts that looked first' : 'contacts without a trace',
    },
    text('followed') && {
      name: 'followed',
      says: text('followed') === 'no' ? 'declined to be followed' : 'could be followed',
    },
    text('day') && { name: 'day', says: day(text('day') ?? '') },
    text('article') && { name: 'article', says: `ended with ${text('article')}` },
    text('words') && { name: 'words', says: `“${text('words')}”` },
  ].filter((f) => !!f),
)
</script>

<template>
  <Frame margin-title="What it is made of">
    <div class="row spread">
      <h1>Answered without a person</h1>
      <form class="row small" @submit.prevent>
        <label for="from">From</label>
        <DateField
          id="from"
          :model-value="first"
          small
          :max="last"
          @chosen="(d) => set({ from: d || undefined, day: undefined })"
        />
        <label for="to">to</label>
        <DateField
          id="to"
          :model-value="last"
          small
          :min="first"
          @chosen="(d) => set({ to: d || undefined, day: undefined })"
        />
      </form>
    </div>
    <Failed v-if="error" :error="error" @retry="reload" />
    <template v-if="figures">
      <LedgerFilters :query="route.query" @set="set" />
      <RangeBar :rates="figures.rates" />
      <h2>By day of closing</h2>
      <DayBars :days="figures.days" zone="" @choose="(date) => show({ day: date })" />
      <p class="small faded">
        The figure under each day is the share answered without a person. Pale parts are still settling.
      </p>
      <div class="row spread ledgerhead">
        <h2>
          The Ledger <span class="faded">{{ counted(questions?.total ?? 0, 'question') }}</span>
        </h2>
        <form class="row small" role="search" aria-label="Search the Ledger" @submit.prevent="searchWords">
          <label for="asked" class="hidden">Words that were asked</label>
          <input
            id="asked"
            name="words"
            :value="text('words')"
            placeholder="Words that were asked"
            maxlength="200"
          />
        </form>
      </div>
      <LedgerFilters :query="route.query" of-ledger @set="set" />
      <p v-if="filters.length" class="row small">
        <button
          v-for="f in filters"
          :key="f.name"
          type="button"
          class="panel filter"
          :aria-label="`Take away the filter ${f.says}`"
          @click="set({ [f.name]: undefined })"
        >
          {{ f.says }} <span aria-hidden="true">×</span>
        </button>
      </p>
      <Failed v-if="ledger.error.value" :error="ledger.error.value" @retry="ledger.reload" />
      <Ledger
        v-if="questions"
        :items="questions.items"
        :total="questions.total"
        :page="page"
        @page="(n) => set({ page: n })"
      />
    </template>
    <template v-if="figures" #margin>
      <OutcomeCounts :figures="figures" @show="show" />
    </template>
  </Frame>
</template>

<style scoped>
input {
  font: inherit;
  color: inherit;
  padding: 0.15rem 0.45rem;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--leaf);
}
.ledgerhead h2 {
  margin-bottom: 0.6rem;
}
.filter {
  font: inherit;
  color: var(--rubric);
  padding: 0.05rem 0.5rem;
  cursor: pointer;
}
</style>
