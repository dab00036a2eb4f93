<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed } from 'vue'
import type { Schemas } from '../../shared/api/client'
import { ago, day, exact } from '../../shared/format'
import { states } from '../../shared/words'
import { audiences } from '../customers/audiences'
import { articleKinds } from './kinds'
import DataTable, { type Column } from '../shared/DataTable.vue'
import OutcomeBar from '../outcomes/OutcomeBar.vue'

/** Articles as a table of contents, with the columns somebody chose. */
defineProps<{
  rows: Schemas['ArticleLine'][]
  at: number
  sort?: string
  withCategory: boolean
  movable: boolean
}>()
const selected = defineModel<number[]>('selected', { required: true })
const emit = defineEmits<{
  sort: [by: string]
  moved: [row: Schemas['ArticleLine'], before: Schemas['ArticleLine']]
}>()

const every: Column[] = [
  { key: 'title', label: 'Article', sort: 'title' },
  { key: 'state', label: 'State', sort: 'state' },
  { key: 'audience', label: 'For' },
  { key: 'kind', label: 'Kind', narrow: true },
  { key: 'owner', label: 'Owner', sort: 'owner', narrow: true },
  { key: 'recheck', label: 'Recheck', sort: 'recheck', narrow: true },
  { key: 'written', label: 'Written', sort: 'written', narrow: true },
  { key: 'languages', label: 'Editions', narrow: true },
  { key: 'outcomes', label: 'How it ended', narrow: true },
]
const chosen = useLocalStorage('hermeneus:columns', ['state', 'audience', 'owner', 'written', 'outcomes'])
const columns = computed(() => every.filter((c) => c.key === 'title' || chosen.value.includes(c.key)))
const kindName = (k: string) => articleKinds.find((a) => a.value === k)?.label ?? k
</script>

<template>
  <details class="columns small">
    <summary class="faded">Columns</summary>
    <div class="panel box">
      <label v-for="c in every.slice(1)" :key="c.key">
        <input v-model="chosen" type="checkbox" :value="c.key" /> {{ c.label }}
      </label>
    </div>
  </details>
  <DataTable
    v-model:selected="selected"
    :columns="columns"
    :rows="rows"
    :at="at"
    :sort="sort"
    selectable
    :movable="movable"
    :named="(a) => a.title || a.reference"
    @sort="(by) => emit('sort', by)"
    @moved="(row, before) => emit('moved', row, before)"
  >
    <template #title="{ row: a }">
      <RouterLink :to="`/library/${a.reference}`" class="title">{{ a.title || 'Untitled' }}</RouterLink>
      <span class="faded small ref">{{ a.reference }}</span>
      <span v-if="withCategory" class="faded small in">{{ a.category }}</span>
    </template>
    <template #state="{ row: a }">
      {{ states[a.state] }}
      <span v-if="a.live && a.state !== 'published'" class="faded small in">an older text is live</span>
      <span v-if="a.interim" class="small in">interim</span>
    </template>
    <template #audience="{ row: a }">{{ audiences[a.audience] }}</template>
    <template #kind="{ row: a }">{{ kindName(a.kind) }}</template>
    <template #owner="{ row: a }">
      {{ a.owner }}<span v-if="a.owner_left" class="fault small in">has left</span>
    </template>
    <template #recheck="{ row: a }">
      <span :title="exact(a.recheck_on)">{{ day(a.recheck_on) }}</span>
      <span v-if="a.overdue" class="fault small in">overdue</span>
    </template>
    <template #written="{ row: a }">
      <span class="faded" :title="`${a.writer}, ${exact(a.written_at)}`">{{ ago(a.written_at) }}</span>
    </template>
    <template #languages="{ row: a }">
      <span v-for="l in a.languages.split(',').filter(Boolean)" :key="l" class="small in">
        {{ l.replace('!', '') }}<span v-if="l.endsWith('!')" class="fault"> behind</span>
      </span>
    </template>
    <template #outcomes="{ row: a }">
      <div class="bar"><OutcomeBar :counts="a.outcomes" counted /></div>
    </template>
  </DataTable>
</template>

<style scoped>
.columns {
  position: relative;
  text-align: right;
  margin-bottom: 0.2rem;
}
.columns summary {
  cursor: pointer;
}
.box {
  position: absolute;
  right: 0;
  z-index: 3;
  display: grid;
  gap: 0.2rem;
  text-align: left;
  padding: 0.6rem 0.9rem;
  white-space: nowrap;
}
.title {
  font-family: var(--text-face);
  color: var(--ink);
}
.title:hover {
  color: var(--rubric);
}
.in {
  display: block;
}
.ref {
  white-space: nowrap;
  margin-left: 0.45rem;
}
.bar {
  width: 7.5rem;
}
</style>
