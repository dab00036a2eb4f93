<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../shared/api/client'
import { count, day, percent } from '../../shared/format'
import { outcomes } from '../../shared/words'

/** The questions of each day by outcome; a day leads to its questions. */
const props = defineProps<{ days: Schemas['Day'][]; zone: string }>()
defineEmits<{ choose: [date: string] }>()

const Tall = 110 // px of the tallest bar, and what is above it, as in the style below
const Above = 6

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
/** The marks of the scale: round numbers, up to the first that no day is above. */
const marks = computed(() => {
  const rough = most.value / 3
  const ten = 10 ** Math.floor(Math.log10(rough))
  const step = Math.max(1, [1, 2, 5, 10].map((m) => m * ten).find((s) => s >= rough) ?? 10 * ten)
  return Array.from({ length: Math.ceil(most.value / step) + 1 }, (_, i) => i * step)
})
const top = computed(() => marks.value.at(-1) ?? 1)
const height = (n: number) => `${(100 * n) / top.value}%`
</script>

<template>
  <div class="chart">
    <div class="scale" aria-hidden="true">
      <span v-for="m in marks" :key="m" class="mark" :style="{ bottom: height(m) }">{{ count(m) }}</span>
    </div>
    <div class="days">
      <span v-for="m in marks" :key="m" class="line" :style="{ top: `${Above + (1 - m / top) * Tall}px` }" />
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
  </div>
</template>

<style scoped>
.chart {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 0.4rem;
}
.scale {
  position: relative;
  width: 2.2rem;
  height: 110px;
  margin-top: 6px;
}
.mark {
  position: absolute;
  right: 0;
  transform: translateY(50%);
  font-size: 0.8rem;
  line-height: 1;
  color: var(--faded);
  font-variant-numeric: tabular-nums;
}
.days {
  position: relative;
  display: flex;
  gap: 4px;
  padding-top: 6px;
  overflow-x: auto;
}
.line {
  position: absolute;
  left: 0;
  right: 0;
  border-top: 1px solid var(--rule);
}
button {
  position: relative;
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
