<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '../../shared/api/client'

/** One thing the margin says of a text: gone to, mended, or set aside with a reason. */
defineProps<{ check: Schemas['Check']; editable: boolean }>()
const emit = defineEmits<{ go: []; aside: [reason: string]; sized: [] }>()
const asking = ref(false)
const reason = ref('')

function ask() {
  asking.value = !asking.value
  emit('sized')
}
</script>

<template>
  <div class="note">
    <button v-if="check.line >= 0" type="button" class="to" :title="check.excerpt" @click="emit('go')">
      {{ check.message }}
    </button>
    <template v-else>{{ check.message }}</template>
    <button v-if="editable" type="button" class="aside" @click="ask">Set aside</button>
    <form v-if="asking" class="why" @submit.prevent="emit('aside', reason)">
      <input v-model="reason" aria-label="Why it can stay" placeholder="Why it can stay" maxlength="300" />
      <button type="submit" class="quiet" :disabled="!reason.trim()">Set aside</button>
    </form>
  </div>
</template>

<style scoped>
.note {
  font-size: 0.9rem;
  line-height: 1.4;
  padding: 0.1rem 0 0.1rem 0.6rem;
  margin-bottom: 0.4rem;
  border-left: 2px solid var(--ochre);
}
.to,
.aside {
  font: inherit;
  text-align: left;
  background: none;
  border: 0;
  padding: 0;
  cursor: pointer;
  color: var(--ink);
}
.to {
  display: inline;
}
.aside {
  color: var(--faded);
  text-decoration: underline;
  text-underline-offset: 3px;
  margin-left: 0.3rem;
}
.to:hover,
.aside:hover {
  color: var(--rubric);
}
.why {
  display: flex;
  gap: 0.4rem;
  margin-top: 0.2rem;
}
.why input {
  flex: 1;
  min-width: 0;
  font: inherit;
  border: 1px solid var(--rule);
  border-radius: 4px;
  padding: 0 0.3rem;
}
</style>
