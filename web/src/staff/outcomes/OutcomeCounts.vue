<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../shared/api/client'
import { counted, percent } from '../../shared/format'
import { channels, outcomes, setAside } from '../../shared/words'
import BesideHeadline from './BesideHeadline.vue'
import Standing from './Standing.vue'

/** What the share answered without a person is made of; each count opens into its questions. */
const props = defineProps<{ figures: Schemas['Figures'] }>()
const emit = defineEmits<{ show: [query: Record<string, string | undefined>] }>()
const moved = computed(() => {
  const m = props.figures.moved
  if (!m) return undefined
  const points = (x: number) => `${x >= 0 ? '+' : '−'}${Math.abs(100 * x).toFixed(1)}`
  return {
    value: points(m.value),
    range: `${points(m.low)} to ${points(m.high)}`,
    sure: m.low > 0 || m.high < 0,
  }
})
</script>

<template>
  <h2 class="first">{{ counted(figures.rates.deflection.of, 'settled question') }}</h2>
  <ul class="plainlist counts">
    <li v-for="o in outcomes" :key="o.name">
      <button type="button" :title="o.means" @click="emit('show', { outcome: o.name, settled: '1' })">
        <span class="mark" :style="{ color: `var(--${o.colour})` }" aria-hidden="true">{{ o.mark }}</span>
        <span>{{ o.word }}</span>
        <strong>{{ figures.counts[o.name] }}</strong>
      </button>
    </li>
  </ul>
  <h3>In no rate</h3>
  <ul class="plainlist counts">
    <li>
      <button
        type="button"
        title="Closed, but the customer may still come back"
        @click="emit('show', { settling: '1' })"
      >
        <span /><span>Settling</span><strong>{{ figures.counts.settling }}</strong>
      </button>
    </li>
    <li>
      <button type="button" title="Still going on" @click="emit('show', { outcome: 'open' })">
        <span /><span>Open</span><strong>{{ figures.counts.open }}</strong>
      </button>
    </li>
    <li v-for="(o, name) in setAside" :key="name">
      <button type="button" :title="o.means" @click="emit('show', { outcome: String(name) })">
        <span /><span>{{ o.word }}</span
        ><strong>{{ figures.counts[name as 'browsing'] }}</strong>
      </button>
    </li>
  </ul>
  <BesideHeadline :figures="figures" @show="(q) => emit('show', q)" />
  <template v-if="moved">
    <h3>Against the same time before</h3>
    <p>
      <strong>{{ moved.value }} points</strong>{{ ' '
      }}<span class="faded" title="Newcombe’s 95 % interval of the difference"> {{ moved.range }}</span>
      <span v-if="!moved.sure" class="faded block">That is within chance.</span>
    </p>
  </template>
  <h3>By where it happened</h3>
  <ul class="plainlist counts">
    <li v-for="c in figures.channels" :key="c.channel">
      <button
        type="button"
        :title="`${c.rates.deflection.count} of ${c.rates.deflection.of}, ${percent(c.rates.deflection.low)} to ${percent(c.rates.deflection.high)}`"
        @click="emit('show', { channel: c.channel, settled: '1' })"
      >
        <span /><span>{{ channels[c.channel] }}</span>
        <strong :class="{ faded: c.rates.deflection.thin }">{{
          c.rates.deflection.of ? percent(c.rates.deflection.value) : '–'
        }}</strong>
      </button>
    </li>
  </ul>
  <h3>How it is counted</h3>
  <p class="small faded">
    A question is everything one asker does with less than 30 minutes of silence between. It settles
    {{ figures.window_hours }} hours after closing; a contact within that time makes an answered question
    Returned. Ranges are 95 % Wilson score intervals, wider where the same askers come again.
  </p>
  <Standing :figures="figures" />
</template>

<style scoped>
.first {
  margin-top: 0;
}
.counts button {
  display: grid;
  grid-template-columns: 1.3rem 1fr auto;
  width: 100%;
  font: inherit;
  color: inherit;
  text-align: left;
  background: none;
  border: 0;
  padding: 0.12rem 0.2rem;
  cursor: pointer;
}
.counts button:hover {
  color: var(--rubric);
}
.block {
  display: block;
}
</style>
