<script setup lang="ts">
import type { Schemas } from './api/client'
import ToldAnswer from './ToldAnswer.vue'
import { exact, kilobytes, time } from './format'

/** The messages of a conversation, as the customer or an agent reads them. */
defineProps<{
  messages: Schemas['ChatMessage'][]
  side: 'agent' | 'customer'
  filesAt: string // where this reader fetches files
}>()
const emit = defineEmits<{ open: [reference: string]; read: [message: number, seconds: number] }>()

const names: Record<string, string> = { customer: 'Customer', bot: 'Bot', agent: 'Agent', notice: '' }

/** What is shown besides what is told of it. */
const cards = (m: Schemas['ChatMessage']) =>
  m.cards.filter((c) => !m.told?.passages.some((p) => p.reference === c.reference))

function speaker(m: Schemas['ChatMessage'], side: string) {
  if (m.speaker === 'customer' && side === 'customer') return 'You'
  return m.name || names[m.speaker]
}
</script>

<template>
  <ol class="talk">
    <li v-for="m in messages" :key="m.id" :class="m.speaker">
      <p v-if="m.speaker !== 'notice'" class="who">
        {{ speaker(m, side) }} <time :datetime="m.at" :title="exact(m.at)">{{ time(m.at) }}</time>
      </p>
      <p v-if="m.text" class="said">{{ m.text }}</p>
      <ToldAnswer
        v-if="m.told"
        :told="m.told"
        @open="(reference) => emit('open', reference)"
        @read="(seconds) => emit('read', m.id, seconds)"
      />
      <p v-if="m.link?.url" class="file">
        <a :href="m.link.url" target="_blank" rel="noopener">{{ m.link.url }}</a>
      </p>
      <p v-for="f in m.files" :key="f.id" class="file">
        <a :href="`${filesAt}/${f.id}`" download>{{ f.name }}</a>
        <span class="who size">{{ kilobytes(f.size) }}</span>
      </p>
      <ul v-if="cards(m).length" class="cards">
        <li v-for="(card, i) in cards(m)" :key="i">
          <p v-if="!card.reference" class="who">An article that is not open to you any more</p>
          <button v-else type="button" @click="emit('open', card.reference)">
            <strong>{{ card.title }}</strong>
            <span>{{ card.summary }}</span>
          </button>
        </li>
      </ul>
    </li>
  </ol>
</template>

<style scoped>
.talk,
.cards {
  list-style: none;
  margin: 0;
  padding: 0;
}
.talk > li {
  max-width: 34rem;
  margin: 0 0 0.9rem;
  padding-left: 0.8rem;
  border-left: 3px solid var(--rule);
}
.talk > li.customer {
  border-color: var(--ink);
}
.talk > li.agent {
  border-color: var(--rubric);
}
.talk > li.notice {
  border: 0;
  padding: 0;
  color: var(--faded);
  font-style: italic;
}
p {
  margin: 0;
}
.size {
  margin-left: 0.4rem;
}
.who {
  color: var(--faded);
  font-size: 0.85em;
}
.said {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.cards {
  margin-top: 0.4rem;
  display: grid;
  gap: 0.4rem;
}
.cards button {
  display: grid;
  width: 100%;
  text-align: left;
  gap: 0.15rem;
  font: inherit;
  color: inherit;
  background: var(--leaf);
  border: 1px solid var(--rule);
  border-radius: 4px;
  padding: 0.55rem 0.7rem;
  cursor: pointer;
}
.cards strong {
  font-family: var(--text-face);
  font-weight: 600;
}
.cards span {
  color: var(--faded);
  font-size: 0.9em;
}
.cards button:hover,
.cards button:focus-visible {
  border-color: var(--brand, var(--rubric));
}
</style>
