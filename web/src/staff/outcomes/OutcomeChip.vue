<script setup lang="ts">
import { computed } from 'vue'
import { outcomeOf } from '../../shared/words'

/** An outcome by mark, word and colour. */
const props = defineProps<{ outcome: string; settling?: boolean }>()
const o = computed(() => outcomeOf(props.outcome))
</script>

<template>
  <span class="chip" :title="o.means">
    <span class="mark" :style="{ color: `var(--${o.colour})` }" aria-hidden="true">{{ o.mark }}</span>
    {{ o.word }}<span v-if="settling" class="faded">, settling</span>
  </span>
</template>

<style scoped>
.chip {
  white-space: nowrap;
}
.mark {
  display: inline-block;
  width: 1.1em;
}
</style>
