<script setup lang="ts">
import { computed } from 'vue'
import { api, call } from '../../shared/api/client'
import { channels } from '../../shared/words'
import { useLoad } from '../shared/load'

/** What the figures, and the Ledger with them, are narrowed to; or what the Ledger alone is. */
const props = defineProps<{ query: Record<string, unknown>; ofLedger?: boolean }>()
const emit = defineEmits<{ set: [query: Record<string, string | undefined>] }>()

const channelChoices = Object.entries(channels).map(([value, name]) => ({ value, name }))
const { value: choices } = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/outcomes/choices')),
)
const fields = computed(() => (props.ofLedger ? inLedger.value : ofFigures.value))
const inLedger = computed(() => [
  { name: 'channel', label: 'Channel', options: channelChoices },
  { name: 'group', label: 'Customers of', options: choices.value?.groups ?? [] },
  { name: 'team', label: 'Team', options: choices.value?.teams ?? [] },
])
const ofFigures = computed(() => [
  { name: 'site', label: 'Help centre', options: choices.value?.sites ?? [] },
  { name: 'category', label: 'Category', options: choices.value?.categories ?? [] },
  { name: 'flow', label: 'Flow', options: choices.value?.flows ?? [] },
  { name: 'language', label: 'Language', options: choices.value?.languages ?? [] },
])
const chosen = (name: string) => String(props.query[name] ?? '')
</script>

<template>
  <form
    class="row small filters"
    :aria-label="ofLedger ? 'Narrow the Ledger' : 'Narrow down'"
    @submit.prevent
  >
    <template v-for="f in fields" :key="f.name">
      <label :for="`by-${f.name}`">{{ f.label }}</label>
      <select
        :id="`by-${f.name}`"
        :value="chosen(f.name)"
        @change="emit('set', { [f.name]: ($event.target as HTMLSelectElement).value || undefined })"
      >
        <option value="">all</option>
        <option v-for="o in f.options" :key="o.value" :value="o.value">{{ o.name }}</option>
      </select>
    </template>
  </form>
</template>

<style scoped>
.filters {
  margin: 0.2rem 0 0.8rem;
}
select {
  font: inherit;
  color: inherit;
  max-width: 9rem;
  padding: 0.1rem 0.3rem;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--leaf);
}
</style>
