<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { useAct } from '../shared/act'

/** The HTML of the text. What cannot be kept of it is listed before it is taken over. */
const props = defineProps<{ body: string; editable: boolean }>()
const emit = defineEmits<{ take: [body: string]; close: [] }>()

const text = ref(
  props.body.replace(/(<\/(?:p|h[2-4]|li|ul|ol|table|tr|aside|details|figure|blockquote|pre)>)/g, '$1\n'),
)
const cleaned = ref<Schemas['Cleaned']>()
const { act, busy } = useAct()

async function take() {
  await act(async () => {
    const now = await call(api.POST('/api/staff/clean', { body: { body: text.value } }))
    if (now.taken_out.length && cleaned.value?.body !== now.body) {
      cleaned.value = now // shown first, taken over on the second press
      return
    }
    emit('take', now.body)
  })
}
</script>

<template>
  <section aria-label="Source" class="source">
    <label for="source-text">The HTML of the text. Only what an article can hold is kept.</label>
    <textarea id="source-text" v-model="text" spellcheck="false" rows="18" :readonly="!editable" />
    <div v-if="cleaned" class="panel" role="alert">
      <p>This cannot be kept and will be taken out:</p>
      <ul>
        <li v-for="(t, i) in cleaned.taken_out" :key="i">Line {{ t.line }}: {{ t.what }}</li>
      </ul>
    </div>
    <div class="row">
      <Button v-if="editable" type="primary" :loading="busy" @click="take">{{
        cleaned ? 'Take it over without these' : 'Take it over'
      }}</Button>
      <Button @click="emit('close')">Back to the page</Button>
    </div>
  </section>
</template>

<style scoped>
textarea {
  width: 100%;
  font:
    0.9rem/1.5 ui-monospace,
    monospace;
  border: 1px solid var(--rule);
  border-radius: 4px;
  padding: 0.6rem;
  margin: 0.4rem 0 0.8rem;
}
.panel {
  padding: 0.7rem 0.9rem;
  margin-bottom: 0.8rem;
  border-left: 3px solid var(--ochre);
}
.panel p {
  margin: 0;
}
</style>
