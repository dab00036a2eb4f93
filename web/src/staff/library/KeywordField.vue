<script setup lang="ts">
import { ref } from 'vue'

/** A list of words: typed and entered one by one, or several with commas. */
const words = defineModel<string[]>({ required: true })
defineProps<{ label: string; disabled?: boolean }>()
const text = ref('')

function enter() {
  const more = text.value
    .split(',')
    .map((w) => w.trim())
    .filter((w) => w && !words.value.includes(w))
  if (more.length) words.value = [...words.value, ...new Set(more)]
  text.value = ''
}
function back() {
  if (!text.value) words.value = words.value.slice(0, -1)
}
</script>

<template>
  <div class="words panel">
    <span v-for="w in words" :key="w" class="word">
      {{ w }}
      <button
        v-if="!disabled"
        type="button"
        :aria-label="`Take out ${w}`"
        @click="words = words.filter((o) => o !== w)"
      >
        ×
      </button>
    </span>
    <input
      v-if="!disabled"
      v-model="text"
      :aria-label="label"
      placeholder="Add…"
      maxlength="200"
      @keydown.enter.prevent="enter"
      @keydown.backspace="back"
      @blur="enter"
    />
  </div>
</template>

<style scoped>
.words {
  display: flex;
  flex-wrap: wrap;
  gap: 0.25rem;
  padding: 0.3rem;
  border-color: #cfc6b4;
}
.word {
  padding: 0 0.15rem 0 0.45rem;
  background: var(--paper);
  border: 1px solid var(--rule);
  border-radius: 4px;
}
button {
  font: inherit;
  color: var(--faded);
  background: none;
  border: 0;
  padding: 0 0.25rem;
  cursor: pointer;
}
input {
  flex: 1;
  min-width: 5rem;
  font: inherit;
  border: 0;
  background: none;
}
</style>
