<script setup lang="ts">
import { Button, Modal } from 'ant-design-vue'
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import type { Refused, Schemas } from '../../shared/api/client'
import { ago, exact, time } from '../../shared/format'
import { states } from '../../shared/words'
import { has } from '../session'
import EditionChooser from './EditionChooser.vue'

/** Above the text: its state, who is writing, saved when, and the one next step. */
const props = defineProps<{
  article: Schemas['Article']
  other?: Schemas['Holder']
  status: string
  savedAt: string
  fault?: Refused
  busy: boolean
}>()
type Step = 'submit' | 'recall' | 'publish' | 'withdraw'
const emit = defineEmits<{ move: [action: Step, done: string]; takeOver: []; changed: [] }>()
const router = useRouter()
const now = ref(Date.now())
useIntervalFn(() => (now.value = Date.now()), 20_000)
const may = (action: string) => props.article.allowed.includes(action)
const saying = computed(() => {
  switch (props.status) {
    case 'typing':
    case 'saving':
      return 'Saving…'
    case 'waiting':
      return 'No connection: your text is kept here and saved as soon as it is back.'
    case 'stale':
      return 'Not saved: somebody saved a newer text.'
    case 'held':
    case 'refused':
      return props.fault?.problem.detail ?? ''
  }
  return props.savedAt ? `Saved ${ago(props.savedAt, now.value)}` : ''
})

function withdraw() {
  Modal.confirm({
    title: 'Withdraw this article?',
    content: 'Customers no longer find it. The text stays, and can be published again.',
    okText: 'Withdraw it',
    onOk: () => emit('move', 'withdraw', 'Withdrawn'),
  })
}
</script>

<template>
  <div class="row spread crumbs small">
    <span>
      <RouterLink to="/library">Library</RouterLink> ›
      <RouterLink :to="{ path: '/library', query: { category: article.category.id } }">{{
        article.category.name
      }}</RouterLink>
      ›
      {{ article.reference }}
    </span>
    <EditionChooser :article="article" @changed="emit('changed')" />
  </div>
  <div class="bar leaf">
    <div>
      <strong>{{ states[article.state] }}</strong>
      <span class="faded">
        · <span :title="exact(article.written_at)">{{ article.writer.name }}</span>
        <template v-if="article.live_revision"> · revision {{ article.live_revision }} is live</template>
      </span>
      <span
        class="saying"
        :class="{ fault: ['stale', 'refused', 'waiting', 'held'].includes(status) }"
        role="status"
        >{{ saying }}</span
      >
    </div>
    <div class="row">
      <Button v-if="may('withdraw')" @click="withdraw">Withdraw</Button>
      <Button v-if="may('recall')" :loading="busy" @click="emit('move', 'recall', 'Taken back')"
        >Take back</Button
      >
      <Button
        v-if="may('approve') || may('send_back')"
        :type="may('publish') ? 'default' : 'primary'"
        @click="router.push(`/review/${article.reference}`)"
        >Review</Button
      >
      <Button
        v-if="may('publish')"
        type="primary"
        :loading="busy"
        @click="emit('move', 'publish', 'Published')"
        >Publish now</Button
      >
      <Button
        v-if="may('submit') && !other && status !== 'stale'"
        type="primary"
        :loading="busy"
        @click="emit('move', 'submit', 'Sent to review')"
        >Send to review</Button
      >
    </div>
  </div>
  <div v-if="other" class="leaf held row spread" role="status">
    <span>
      <strong>{{ other.name }}</strong> has been writing this since
      <span :title="exact(other.since)">{{ time(other.since) }}</span>. You read along as they save.
    </span>
    <Button v-if="has('publisher') && may('edit')" size="small" :loading="busy" @click="emit('takeOver')"
      >Take over</Button
    >
  </div>
</template>

<style scoped>
.crumbs {
  margin: 0 0 0.5rem;
}
.bar {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 1rem;
  padding: 0.55rem 0.9rem;
  margin-bottom: 0.8rem;
}
.saying {
  display: block;
  color: var(--faded);
  font-size: 0.9rem;
}
.saying.fault {
  color: var(--rubric);
}
.held {
  padding: 0.5rem 0.9rem;
  margin-bottom: 0.9rem;
  border-left: 3px solid var(--ochre);
}
</style>
