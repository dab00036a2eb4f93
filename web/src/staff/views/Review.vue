<script setup lang="ts">
import { computed } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { ago, exact } from '../../shared/format'
import Failed from '../parts/Failed.vue'
import Frame from '../parts/Frame.vue'
import { who } from '../session'
import { useFresh, useLoad } from '../use/load'

const lane = (state: 'in_review' | 'approved' | 'sent_back') =>
  call(api.GET('/api/staff/articles', { params: { query: { state } } })).then((l) => l.items)

const {
  value: lanes,
  error,
  reload,
} = useLoad(
  () => who.value?.id,
  async () => {
    const [review, approved, back] = await Promise.all([
      lane('in_review'),
      lane('approved'),
      lane('sent_back'),
    ])
    return [
      {
        name: 'Waiting for a reviewer',
        items: review,
        to: '/review/',
        none: 'No text waits for a reviewer.',
      },
      {
        name: 'Waiting for a publisher',
        items: approved,
        to: '/review/',
        none: 'No approved text waits to be published.',
      },
      {
        name: 'Sent back to the writer',
        items: back,
        to: '/library/',
        none: 'Nothing is with a writer to be mended.',
      },
    ]
  },
)
useFresh(reload)
const own = computed(() => who.value?.name)
const mineLast = (items: Schemas['ArticleLine'][]) =>
  [...items].sort(
    (a, b) =>
      Number(a.writer === own.value) - Number(b.writer === own.value) ||
      (a.submitted_at ?? '').localeCompare(b.submitted_at ?? ''),
  )
</script>

<template>
  <Frame>
    <h1>Review</h1>
    <Failed v-if="error" :error="error" @retry="reload" />
    <div v-if="lanes" class="lanes">
      <section v-for="l in lanes" :key="l.name" :aria-label="l.name">
        <h2>
          {{ l.name }} <span class="faded">{{ l.items.length }}</span>
        </h2>
        <p v-if="!l.items.length" class="empty">{{ l.none }}</p>
        <ul class="plainlist">
          <li v-for="a in mineLast(l.items)" :key="a.reference" class="leaf">
            <RouterLink :to="l.to + a.reference" class="title">{{ a.title }}</RouterLink>
            <span class="faded small">
              {{ a.reference }} · {{ a.category }} · {{ a.writer === own ? 'written by you' : a.writer }}
              <template v-if="a.submitted_at">
                · <span :title="exact(a.submitted_at)">{{ ago(a.submitted_at) }}</span>
              </template>
            </span>
            <span v-if="a.decision_note && a.state === 'sent_back'" class="small"
              >“{{ a.decision_note }}”</span
            >
          </li>
        </ul>
      </section>
    </div>
  </Frame>
</template>

<style scoped>
.lanes {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 1.5rem;
}
li {
  display: grid;
  gap: 0.2rem;
  padding: 0.65rem 0.9rem;
  margin-bottom: 0.6rem;
}
.title {
  font-family: var(--text-face);
}
</style>
