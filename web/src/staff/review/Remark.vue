<script setup lang="ts">
/** What somebody said of a text, beside the passage it is about. */
defineProps<{
  done: boolean
  place?: { quote: string } // the passage as it is now; nothing where it is gone, or there is none
  quote: string // the passage as it was
  ink?: boolean // what readers say, apart from what colleagues say
}>()
const emit = defineEmits<{ go: [] }>()
</script>

<template>
  <article class="remark" :class="{ done, ink }">
    <slot name="who" />
    <button v-if="place" type="button" class="quote" @click="emit('go')">“{{ place.quote }}”</button>
    <p v-else-if="quote" class="quote">“{{ quote }}” <span>is not in the text any more</span></p>
    <slot />
  </article>
</template>

<style scoped>
.remark {
  padding: 0.1rem 0 0.2rem 0.6rem;
  margin-bottom: 0.7rem;
  border-left: 2px solid var(--rubric);
  line-height: 1.4;
}
.remark.ink {
  border-color: var(--ink);
}
.remark.done {
  border-color: var(--rule);
}
.remark :deep(p) {
  margin: 0.15rem 0;
}
.remark :deep(.said) {
  overflow-wrap: anywhere;
  white-space: pre-line;
}
.quote {
  font: italic 0.9rem var(--text-face);
  color: var(--faded);
  text-align: left;
  background: none;
  border: 0;
  padding: 0;
}
.quote span {
  font: 0.85rem var(--face);
}
button.quote {
  cursor: pointer;
}
button.quote:hover {
  color: var(--rubric);
}
</style>
