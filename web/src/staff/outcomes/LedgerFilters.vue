<script setup lang="ts">
import { computed } from 'vue'
import { api, call } from '../../shared/api/client'
import { useLoad } from '../shared/load'

/** What the figures, and the Ledger with them, are narrowed to. */
const props = defineProps<{ query: Record<string, unknown> }>()
const emit = defineEmits<{ set: [query: Record<string, string | undefined>] }>()

const { value: choices } = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/outcomes/choices')),
)
const fields = computed(() => [
  { name: 'site', label: 'Help centre', options: choices.value?.sites ?? [] },
  { name: 'category', label: 'Category', options: choices.value?.categories ?? [] },
  { name: 'flow', label: 'Flow', options: choices.value?.flows ?? [] },
  { name: 'language', label: 'Language', options: choices.value?.languages ?? [] },
])
const chosen = (name: string) => String(props.query[name] ?? '')
</script>

<template>
  <form class="row small filters" aria-label="Narrow down" @submit.prevent>
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
