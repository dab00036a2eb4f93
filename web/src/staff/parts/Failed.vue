<script setup lang="ts">
/** Why something could not be shown, and a way to try again. */
defineProps<{ error: Error }>()
defineEmits<{ retry: [] }>()
</script>

<template>
  <div class="failed leaf" role="alert">
    <p>{{ error.message }}</p>
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
