<script setup lang="ts" generic="T extends string | number">
/** One choice of several: the browser's own list, which every reader of screens knows. */
const props = defineProps<{ options: { value: T; label: string }[]; small?: boolean }>()
const chosen = defineModel<T>({ required: true })
const emit = defineEmits<{ chosen: [value: T] }>()

function take(event: Event) {
  const option = props.options[(event.target as HTMLSelectElement).selectedIndex]
  if (!option) return
  chosen.value = option.value
  emit('chosen', option.value)
}
</script>

<template>
  <select :class="{ small }" @change="take">
    <option v-for="o in options" :key="o.value" :value="o.value" :selected="o.value === chosen">
      {{ o.label }}
    </option>
  </select>
</template>

<style scoped>
select {
  font: inherit;
  color: var(--ink);
  width: 100%;
  height: 32px;
  padding: 0 0.5rem;
  background: var(--leaf);
  border: 1px solid #cfc6b4;
  border-radius: 4px;
}
select.small {
  height: 26px;
  width: auto;
}
select:disabled {
  color: var(--faded);
  background: var(--paper);
  opacity: 1;
}
</style>
