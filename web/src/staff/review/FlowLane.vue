<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../shared/api/client'
import { ago, exact } from '../../shared/format'
import { states } from '../../shared/words'

/** The flows on their way through review. */
const props = defineProps<{ flows: Schemas['FlowWaits'][] }>()
const mine = computed(() => props.flows.filter((f) => f.mine && f.state !== 'sent_back').length)
</script>

<template>
  <section aria-label="Flows">
    <h2>
      Flows <span class="faded">{{ flows.length }}</span>
      <span v-if="mine" class="small yours">{{ mine }} for you</span>
    </h2>
    <ul class="lane plainlist">
      <li v-for="f in flows" :key="f.slug" :class="{ mine: f.mine }">
        <span>
          <RouterLink :to="`/flows/${f.slug}`" class="title">{{ f.name }}</RouterLink>
          <span class="faded small">
            {{ f.writer }} · {{ f.gate ? `before the gate “${f.gate}”, for ${f.who}` : states[f.state] }}
          </span>
        </span>
        <span v-if="f.since" class="faded small" :title="exact(f.since)">{{ ago(f.since) }}</span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.lane {
  background: var(--leaf);
  border: 1px solid var(--rule);
  border-radius: 4px;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 1rem;
  padding: 0.45rem 0.9rem;
  border-top: 1px solid var(--rule);
  border-left: 3px solid transparent;
}
li:first-child {
  border-top: 0;
}
li.mine {
  border-left-color: var(--rubric);
}
.title {
  display: block;
  font-family: var(--text-face);
}
.yours {
  color: var(--rubric);
  font: 0.9rem var(--face);
  margin-left: 0.5rem;
}
</style>
