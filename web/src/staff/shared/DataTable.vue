<script setup lang="ts" generic="R extends { id: number }">
import { ref, watch } from 'vue'

/** A table of rows: sorted by its headings, selected by boxes, moved through by keys. */
export interface Column {
  key: string
  label: string
  sort?: string // what the server sorts by
  narrow?: boolean
}
const props = defineProps<{
  columns: Column[]
  rows: R[]
  sort?: string
  at?: number
  selectable?: boolean
  named?: (row: R) => string
  movable?: boolean
}>()
const selected = defineModel<number[]>('selected', { default: () => [] })
const emit = defineEmits<{ sort: [by: string]; moved: [row: R, before: R] }>()

// What fits on a screen is drawn first, the rest a frame later.
const AtOnce = 16
const drawn = ref(AtOnce)
watch(
  () => props.rows,
  (now, before) => {
    if (now.length <= AtOnce || before?.length) drawn.value = now.length
    else requestAnimationFrame(() => requestAnimationFrame(() => (drawn.value = props.rows.length)))
  },
  { immediate: true },
)

const all = () => props.rows.length > 0 && props.rows.every((r) => selected.value.includes(r.id))
function toggleAll() {
  const here = props.rows.map((r) => r.id)
  selected.value = all()
    ? selected.value.filter((id) => !here.includes(id))
    : [...new Set([...selected.value, ...here])]
}
let last = -1
function toggle(i: number, event: MouseEvent) {
  const row = props.rows[i]
  if (!row) return
  const on = !selected.value.includes(row.id)
  // With Shift everything between this box and the one before it follows.
  const [from, to] = event.shiftKey && last >= 0 ? [Math.min(last, i), Math.max(last, i)] : [i, i]
  const ids = props.rows.slice(from, to + 1).map((r) => r.id)
  selected.value = on
    ? [...new Set([...selected.value, ...ids])]
    : selected.value.filter((id) => !ids.includes(id))
  last = i
}
function order(c: Column) {
  if (c.sort) emit('sort', props.sort === c.sort ? '-' + c.sort : c.sort)
}
const sorted = (c: Column) =>
  !c.sort || props.sort?.replace('-', '') !== c.sort
    ? undefined
    : props.sort.startsWith('-')
      ? 'descending'
      : 'ascending'

const arrow = (c: Column) => (sorted(c) === 'ascending' ? ' ↑' : sorted(c) === 'descending' ? ' ↓' : '')

let dragged: R | undefined
function drop(before: R) {
  if (dragged && dragged.id !== before.id) emit('moved', dragged, before)
  dragged = undefined
}
</script>

<template>
  <table class="data panel">
    <thead>
      <tr>
        <th v-if="selectable" class="box" scope="col">
          <input type="checkbox" :checked="all()" aria-label="Select all on this page" @change="toggleAll" />
        </th>
        <th
          v-for="c in columns"
          :key="c.key"
          scope="col"
          :class="{ narrow: c.narrow }"
          :aria-sort="sorted(c)"
        >
          <button v-if="c.sort" type="button" @click="order(c)">
            {{ c.label }}<span aria-hidden="true">{{ arrow(c) }}</span>
          </button>
          <template v-else>{{ c.label }}</template>
        </th>
      </tr>
    </thead>
    <tbody>
      <tr
        v-for="(r, i) in rows.slice(0, drawn)"
        :key="r.id"
        :class="{ at: i === at, chosen: selected.includes(r.id) }"
        :draggable="movable || undefined"
        @dragstart="dragged = r"
        @dragover="movable && $event.preventDefault()"
        @drop.prevent="drop(r)"
      >
        <td v-if="selectable" class="box">
          <input
            type="checkbox"
            :checked="selected.includes(r.id)"
            :aria-label="`Select ${named?.(r) ?? r.id}`"
            @click="(e) => toggle(i, e)"
          />
        </td>
        <td v-for="c in columns" :key="c.key" :class="{ narrow: c.narrow }">
          <slot :name="c.key" :row="r" />
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.data {
  width: 100%;
  border-collapse: collapse;
}
th {
  text-align: left;
  font-weight: 400;
  color: var(--faded);
  padding: 0.4rem 0.6rem;
}
th button {
  font: inherit;
  color: inherit;
  background: none;
  border: 0;
  padding: 0;
  cursor: pointer;
  white-space: nowrap;
}
th button:hover {
  color: var(--rubric);
}
td {
  padding: 0.38rem 0.6rem;
  border-top: 1px solid var(--rule);
  vertical-align: top;
}
.box {
  width: 1.6rem;
  padding-right: 0;
}
.narrow {
  white-space: nowrap;
}
.at td {
  background: #f6efe1;
}
.chosen td {
  background: #f8ece6;
}
</style>
