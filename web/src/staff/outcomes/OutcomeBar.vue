<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../shared/api/client'
import { outcomes } from '../../shared/words'

/** How the questions that ended with something turned out, as one small bar. */
const props = defineProps<{ counts: Schemas['Counts']; counted?: boolean }>()
const total = computed(() => outcomes.reduce((n, o) => n + props.counts[o.name], 0))
const label = computed(() =>
  total.value
    ? outcomes
        .filter((o) => props.counts[o.name])
        .map((o) => `${props.counts[o.name]} ${o.word.toLowerCase()}`)
        .join(', ')
    : 'no questions yet',
)
</script>

<template>
  <span class="whole">
    <span class="bar" role="img" :aria-label="label" :title="label">
      <span v-if="!total" class="none" />
      <template v-for="o in outcomes" :key="o.name">
        <span v-if="counts[o.name]" :style="{ flexGrow: counts[o.name], background: `var(--${o.colour})` }" />
      </template>
    </span>
    <span v-if="counted" class="faded small n">{{ total || '' }}</span>
  </span>
</template>

<style scoped>
.whole {
  display: flex;
  align-items: center;
  gap: 0.5rem;
}
.n {
  flex: 0 0 2rem;
  text-align: right;
}
.bar {
  display: flex;
  gap: 1px;
  width: 100%;
  min-width: 60px;
  height: 9px;
  vertical-align: middle;
}
.none {
  flex: 1;
  border-bottom: 1px solid var(--rule);
}
</style>
