<script setup lang="ts">
import type { Schemas } from '../../shared/api/client'

/** A compared line: what came is underlined, what went is struck through. */
defineProps<{ spans: Schemas['Span'][] }>()
const tags: Record<string, string> = { added: 'ins', removed: 'del', same: 'span' }
</script>

<template>
  <span class="compared">
    <component :is="tags[s.mark]" v-for="(s, i) in spans" :key="i">{{ s.text }}</component>
  </span>
</template>
