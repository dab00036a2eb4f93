<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../shared/api/client'
import { percent } from '../../shared/format'

/** The headline as a range: proven, presumed on top of it, claimed on top of that. */
const props = defineProps<{ rates: Schemas['Rates']; small?: boolean }>()

const parts = computed(() => {
  const { proven, deflection, claimed } = props.rates
  return [
    {
      name: 'Proven',
      rate: proven,
      from: 0,
      to: proven.value,
      colour: 'verdigris',
      means: 'customers said so',
    },
    {
      name: 'Deflection',
      rate: deflection,
      from: proven.value,
      to: deflection.value,
      colour: 'moss',
      means: 'proven and presumed',
    },
    {
      name: 'Claimed',
      rate: claimed,
      from: deflection.value,
      to: claimed.value,
      colour: 'ash',
      means: 'everything that reached no person',
    },
  ]
})
const thin = computed(() => props.rates.deflection.thin)
</script>

<template>
  <div class="range" :class="{ thin, small }">
    <p v-if="!rates.deflection.of" class="faded">No question has settled yet in this time.</p>
    <template v-else>
      <div class="scale" aria-hidden="true">
        <span
          v-for="p in parts"
          :key="p.name"
          class="part"
          :style="{
            left: percent(p.from, 2).replace(' ', ''),
            width: percent(p.to - p.from, 2).replace(' ', ''),
            background: `var(--${p.colour})`,
          }"
        />
        <span
          class="interval"
          :style="{
            left: percent(rates.deflection.low, 2).replace(' ', ''),
            width: percent(rates.deflection.high - rates.deflection.low, 2).replace(' ', ''),
          }"
        />
      </div>
      <dl v-if="!small">
        <div v-for="p in parts" :key="p.name" :class="{ main: p.name === 'Deflection' }">
          <dt>
            <span class="swatch" :style="{ background: `var(--${p.colour})` }" aria-hidden="true" />{{
              p.name
            }}
          </dt>
          <dd>
            <strong>{{ percent(p.rate.value) }}</strong>
            <span class="faded" title="95 % Wilson score interval">
              {{ percent(p.rate.low) }} to {{ percent(p.rate.high) }}</span
            >
            <span class="faded what">{{ p.rate.count }} of {{ p.rate.of }} · {{ p.means }}</span>
          </dd>
        </div>
      </dl>
      <p v-if="thin" class="faded small">Fewer than 30 questions: too few to lean on.</p>
    </template>
  </div>
</template>

<style scoped>
.scale {
  position: relative;
  height: 26px;
  background: var(--leaf);
  border: 1px solid var(--rule);
  border-radius: 4px;
  overflow: hidden;
}
.small .scale {
  height: 14px;
}
.part {
  position: absolute;
  top: 0;
  bottom: 0;
}
.interval {
  position: absolute;
  top: 50%;
  height: 0;
  border-top: 2px solid var(--ink);
}
.thin .scale {
  opacity: 0.5;
}
dl {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 1rem;
  margin: 0.9rem 0 0;
}
dt {
  color: var(--faded);
}
.main dt {
  color: var(--ink);
  font-weight: 600;
}
dd {
  margin: 0;
}
dd strong {
  font: 600 1.5rem var(--text-face);
  margin-right: 0.4rem;
}
.main strong {
  font-size: 2rem;
}
.what {
  display: block;
}
.swatch {
  display: inline-block;
  width: 10px;
  height: 10px;
  margin-right: 0.4rem;
}
</style>
