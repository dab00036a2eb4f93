<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { nextTick, ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { useAct } from '../shared/act'
import { sure } from '../shared/sure'

/** Conversations that the flow must go on having, and the one at hand to be kept as another. */
const props = defineProps<{
  slug: string
  trial: Schemas['FlowTrial']
  kept: Schemas['RehearsalLine'][]
  mayWrite: boolean
}>()
const emit = defineEmits<{ changed: []; play: [line: Schemas['RehearsalLine']] }>()
const { act, busy, refused } = useAct()
const path = (id: number) => ({ params: { path: { slug: props.slug, id } } })

const naming = ref(false)
const name = ref('')
const field = ref<HTMLInputElement>()
async function ask() {
  naming.value = true
  await nextTick()
  field.value?.focus()
}
async function keep() {
  const body = { name: name.value, trial: props.trial }
  const done = await act(
    () =>
      call(api.POST('/api/staff/flows/{slug}/rehearsals', { params: { path: { slug: props.slug } }, body })),
    'Kept: whoever publishes is told when it goes otherwise',
  )
  if (!done) return
  naming.value = false
  name.value = ''
  emit('changed')
}
async function accept(line: Schemas['RehearsalLine']) {
  const body = { source: props.trial.source }
  const done = await act(
    () => call(api.POST('/api/staff/flows/{slug}/rehearsals/{id}/accepted', { ...path(line.id), body })),
    `“${line.name}” should go so from now on`,
  )
  if (done) emit('changed')
}
function remove(line: Schemas['RehearsalLine']) {
  sure(`Remove “${line.name}”?`, 'Nobody is told any more when that conversation changes.', 'Remove it', () =>
    act(async () => {
      await call(api.DELETE('/api/staff/flows/{slug}/rehearsals/{id}', path(line.id)))
      emit('changed')
    }),
  )
}

const shown = ref<number>()
const signs: Record<string, string> = { added: '+', removed: '−', same: '' }
const more = (l: Schemas['ChangedLine']) =>
  [...(l.cards ?? []), ...(l.told ?? []), ...(l.choices ?? []), l.link].filter(Boolean).join(' · ')
</script>

<template>
  <section aria-labelledby="rehearsals">
    <h2 id="rehearsals">
      Rehearsals
      <span v-if="kept.length" class="faded small">{{ kept.length }}</span>
    </h2>
    <form v-if="naming" class="row" @submit.prevent="keep" @keydown.esc="naming = false">
      <input
        ref="field"
        v-model="name"
        aria-label="What the rehearsal is called"
        placeholder="What it is called"
        maxlength="120"
      />
      <Button size="small" html-type="submit" :loading="busy">Keep it</Button>
    </form>
    <p v-if="naming && refused" class="fault small" role="alert">
      {{ refused.field('name') ?? refused.field('customer') ?? refused.message }}
    </p>
    <button v-else-if="!naming && mayWrite" type="button" class="quiet" @click="ask">
      Keep the conversation above
    </button>
    <p v-if="!kept.length" class="faded small">
      Keep a conversation that must go on as it goes: if a change of the script changes it, the checks say so,
      and nothing is published until that is meant.
    </p>
    <ul class="plainlist">
      <li v-for="l in kept" :key="l.id" :class="{ otherwise: !l.same }">
        <span class="name">{{ l.name }}</span>
        <span class="small" :class="l.same ? 'faded' : 'goes'">{{
          l.same ? 'goes as kept' : 'goes otherwise'
        }}</span>
        <div class="row small deeds">
          <button type="button" class="quiet" @click="emit('play', l)">Play it</button>
          <button
            v-if="!l.same"
            type="button"
            class="quiet"
            :aria-expanded="shown === l.id"
            @click="shown = shown === l.id ? undefined : l.id"
          >
            What changed
          </button>
          <template v-if="mayWrite">
            <button v-if="!l.same" type="button" class="quiet" :disabled="busy" @click="accept(l)">
              It should go so
            </button>
            <button type="button" class="quiet" @click="remove(l)">Remove</button>
          </template>
          <a :href="`/api/staff/flows/${slug}/rehearsals/${l.id}`" :download="`${l.name}.json`"
            >Take it out</a
          >
        </div>
        <ol v-if="shown === l.id" class="plainlist lines" :aria-label="`How “${l.name}” goes now`">
          <li v-for="(x, i) in l.lines" :key="i" :class="[x.mark, x.speaker]">
            <span class="sign" aria-hidden="true">{{ signs[x.mark] }}</span>
            <span>
              <span v-if="x.mark !== 'same'" class="hidden">{{ x.mark }}: </span>{{ x.text }}
              <span v-if="more(x)" class="faded small">{{ more(x) }}</span>
            </span>
          </li>
        </ol>
      </li>
    </ul>
  </section>
</template>

<style scoped>
section {
  border-top: 1px solid var(--rule);
  margin-top: 1rem;
  padding-top: 0.6rem;
}
h2 {
  font: 600 1rem var(--face);
  margin: 0 0 0.3rem;
}
form input {
  flex: 1;
  min-width: 0;
  font: inherit;
  padding: 0.1rem 0.5rem;
  border: 1px solid var(--rule);
  border-radius: 4px;
}
ul > li {
  padding: 0.35rem 0 0.35rem 0.7rem;
  border-left: 3px solid var(--rule);
  margin-top: 0.5rem;
}
ul > li.otherwise {
  border-color: var(--rubric);
}
.name {
  display: block;
}
.goes {
  color: var(--rubric);
}
.deeds {
  gap: 0 0.8rem;
  flex-wrap: wrap;
}
.lines {
  margin-top: 0.4rem;
  font: 0.95rem/1.45 var(--text-face);
}
.lines li {
  display: grid;
  grid-template-columns: 1rem minmax(0, 1fr);
  white-space: pre-line;
}
.lines .customer {
  font-style: italic;
}
.lines .notice {
  color: var(--faded);
}
.lines .added {
  background: #e6f0ec;
}
.lines .removed {
  background: #f6e7e3;
}
.lines .removed .sign + span {
  text-decoration: line-through;
}
</style>
