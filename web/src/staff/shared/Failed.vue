<script setup lang="ts">
import { computed } from 'vue'
import { Refused } from '../../shared/api/client'

/** Why something could not be shown, and a way to try again. */
const props = defineProps<{ error: Error }>()
defineEmits<{ retry: [] }>()
const fields = computed(() =>
  props.error instanceof Refused ? (props.error.problem.errors ?? []).map((e) => e.message) : [],
)
</script>

<template>
  <div class="failed panel" role="alert">
    <p>{{ error.message }}</p>
    <p v-for="f in fields" :key="f">{{ f }}</p>
    <button type="button" class="quiet" @click="$emit('retry')">Try again</button>
  </div>
</template>

<style scoped>
.failed {
  padding: 1rem 1.2rem;
}
p {
  margin: 0 0 0.4rem;
}
</style>
