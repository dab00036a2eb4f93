<script setup lang="ts">
import { api, call } from '../../shared/api/client'
import { counted, percent } from '../../shared/format'
import { useLoad } from '../shared/load'
import Failed from '../shared/Failed.vue'

/** Why an article ranks where it does for a question, word by word. */
const props = defineProps<{
  site: number
  words: string
  as: string
  language: string
  reference: string
}>()
const why = useLoad(
  () => [props.words, props.as, props.language, props.reference],
  () =>
    call(
      api.GET('/api/staff/sites/{site}/search/explain', {
        params: {
          path: { site: props.site },
          query: { words: props.words, as: props.as, language: props.language, reference: props.reference },
        },
      }),
    ),
)
const fields = ['title', 'keywords', 'headings', 'text']
const where = (counts: number[]) =>
  counts
    .map((n, i) => (n ? `${n} × in the ${fields[i]}` : ''))
    .filter(Boolean)
    .join(', ')
</script>

<template>
  <Failed v-if="why.error.value" :error="why.error.value" @retry="why.reload" />
  <div v-if="why.value.value" class="why small" tabindex="0" role="group" aria-label="Why it ranks here">
    <table>
      <thead>
        <tr>
          <th scope="col">Word</th>
          <th scope="col">Where it stands</th>
          <th scope="col" class="n">Articles with it</th>
          <th scope="col" class="n">Rarity</th>
          <th scope="col" class="n">Adds</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="w in why.value.value.words" :key="w.word">
          <th scope="row">{{ w.word }}</th>
          <td>
            <span v-if="!w.ways.length" class="faded">nowhere here</span>
            <span v-for="(y, i) in w.ways" :key="i" class="way">
              {{ where(y.counts)
              }}<span v-if="y.why" class="faded"> ({{ y.why }}, counts {{ percent(y.factor) }})</span>
            </span>
          </td>
          <td class="n">{{ w.held }}</td>
          <td class="n">{{ w.rarity.toFixed(2) }}</td>
          <td class="n">{{ w.score.toFixed(2) }}</td>
        </tr>
        <tr>
          <th scope="row">Nearness</th>
          <td class="faded" colspan="3">words beside each other, in one paragraph, or making up the title</td>
          <td class="n">{{ why.value.value.nearness.toFixed(2) }}</td>
        </tr>
        <tr>
          <th scope="row">Score</th>
          <td colspan="3" class="faded">
            <template v-if="why.value.value.unknown"
              >{{ counted(why.value.value.unknown, 'word') }} that no article has.
            </template>
            <template v-if="why.value.value.pinned">Pinned: it stands first whatever it scores. </template>
            <template v-if="!why.value.value.seen">Not for this reader: they never see it.</template>
          </td>
          <td class="n">
            <strong>{{ why.value.value.score.toFixed(2) }}</strong>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.why {
  overflow-x: auto;
  border-top: 1px solid var(--rule);
  margin-top: 0.4rem;
}
table {
  width: 100%;
  border-collapse: collapse;
}
:is(td, th) {
  text-align: left;
  vertical-align: top;
  font-weight: 400;
  padding: 0.25rem 0.9rem 0.25rem 0;
}
thead th {
  color: var(--faded);
}
.n {
  text-align: right;
  font-variant-numeric: tabular-nums;
  white-space: nowrap;
}
.way {
  display: block;
}
</style>
