<script setup lang="ts">
import type { Schemas } from '../../shared/api/client'

/** A piece of text with the words that were asked for marked. */
defineProps<{ runs: Schemas['Run'][] | null | undefined }>()
</script>

<template>
  <span>
    <component :is="r.hit ? 'mark' : 'span'" v-for="(r, i) in runs ?? []" :key="i">{{ r.text }}</component>
  </span>
</template>

<style scoped>
mark {
  background: #f3e3b8;
  color: inherit;
}
</style>
