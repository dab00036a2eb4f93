<script setup lang="ts">
import { Select } from 'ant-design-vue'
import type { Schemas } from '../../shared/api/client'

/** Who comes in a trial, and when. */
defineProps<{ words?: Schemas['FlowWords'] }>()
const world = defineModel<Schemas['ExampleWorld']>({ required: true })
const set = (more: Partial<Schemas['ExampleWorld']>) => (world.value = { ...world.value, ...more })
const team = (name: string) => world.value.teams?.[name] ?? ''
function setTeam(name: string, state: string) {
  const others = Object.entries(world.value.teams ?? {}).filter(([team]) => team !== name)
  set({ teams: Object.fromEntries(state ? [...others, [name, state]] : others) })
}
const states = [
  { value: '', label: 'as it is now' },
  { value: 'free', label: 'free' },
  { value: 'busy', label: 'busy' },
  { value: 'away', label: 'nobody there' },
  { value: 'closed', label: 'closed' },
]
</script>

<template>
  <details class="world small">
    <summary>Who comes, and when</summary>
    <label>
      <input
        type="checkbox"
        :checked="world.signed_in"
        @change="(e) => set({ signed_in: (e.target as HTMLInputElement).checked })"
      />
      signed in
    </label>
    <label>
      <input
        type="checkbox"
        :checked="world.closed"
        @change="(e) => set({ closed: (e.target as HTMLInputElement).checked })"
      />
      while we are closed
    </label>
    <template v-if="world.signed_in && words?.keys.length">
      <span id="try-groups">In the groups</span>
      <Select
        :value="world.groups ?? []"
        mode="multiple"
        size="small"
        aria-labelledby="try-groups"
        :options="words.keys.map((k, i) => ({ value: k, label: words?.groups[i]?.name ?? k }))"
        @change="(g) => set({ groups: g as string[] })"
      />
    </template>
    <span id="try-language">Reads</span>
    <Select
      :value="world.language"
      size="small"
      aria-labelledby="try-language"
      :options="[
        { value: '', label: 'the language of the script' },
        ...(words?.languages ?? []).map((l) => ({ value: l, label: l })),
      ]"
      @change="(l) => set({ language: String(l) })"
    />
    <template v-for="t in words?.teams ?? []" :key="t">
      <span :id="`try-${t}`">{{ t }}</span>
      <Select
        :value="team(t)"
        size="small"
        :aria-labelledby="`try-${t}`"
        :options="states"
        @change="(s) => setTeam(t, String(s))"
      />
    </template>
  </details>
</template>

<style scoped>
.world {
  margin-bottom: 0.7rem;
}
.world[open] {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.3rem 0.6rem;
  align-items: center;
}
.world summary {
  grid-column: 1 / -1;
  cursor: pointer;
}
</style>
