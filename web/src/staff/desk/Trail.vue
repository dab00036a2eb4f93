<script setup lang="ts">
import { Input } from 'ant-design-vue'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, call } from '../../shared/api/client'
import { count, exact } from '../../shared/format'
import { states } from '../../shared/words'
import Choice from '../shared/Choice.vue'
import DataTable from '../shared/DataTable.vue'
import DateField from '../shared/DateField.vue'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import Pages from '../shared/Pages.vue'
import { useLoad } from '../shared/load'
import { deed } from '../shared/actions'

/** Who did what, when, from which state to which, with which note. */
const route = useRoute()
const router = useRouter()
const text = (name: string) => (route.query[name] ? String(route.query[name]) : '')
const query = computed(() => ({
  ...(text('article') ? { article: text('article') } : {}),
  ...(text('action') ? { action: text('action') } : {}),
  ...(text('words') ? { words: text('words') } : {}),
  ...(text('from') ? { from: text('from') } : {}),
  ...(text('to') ? { to: text('to') } : {}),
  ...(Number(text('category')) ? { category: Number(text('category')) } : {}),
  ...(Number(text('who')) ? { who: Number(text('who')) } : {}),
}))
const page = computed(() => Number(route.query.page) || 1)
const trail = useLoad(
  () => [query.value, page.value],
  () => call(api.GET('/api/staff/trail', { params: { query: { ...query.value, page: page.value } } })),
)
const actions = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/trail-actions')),
)
const people = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/people')),
  'people',
)
const categories = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/categories')),
  'categories',
)
const set = (change: Record<string, string | number>) =>
  router.push({
    query: Object.fromEntries(
      Object.entries({ ...query.value, ...change })
        .filter(([, v]) => v)
        .map(([k, v]) => [k, String(v)]),
    ),
  })
const file = computed(
  () =>
    '/api/staff/trail/file?' +
    new URLSearchParams(Object.entries(query.value).map(([k, v]) => [k, String(v)])).toString(),
)
const columns = [
  { key: 'at', label: 'When', narrow: true },
  { key: 'who', label: 'Who', narrow: true },
  { key: 'subject', label: 'What of', narrow: true },
  { key: 'action', label: 'Did' },
  { key: 'note', label: 'Note' },
]
const value = (e: Event) => (e.target as HTMLInputElement).value
</script>

<template>
  <Frame>
    <div class="row spread">
      <h1>The trail</h1>
      <a :href="file" download>Take it out as CSV</a>
    </div>
    <div class="row filters small" role="group" aria-label="Filters">
      <Input
        :value="text('article')"
        size="small"
        placeholder="A-0042"
        aria-label="Article"
        class="short"
        @change="(e: Event) => set({ article: value(e).trim().toUpperCase() })"
      />
      <Choice
        :model-value="Number(text('category'))"
        small
        aria-label="Category"
        :options="[
          { value: 0, label: 'Of any category' },
          ...(categories.value.value ?? []).map((c) => ({
            value: c.id,
            label: '\u2003'.repeat(c.depth - 1) + c.name,
          })),
        ]"
        @chosen="(v) => set({ category: v })"
      />
      <Choice
        :model-value="Number(text('who'))"
        small
        aria-label="Who"
        :options="[
          { value: 0, label: 'By anybody' },
          { value: -1, label: 'By the program' },
          ...(people.value.value ?? []).map((p) => ({ value: p.id, label: p.name })),
        ]"
        @chosen="(v) => set({ who: v })"
      />
      <Choice
        :model-value="text('action')"
        small
        aria-label="Action"
        :options="[
          { value: '', label: 'Whatever was done' },
          ...(actions.value.value ?? []).map((a) => ({ value: a, label: deed(a) })),
        ]"
        @chosen="(v) => set({ action: v })"
      />
      <label for="trail-from">from</label>
      <DateField id="trail-from" :model-value="text('from')" small @chosen="(d) => set({ from: d })" />
      <label for="trail-to">to</label>
      <DateField id="trail-to" :model-value="text('to')" small @chosen="(d) => set({ to: d })" />
      <Input
        :value="text('words')"
        size="small"
        placeholder="Words in the note"
        aria-label="Words in the note"
        class="words"
        @change="(e: Event) => set({ words: value(e) })"
      />
      <button
        v-if="Object.keys(query).length"
        type="button"
        class="quiet"
        @click="router.push({ query: {} })"
      >
        Show all again
      </button>
    </div>
    <Failed v-if="trail.error.value" :error="trail.error.value" @retry="trail.reload" />
    <template v-if="trail.value.value">
      <p v-if="!trail.value.value.total" class="empty">Nothing of this was done. Take a filter away.</p>
      <template v-else>
        <p class="small faded">{{ count(trail.value.value.total) }} lines; none can be changed.</p>
        <DataTable :columns="columns" :rows="trail.value.value.items">
          <template #at="{ row }"
            ><span class="small">{{ exact(row.at) }}</span></template
          >
          <template #who="{ row }">{{ row.who }}</template>
          <template #subject="{ row }">
            <RouterLink v-if="/^A-\d/.test(row.subject)" :to="`/library/${row.subject}`">{{
              row.subject
            }}</RouterLink>
            <template v-else>{{ row.subject }}</template>
          </template>
          <template #action="{ row }">
            {{ deed(row.action) }}
            <span v-if="row.from && row.to && row.from !== row.to" class="faded small"
              >{{ states[row.from] ?? row.from }} → {{ states[row.to] ?? row.to }}</span
            >
          </template>
          <template #note="{ row }"
            ><span class="small said">{{ row.note }}</span></template
          >
        </DataTable>
        <Pages :page="page" :total="trail.value.value.total" @page="(p) => set({ page: p })" />
      </template>
    </template>
  </Frame>
</template>

<style scoped>
.filters {
  gap: 0.35rem 0.5rem;
  margin-bottom: 0.6rem;
}
.short {
  width: 6rem;
}
.words {
  width: 11rem;
}
.said {
  overflow-wrap: anywhere;
}
.pages {
  margin-top: 0.8rem;
}
</style>
