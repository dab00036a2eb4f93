<script setup lang="ts">
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Refused, Schemas } from '../../shared/api/client'
import About from '../library/About.vue'
import ArticleHistory from '../library/ArticleHistory.vue'
import Remarks from '../review/Remarks.vue'
import ArticleNotes from './ArticleNotes.vue'

/** What stands beside a text: what the checks say, what people said, what is known of it, what it was. */
const props = defineProps<{
  article: Schemas['Article']
  copy: Schemas['WorkingCopy'] // shared with the page: what is changed here is saved with the text
  checks?: Schemas['Checks']
  remarks?: { comments: Schemas['Comment'][]; feedback: Schemas['Feedback'][] }
  unanswered: number
  editable: boolean
  fault?: Refused
  drawn: number
  settle: () => Promise<void> // hands over what is typed and not saved yet
}>()
const emit = defineEmits<{ changed: []; checked: [] }>()
const copy = props.copy

const tabNames = ['notes', 'remarks', 'about', 'history'] as const
const route = useRoute()
const router = useRouter()
// The address says which tab is open, so that it can be shared and come back to.
const open = computed(() => tabNames.find((name) => name === route.query.margin) ?? 'notes')
const turnTo = (to: (typeof tabNames)[number]) =>
  router.replace({ query: { ...route.query, margin: to === 'notes' ? undefined : to } })
const numbered = (n?: number) => (n ? ` · ${n}` : '')
const tabs = computed(() => ({
  notes: `Notes${numbered(props.checks?.checks.length)}`,
  remarks: `Said${numbered(props.unanswered)}`,
  about: 'About',
  history: 'History',
}))

function addKeyword(word: string) {
  if (!copy.keywords.includes(word)) copy.keywords = [...copy.keywords, word]
}
</script>

<template>
  <div class="row tabs" role="tablist" aria-label="Margin">
    <button
      v-for="(label, name) in tabs"
      :id="`tab-${name}`"
      :key="name"
      type="button"
      role="tab"
      :aria-selected="open === name"
      aria-controls="tab"
      @click="turnTo(name)"
    >
      {{ label }}
    </button>
  </div>
  <div id="tab" role="tabpanel" :aria-labelledby="`tab-${open}`">
    <ArticleNotes
      v-if="open === 'notes' && checks"
      :reference="article.reference"
      :found="checks"
      :drawn="drawn"
      :editable="editable"
      @changed="emit('checked')"
      @keyword="addKeyword"
    />
    <Remarks
      v-if="open === 'remarks' && remarks"
      :article="article"
      :comments="remarks.comments"
      :feedback="remarks.feedback"
      :copy="copy"
      :editable="editable"
      :drawn="[drawn, article.version]"
      :settle="settle"
      @changed="emit('changed')"
    />
    <About
      v-if="open === 'about'"
      :article="article"
      :copy="copy"
      :editable="editable"
      :fault="fault"
      @changed="emit('changed')"
    />
    <ArticleHistory
      v-if="open === 'history'"
      :article="article"
      :editable="editable"
      @changed="emit('changed')"
    />
  </div>
</template>

<style scoped>
.tabs {
  gap: 1.1rem;
  margin-bottom: 0.9rem;
  border-bottom: 1px solid var(--rule);
}
.tabs button {
  font: inherit;
  color: var(--faded);
  background: none;
  border: 0;
  border-bottom: 2px solid transparent;
  padding: 0 0 0.35rem;
  cursor: pointer;
}
.tabs button[aria-selected='true'] {
  color: var(--rubric);
  border-color: var(--rubric);
}
</style>
