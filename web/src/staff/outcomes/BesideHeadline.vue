<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../shared/api/client'
import { percent } from '../../shared/format'

/** What stands beside the headline, so that it is not taken for more than it is; each opens into its questions. */
const props = defineProps<{ figures: Schemas['Figures'] }>()
const emit = defineEmits<{ show: [query: Record<string, string | undefined>] }>()

const lines = computed(() => {
  const b = props.figures.beside
  return [
    {
      word: 'Without those who asked again',
      share: b.asked_again,
      means:
        'Answered without a person, leaving out who began another question with the same article offered',
      show: { again: '1', settled: '1' },
    },
    {
      word: 'The least it can be',
      share: b.lowest,
      means: 'If every contact that left no trace of looking first had looked, and found an answer before',
      show: { traced: 'no', settled: '1' },
    },
    {
      word: 'Per need',
      share: b.needs,
      means: 'A question that returned and the contact it returned in are one need',
      show: { outcome: 'returned', settled: '1' },
    },
    {
      word: 'Needs that reached a person',
      share: b.need_person,
      means: 'Contacts, of all needs',
      show: { outcome: 'person', settled: '1' },
    },
    {
      word: 'Contacts that looked first',
      share: b.linkable,
      means:
        'How much of what comes back can be seen at all: contacts of askers who looked for an answer before',
      show: { traced: 'yes', settled: '1' },
    },
    {
      word: 'Unseen',
      share: b.unseen,
      means: 'Of all that was asked, what nobody was seen to look at',
      show: { outcome: 'unseen' },
    },
    {
      word: 'Unlikely',
      share: b.unlikely,
      means: 'Of all that was asked, what came from too many new askers of one network',
      show: { outcome: 'unlikely' },
    },
    {
      word: 'Not followed',
      share: b.not_followed,
      means: 'Of the settled questions, those of people who declined to be known from page to page',
      show: { followed: 'no', settled: '1' },
    },
    {
      word: 'Without those not followed',
      share: b.followed,
      means: 'Answered without a person, of the others',
      show: { followed: 'yes', settled: '1' },
    },
  ]
})
</script>

<template>
  <h3>Beside the headline</h3>
  <ul class="plainlist counts">
    <li v-for="l in lines" :key="l.word">
      <button
        type="button"
        :title="`${l.means}: ${l.share.count} of ${l.share.of}, ${percent(l.share.low)} to ${percent(l.share.high)}`"
        @click="emit('show', l.show)"
      >
        <span>{{ l.word }}</span>
        <strong :class="{ faded: l.share.thin }">{{ l.share.of ? percent(l.share.value) : '–' }}</strong>
      </button>
    </li>
  </ul>
</template>

<style scoped>
.counts button {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0.6rem;
  width: 100%;
  font: inherit;
  color: inherit;
  text-align: left;
  background: none;
  border: 0;
  padding: 0.12rem 0.2rem 0.12rem 1.5rem;
  cursor: pointer;
}
.counts button:hover {
  color: var(--rubric);
}
</style>
