<script setup lang="ts">
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, call } from '../../shared/api/client'
import { counted, day, exact, percent } from '../../shared/format'
import { channels, outcomeOf, outcomes } from '../../shared/words'
import DateField from '../shared/DateField.vue'
import DayBars from './DayBars.vue'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import Ledger from './Ledger.vue'
import RangeBar from '../shared/RangeBar.vue'
import { useLoad } from '../shared/load'

const route = useRoute()
const router = useRouter()
const text = (name: string) => (route.query[name] as string | undefined) || undefined
const page = computed(() => Number(route.query.page) || 1)

const {
  value: figures,
  error,
  reload,
} = useLoad(
  () => [text('from'), text('to')],
  () => call(api.GET('/api/staff/outcomes', { params: { query: { from: text('from'), to: text('to') } } })),
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
    ...query,
  })
}
const filters = computed(() =>
  [
    text('outcome') && { name: 'outcome', says: outcomeOf(text('outcome') ?? '').word },
    text('settled') && { name: 'settled', says: 'settled' },
    text('settling') && { name: 'settling', says: 'settling' },
    text('channel') && { name: 'channel', says: channels[text('channel') ?? ''] ?? '' },
    text('day') && { name: 'day', says: day(text('day') ?? '') },
    text('article') && { name: 'article', says: `ended with ${text('article')}` },
    text('words') && { name: 'words', says: `“${text('words')}”` },
  ].filter((f) => !!f),
)
const moved = computed(() => {
  const m = figures.value?.moved
  if (!m) return undefined
  const points = (x: number) => `${x >= 0 ? '+' : '−'}${Math.abs(100 * x).toFixed(1)}`
  return {
    value: points(m.value),
    range: `${points(m.low)} to ${points(m.high)}`,
    sure: m.low > 0 || m.high < 0,
  }
})
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
      <p v-if="filters.length" class="row small">
        <button
          v-for="f in filters"
          :key="f.name"
          type="button"
          class="leaf filter"
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
      <h2 class="first">{{ counted(figures.rates.deflection.of, 'settled question') }}</h2>
      <ul class="plainlist counts">
        <li v-for="o in outcomes" :key="o.name">
          <button type="button" :title="o.means" @click="show({ outcome: o.name, settled: '1' })">
            <span class="mark" :style="{ color: `var(--${o.colour})` }" aria-hidden="true">{{ o.mark }}</span>
            <span>{{ o.word }}</span>
            <strong>{{ figures.counts[o.name] }}</strong>
          </button>
        </li>
      </ul>
      <h3>In no rate</h3>
      <ul class="plainlist counts">
        <li>
          <button
            type="button"
            title="Closed, but the customer may still come back"
            @click="show({ settling: '1' })"
          >
            <span /><span>Settling</span><strong>{{ figures.counts.settling }}</strong>
          </button>
        </li>
        <li>
          <button type="button" title="Still going on" @click="show({ outcome: 'open' })">
            <span /><span>Open</span><strong>{{ figures.counts.open }}</strong>
          </button>
        </li>
        <li>
          <button type="button" title="Looked around without asking" @click="show({ outcome: 'browsing' })">
            <span /><span>Browsing</span><strong>{{ figures.counts.browsing }}</strong>
          </button>
        </li>
      </ul>
      <template v-if="moved">
        <h3>Against the same time before</h3>
        <p>
          <strong>{{ moved.value }} points</strong>{{ ' '
          }}<span class="faded" title="Newcombe’s 95 % interval of the difference"> {{ moved.range }}</span>
          <span v-if="!moved.sure" class="faded block">That is within chance.</span>
        </p>
      </template>
      <h3>By where it happened</h3>
      <ul class="plainlist counts">
        <li v-for="c in figures.channels" :key="c.channel">
          <button
            type="button"
            :title="`${c.rates.deflection.count} of ${c.rates.deflection.of}, ${percent(c.rates.deflection.low)} to ${percent(c.rates.deflection.high)}`"
            @click="show({ channel: c.channel, settled: '1' })"
          >
            <span /><span>{{ channels[c.channel] }}</span>
            <strong :class="{ faded: c.rates.deflection.of < 30 }">{{
              c.rates.deflection.of ? percent(c.rates.deflection.value) : '–'
            }}</strong>
          </button>
        </li>
      </ul>
      <h3>How it is counted</h3>
      <p class="small faded">
        A question is everything one asker does with less than 30 minutes of silence between. It settles
        {{ figures.window_hours }} hours after closing; a contact within that time makes an answered question
        Returned. Ranges are 95 % Wilson score intervals. As of {{ exact(figures.as_of) }}.
      </p>
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
.first {
  margin-top: 0;
}
.counts button {
  display: grid;
  grid-template-columns: 1.3rem 1fr auto;
  width: 100%;
  font: inherit;
  color: inherit;
  text-align: left;
  background: none;
  border: 0;
  padding: 0.12rem 0.2rem;
  cursor: pointer;
}
.counts button:hover {
  color: var(--rubric);
}
.block {
  display: block;
}
</style>
