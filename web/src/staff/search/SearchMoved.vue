<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../shared/api/client'
import { counted } from '../../shared/format'

/** Three figures of a search's quality beside those before, and which questions moved. */
const props = defineProps<{ quality: Schemas['SearchQuality']; trial?: boolean }>()

const figures = computed(() => {
  const { now, change } = props.quality
  return [
    {
      name: 'MRR@10',
      now: now.mrr10,
      change: change?.mrr10,
      means: 'mean of 1 / place of the first right answer, of ten',
    },
    {
      name: 'nDCG@10',
      now: now.ndcg10,
      change: change?.ndcg10,
      means: 'gain of ten places against the best order',
    },
    {
      name: 'Recall@3',
      now: now.recall3,
      change: change?.recall3,
      means: 'right answers among the first three',
    },
  ]
})
const groups = computed(() => [
  { name: 'Worse', list: props.quality.moved.filter((m) => m.worse) },
  { name: 'Better', list: props.quality.moved.filter((m) => !m.worse) },
])
const place = (n: number) => (n ? `place ${n}` : 'not among ten')
const signed = (n: number) => (n > 0 ? '+' : n < 0 ? '−' : '±') + Math.abs(n).toFixed(3)
</script>

<template>
  <p v-if="!quality.now.queries" class="empty">No question is judged yet, so nothing can be measured.</p>
  <template v-else>
    <dl class="figures">
      <div v-for="f in figures" :key="f.name" :title="f.means">
        <dt class="small faded">{{ f.name }}</dt>
        <dd>
          <strong>{{ f.now.toFixed(3) }}</strong>
          <span v-if="f.change != null" class="small faded delta">{{ signed(f.change) }}</span>
        </dd>
      </div>
    </dl>
    <p class="small faded">
      Of {{ counted(quality.now.queries, 'judged question') }}: {{ quality.parts.first }} answered in the
      first place, {{ quality.parts.three }} in the second or third, {{ quality.parts.ten }} further down,
      {{ quality.parts.none }} not among ten.
    </p>
    <p v-if="(trial || quality.before) && !quality.moved.length" class="small">
      No question changes its place.
    </p>
    <template v-for="g in groups" :key="g.name">
      <template v-if="g.list.length">
        <h4>{{ g.name }} ({{ g.list.length }})</h4>
        <ul class="plainlist small">
          <li v-for="m in g.list.slice(0, 12)" :key="m.question">
            “{{ m.question }}”: {{ place(m.before) }} → {{ place(m.now) }}
          </li>
          <li v-if="g.list.length > 12" class="faded">and {{ g.list.length - 12 }} more</li>
        </ul>
      </template>
    </template>
  </template>
</template>

<style scoped>
.figures {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem 1.6rem;
  margin: 0 0 0.4rem;
  font-variant-numeric: tabular-nums;
}
dd {
  margin: 0;
}
dd strong {
  font-size: 1.25rem;
}
.delta {
  margin-left: 0.4rem;
}
h4 {
  margin: 0.6rem 0 0.2rem;
}
</style>
