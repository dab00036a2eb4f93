<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../shared/api/client'

/** What the checks say, in the order of the script. */
const props = defineProps<{ checked?: Schemas['Checked']; line: number }>()
const emit = defineEmits<{ go: [line: number]; show: [example: Schemas['CounterExample']] }>()
const words = computed(() => {
  const c = props.checked
  if (!c) return 'Checking…'
  if (!c.faults.length)
    return 'The checks find nothing wrong: everybody gets on, in every case that the script tells apart.'
  const n = (count: number, word: string) => `${count} ${word}${count === 1 ? '' : 's'}`
  return (
    [c.errors && n(c.errors, 'error'), c.warnings && n(c.warnings, 'warning')].filter(Boolean).join(' and ') +
    '.'
  )
})

/** Faults that say the same of several lines stand together. */
const groups = computed(() => {
  const list: { fault: Schemas['Fault']; lines: number[] }[] = []
  for (const f of props.checked?.faults ?? []) {
    const same = list.find((g) => g.fault.message === f.message && g.fault.level === f.level && !f.example)
    if (same) same.lines.push(f.line ?? 1)
    else list.push({ fault: f, lines: [f.line ?? 1] })
  }
  return list
})
</script>

<template>
  <p class="said" role="status">{{ words }}</p>
  <ul v-if="checked" class="plainlist">
    <li v-for="(g, i) in groups" :key="i" :class="[g.fault.level, { here: g.lines.includes(line) }]">
      <span class="level">{{ g.fault.level }}</span>
      <span class="at">
        {{ g.lines.length === 1 ? 'line' : 'lines' }}
        <template v-for="(n, k) in g.lines.slice(0, 40)" :key="n"
          >{{ k ? ', ' : ''
          }}<button type="button" class="quiet" :aria-label="`Go to line ${n}`" @click="emit('go', n)">
            {{ n }}
          </button></template
        >
      </span>
      <p>{{ g.fault.message }}</p>
      <button v-if="g.fault.example" type="button" class="quiet" @click="emit('show', g.fault.example)">
        Show that conversation
      </button>
    </li>
  </ul>
</template>

<style scoped>
.said {
  margin: 0 0 0.7rem;
}
li {
  border-left: 3px solid var(--ochre, #b07a10);
  padding: 0.35rem 0.7rem;
  margin-bottom: 0.6rem;
  background: var(--leaf);
}
li.error {
  border-color: var(--rubric);
}
li.here {
  background: #f6efe1;
}
li p {
  margin: 0.1rem 0;
}
.level {
  float: right;
  color: var(--faded);
  font-size: 0.85rem;
}
.error .level {
  color: var(--rubric);
  font-weight: 600;
}
.at {
  font-size: 0.9rem;
}
</style>
