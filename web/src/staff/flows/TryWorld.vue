<script setup lang="ts">
import type { Schemas } from '../../shared/api/client'
import Choice from '../shared/Choice.vue'

/** Who comes in a trial, and when. */
defineProps<{ words?: Schemas['FlowWords'] }>()
const world = defineModel<Schemas['ExampleWorld']>({ required: true })
const set = (more: Partial<Schemas['ExampleWorld']>) => (world.value = { ...world.value, ...more })
function setGroup(key: string, is: boolean) {
  const others = (world.value.groups ?? []).filter((g) => g !== key)
  set({ groups: is ? [...others, key] : others })
}
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
    <template v-if="world.signed_in && words?.groups.length">
      <span id="try-groups">In the groups</span>
      <div role="group" aria-labelledby="try-groups">
        <label v-for="g in words.groups" :key="g.key">
          <input
            type="checkbox"
            :checked="world.groups?.includes(g.key)"
            @change="(e) => setGroup(g.key, (e.target as HTMLInputElement).checked)"
          />
          {{ g.name }}
        </label>
      </div>
    </template>
    <span id="try-language">Reads</span>
    <Choice
      :model-value="world.language ?? ''"
      small
      aria-labelledby="try-language"
      :options="[
        { value: '', label: 'the language of the script' },
        ...(words?.languages ?? []).map((l) => ({ value: l, label: l })),
      ]"
      @chosen="(l) => set({ language: String(l) })"
    />
    <template v-for="t in words?.teams ?? []" :key="t">
      <span :id="`try-${t}`">{{ t }}</span>
      <Choice
        :model-value="team(t)"
        small
        :aria-labelledby="`try-${t}`"
        :options="states"
        @chosen="(s) => setTeam(t, String(s))"
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
