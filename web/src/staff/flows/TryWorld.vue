<script setup lang="ts">
import type { Schemas } from '../../shared/api/client'
import { may } from '../session'
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
  { value: '', label: 'as it is then' },
  { value: 'free', label: 'free' },
  { value: 'busy', label: 'busy' },
  { value: 'away', label: 'nobody there' },
  { value: 'closed', label: 'closed' },
]
</script>

<template>
  <details class="world small">
    <summary>Who comes, and when</summary>
    <div class="fields">
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
      <template v-if="may('administer')">
        <label for="try-customer">As the customer</label>
        <input
          id="try-customer"
          type="email"
          :value="world.customer"
          placeholder="their address; nothing for one made up"
          maxlength="200"
          @change="(e) => set({ customer: (e.target as HTMLInputElement).value })"
        />
      </template>
      <template v-if="world.signed_in && !world.customer && words?.groups.length">
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
      <label for="try-at">At</label>
      <input
        id="try-at"
        type="datetime-local"
        :value="world.at"
        title="Nothing is now"
        @change="(e) => set({ at: (e.target as HTMLInputElement).value })"
      />
      <span id="try-site">In the help centre</span>
      <Choice
        :model-value="world.site ?? 0"
        small
        aria-labelledby="try-site"
        :options="[
          { value: 0, label: 'any' },
          ...(words?.sites ?? []).map((s) => ({ value: s.id, label: s.name })),
        ]"
        @chosen="(id) => set({ site: Number(id) })"
      />
      <label for="try-page">On the page</label>
      <input
        id="try-page"
        :value="world.page"
        placeholder="any"
        maxlength="200"
        @change="(e) => set({ page: (e.target as HTMLInputElement).value })"
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
    </div>
  </details>
</template>

<style scoped>
.world {
  margin-bottom: 0.7rem;
}
.fields {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 0.3rem 0.6rem;
  align-items: center;
  margin-top: 0.4rem;
}
.world input:not([type='checkbox']) {
  font: inherit;
  min-width: 0;
  padding: 0.05rem 0.4rem;
  border: 1px solid var(--rule);
  border-radius: 4px;
}
.world summary {
  cursor: pointer;
}
</style>
