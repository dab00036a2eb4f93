<script setup lang="ts">
/** The title of a text, written in place. */
defineProps<{ editable: boolean; fault?: string }>()
const title = defineModel<string>({ required: true })
const emit = defineEmits<{ writing: [] }>()
</script>

<template>
  <label class="hidden" for="title">Title</label>
  <textarea
    id="title"
    v-model="title"
    class="title"
    rows="1"
    maxlength="200"
    placeholder="Title, as a customer would ask"
    :readonly="!editable"
    @focus="editable && emit('writing')"
    @input="emit('writing')"
    @keydown.enter.prevent
  />
  <p v-if="fault" class="fault">{{ fault }}</p>
</template>

<style scoped>
.title {
  display: block;
  width: 100%;
  field-sizing: content;
  resize: none;
  font: 600 1.75rem/1.25 var(--text-face);
  color: var(--ink);
  background: none;
  border: 0;
  padding: 0;
  margin-bottom: 0.7rem;
}
.title:focus-visible {
  outline: none;
}
</style>
