<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { onMounted, ref, shallowRef } from 'vue'
import { watchDebounced } from '@vueuse/core'
import { api, call, type Schemas } from '../../shared/api/client'

/** Where a link leads: an address, or an article found by its title. */
const props = defineProps<{ address: string }>()
const emit = defineEmits<{ done: [address: string]; cancel: [] }>()
const text = ref(props.address)
const field = ref<HTMLInputElement>()
const found = shallowRef<Schemas['ArticleLine'][]>([])

onMounted(() => field.value?.focus())

watchDebounced(
  text,
  async (words) => {
    if (!words.trim() || /^(https?:|mailto:|tel:|\/)/.test(words)) found.value = []
    else
      found.value = (
        await call(api.GET('/api/staff/articles', { params: { query: { words, live: true } } }))
      ).items.slice(0, 6)
  },
  { debounce: 150 },
)
</script>

<template>
  <form class="link leaf" @submit.prevent="emit('done', text.trim())" @keydown.esc="emit('cancel')">
    <label for="link-address">An address, or words from an article’s title</label>
    <div class="row">
      <input id="link-address" ref="field" v-model="text" maxlength="500" autocomplete="off" />
      <Button html-type="submit" size="small">{{ text.trim() ? 'Link' : 'Remove link' }}</Button>
      <button type="button" class="quiet" @click="emit('cancel')">Cancel</button>
    </div>
    <ul class="plainlist">
      <li v-for="a in found" :key="a.reference">
        <button type="button" class="quiet" @click="emit('done', `/help/articles/${a.reference}`)">
          {{ a.title }}
        </button>
        <span class="faded small"> {{ a.reference }}</span>
      </li>
    </ul>
  </form>
</template>

<style scoped>
.link {
  padding: 0.7rem 0.9rem;
  margin-bottom: 1rem;
}
input {
  flex: 1;
  font: inherit;
  padding: 0.2rem 0.5rem;
  border: 1px solid var(--rule);
  border-radius: 4px;
}
</style>
