<script setup lang="ts">
import type { Schemas } from '../../shared/api/client'

/** Compared text: what came is underlined, what went is struck through. */
defineProps<{ changes: Schemas['Change'][]; blocks?: boolean }>()
const tags: Record<string, string> = { added: 'ins', removed: 'del', same: 'span' }
</script>

<template>
  <component :is="blocks ? 'p' : 'span'" v-for="(c, i) in changes" :key="i" :class="['block', c.mark]">
    <component :is="tags[s.mark]" v-for="(s, j) in c.spans" :key="j">{{ s.text }}</component>
  </component>
</template>

<style scoped>
ins {
  text-decoration: underline;
  text-decoration-thickness: 2px;
  text-decoration-color: var(--verdigris);
  background: #e4efe9;
}
del {
  color: var(--faded);
  background: #f3e4df;
}
del + ins {
  margin-left: 0.2em;
}
p.added,
p.removed {
  padding-left: 0.8rem;
  border-left: 3px solid var(--verdigris);
  margin-left: -0.95rem;
}
p.removed {
  border-color: var(--rubric);
}
</style>
