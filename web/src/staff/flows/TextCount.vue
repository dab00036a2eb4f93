<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../shared/api/client'

/** How long the text is in which one writes, where a channel limits that. */
const props = defineProps<{ checked: Schemas['Checked']; line: number }>()
const said = computed(() => props.checked.texts.filter((t) => t.line <= props.line).at(-1))
const length = computed(() => [...(said.value?.texts[props.checked.language] ?? '')].length)
const number = (n: number) => n.toLocaleString('en-GB').replace(/,/g, '\u202f')
</script>

<template>
  <p v-if="said && length" class="count faded small">
    <span v-for="l in checked.limits" :key="l.channel" :class="{ fault: length > l.most }">
      {{ number(length) }} of {{ number(l.most) }} characters in the {{ l.channel }}
    </span>
  </p>
</template>

<style scoped>
.count {
  margin: 0.4rem 0 0;
  text-align: right;
}
</style>
