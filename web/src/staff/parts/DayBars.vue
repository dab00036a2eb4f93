<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../shared/api/client'
import { day, percent } from '../../shared/format'
import { outcomes } from '../../shared/words'

/** The questions of each day by outcome; a day leads to its questions. */
const props = defineProps<{ days: Schemas['Day'][]; zone: string }>()
defineEmits<{ choose: [date: string] }>()

const sum = (c: Schemas['Counts']) => outcomes.reduce((n, o) => n + c[o.name], 0)
const most = computed(() => Math.max(1, ...props.days.map((d) => sum(d.counts) + sum(d.settling))))
const bars = computed(() =>
  props.days.map((d) => {
    const settled = sum(d.counts)
    const answered = d.counts.confirmed + d.counts.presumed
    return {
      date: d.begins.slice(0, 10),
      label: day(d.begins),
      settled,
      settling: sum(d.settling),
      rate: settled ? percent(answered / settled) : '',
      parts: outcomes.map((o) => ({ ...o, n: d.counts[o.name], open: d.settling[o.name] })),
    }
  }),
)
const height = (n: number) => `${(100 * n) / most.value}%`
</script>

<template>
  <div class="days">
    <button
      v-for="b in bars"
      :key="b.date"
      type="button"
      :title="`${b.label}: ${b.settled} settled, ${b.settling} settling`"
      @click="$emit('choose', b.date)"
    >
      <span class="stack" aria-hidden="true">
        <template v-for="p in [...b.parts].reverse()" :key="p.name">
          <span
            v-if="p.open"
            class="open"
            :style="{ height: height(p.open), background: `var(--${p.colour})` }"
          />
          <span v-if="p.n" :style="{ height: height(p.n), background: `var(--${p.colour})` }" />
        </template>
      </span>
      <span class="rate">{{ b.rate || '–' }}</span>
      <span class="faded date">{{ b.label }}</span>
    </button>
  </div>
</template>

<style scoped>
.days {
  display: flex;
  gap: 4px;
  overflow-x: auto;
}
button {
  flex: 1;
  min-width: 36px;
  display: grid;
  gap: 2px;
  justify-items: center;
  font: inherit;
  font-size: 0.82rem;
  color: var(--ink);
  background: none;
  border: 0;
  padding: 0 0 2px;
  cursor: pointer;
}
button:hover .date {
  color: var(--rubric);
}
.stack {
  display: flex;
  flex-direction: column;
  justify-content: flex-end;
  width: 100%;
  height: 110px;
}
.stack span {
  display: block;
}
.open {
  opacity: 0.4;
}
.date {
  white-space: nowrap;
}
</style>
