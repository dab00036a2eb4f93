<script setup lang="ts">
import { computed } from 'vue'
import { api, call } from '../../shared/api/client'
import { states } from '../../shared/words'
import { who } from '../session'
import { audiences } from '../customers/audiences'
import { articleKinds } from './kinds'
import type { Filter } from './filter'
import { useLoad } from '../shared/load'
import Choice from '../shared/Choice.vue'

/** Which articles a list shows. Any combination stands in the address. */
const props = defineProps<{ filter: Filter; total: number }>()
const emit = defineEmits<{ set: [change: Filter] }>()
const people = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/people')),
  'people',
)
const sites = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/sites')),
  'sites',
)
const owners = computed(() => [
  { value: 0, label: 'Of any owner' },
  ...(people.value.value ?? [])
    .map((p) => ({
      value: p.id,
      label: p.id === who.value?.id ? 'Mine' : p.name + (p.disabled ? ' (has left)' : ''),
    }))
    .sort((a, b) => Number(b.label === 'Mine') - Number(a.label === 'Mine')),
])
const flags = [
  { key: 'overdue', label: 'Overdue' },
  { key: 'behind', label: 'Edition behind' },
  { key: 'interim', label: 'Interim' },
  { key: 'unlinked', label: 'Unlinked' },
  { key: 'unopened', label: 'Never opened' },
  { key: 'left', label: 'Owner has left' },
  { key: 'feedback', label: 'Reader waits' },
  { key: 'dead', label: 'Dead link' },
] as const
const any = (label: string, words: Record<string, string>) => [
  { value: '', label },
  ...Object.entries(words).map(([value, text]) => ({ value, label: text })),
]
const used = computed(() => Object.keys(props.filter).some((k) => k !== 'category' && k !== 'sort'))
const clear: Filter = {
  state: undefined,
  owner: undefined,
  kind: undefined,
  audience: undefined,
  site: undefined,
  words: undefined,
  overdue: undefined,
  behind: undefined,
  interim: undefined,
  unlinked: undefined,
  unopened: undefined,
  left: undefined,
  feedback: undefined,
  dead: undefined,
  live: undefined,
  language: undefined,
}
</script>

<template>
  <div class="row filters small" role="group" aria-label="Filters">
    <Choice
      :model-value="filter.state ?? ''"
      :options="any('In any state', states)"
      small
      aria-label="State"
      @chosen="(v) => emit('set', { state: (v || undefined) as Filter['state'] })"
    />
    <Choice
      :model-value="filter.owner ?? 0"
      :options="owners"
      small
      aria-label="Owner"
      @chosen="(v) => emit('set', { owner: v || undefined })"
    />
    <Choice
      :model-value="filter.audience ?? ''"
      :options="any('For any audience', audiences)"
      small
      aria-label="Audience"
      @chosen="(v) => emit('set', { audience: (v || undefined) as Filter['audience'] })"
    />
    <Choice
      :model-value="filter.kind ?? ''"
      :options="[{ value: '', label: 'Of any kind' }, ...articleKinds]"
      small
      aria-label="Kind"
      @chosen="(v) => emit('set', { kind: v || undefined })"
    />
    <Choice
      v-if="(sites.value.value?.length ?? 0) > 1"
      :model-value="filter.site ?? 0"
      :options="[
        { value: 0, label: 'In any help centre' },
        ...(sites.value.value ?? []).map((s) => ({ value: s.id, label: s.name })),
      ]"
      small
      aria-label="Help centre"
      @chosen="(v) => emit('set', { site: v || undefined })"
    />
    <button
      v-for="f in flags"
      :key="f.key"
      type="button"
      class="flag"
      :aria-pressed="!!filter[f.key]"
      @click="emit('set', { [f.key]: filter[f.key] ? undefined : true })"
    >
      {{ f.label }}
    </button>
    <button v-if="used" type="button" class="quiet" @click="emit('set', clear)">Show all again</button>
  </div>
</template>

<style scoped>
.filters {
  gap: 0.35rem 0.5rem;
  margin-bottom: 0.6rem;
}
.flag {
  font: inherit;
  color: var(--faded);
  background: none;
  border: 1px solid var(--rule);
  border-radius: 4px;
  padding: 0 0.5rem;
  height: 26px;
  cursor: pointer;
}
.flag:hover {
  color: var(--rubric);
}
.flag[aria-pressed='true'] {
  color: var(--rubric);
  border-color: var(--rubric);
  background: #f8ece6;
}
</style>
