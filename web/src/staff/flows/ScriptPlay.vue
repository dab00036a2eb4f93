<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../shared/api/client'

/** A flow's script, read like a play: who speaks, what is said, where it leads. */
const props = defineProps<{ flow: Schemas['FlowView'] }>()

const verbs: Record<string, string> = {
  say: 'says',
  choose: 'offers choices',
  suggest: 'shows articles',
  look_up: 'looks up what the customer asks',
  hand_over: 'passes on to a person',
  request: 'takes a request',
  close: 'ends',
}

interface Line {
  when: string
  to: string
}

function lines(t: Schemas['Turn']): Line[] {
  const all: [string, string | undefined][] = [
    ['then', t.next],
    ['it helped', t.helped],
    ['it did not', t.not_helped],
    ['nothing to show', t.nothing],
    ['nobody is there', t.nobody],
  ]
  return all.flatMap(([when, to]) => (to ? [{ when, to }] : []))
}

const faults = computed(() => {
  const by: Record<string, string[]> = {}
  for (const f of props.flow.problems) (by[f.turn ?? ''] ??= []).push(f.message)
  return by
})
const script = computed(() => props.flow.script)
</script>

<template>
  <ol class="play">
    <li v-for="t in script.turns" :id="`turn-${t.id}`" :key="t.id" class="turn">
      <div class="name">
        <span class="id">{{ t.id }}</span>
        <span v-if="t.id === script.start" class="faded small">begins here</span>
        <span v-if="t.id === script.free_text" class="faded small">any free words lead here</span>
        <span v-if="t.id === script.person" class="faded small">who asks for a person comes here</span>
      </div>
      <div>
        <p class="stage">
          Bot {{ verbs[t.kind] ?? t.kind }}<template v-if="t.team">: {{ t.team }}</template>
        </p>
        <p class="said">{{ t.text }}</p>
        <ul v-if="t.articles?.length" class="plainlist branch">
          <li v-for="ref in t.articles" :key="ref">
            <RouterLink :to="`/library/${ref}`">{{ flow.titles[ref] ?? ref }}</RouterLink>
            <span class="faded small jump">{{ ref }}</span>
          </li>
        </ul>
        <ul v-if="t.options?.length" class="plainlist branch">
          <li v-for="o in t.options" :key="o.label">
            “{{ o.label }}” <a :href="`#turn-${o.next}`" class="jump">go to {{ o.next }}</a>
          </li>
        </ul>
        <ul class="plainlist branch">
          <li v-for="l in lines(t)" :key="l.when">
            <span class="faded">{{ l.when }}</span>
            <a :href="`#turn-${l.to}`" class="jump">go to {{ l.to }}</a>
          </li>
        </ul>
        <p v-for="f in faults[t.id] ?? []" :key="f" class="fault small">{{ f }}</p>
      </div>
    </li>
  </ol>
</template>

<style scoped>
.play {
  list-style: none;
  margin: 0;
  padding: 0;
  max-width: 46rem;
}
.turn {
  display: grid;
  grid-template-columns: 6.5rem minmax(0, 1fr);
  gap: 1rem;
  padding: 0.8rem 0;
  border-top: 1px solid var(--rule);
  scroll-margin-top: 1rem;
}
.turn:target {
  background: #f6efe1;
}
.name {
  display: grid;
  align-content: start;
}
.id {
  font-variant-caps: small-caps;
  letter-spacing: 0.04em;
  color: var(--rubric);
}
.stage {
  margin: 0;
  color: var(--faded);
  font-style: italic;
}
.said {
  margin: 0.1rem 0 0.3rem;
  font: 1.02rem/1.55 var(--text-face);
}
.branch {
  padding-left: 1.2rem;
}
.branch a {
  text-decoration: underline;
  text-underline-offset: 3px;
}
.jump {
  margin-left: 0.3rem;
}
</style>
