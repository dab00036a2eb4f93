<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { onMounted, ref, shallowRef } from 'vue'
import { watchDebounced } from '@vueuse/core'
import { api, call, type Schemas } from '../../shared/api/client'
import MarkedWords from '../shared/MarkedWords.vue'

/** Where a link leads: an address, or an article found by its title. */
const props = defineProps<{ address: string; film?: boolean }>()
const emit = defineEmits<{ done: [address: string]; cancel: [] }>()
const text = ref(props.address)
const field = ref<HTMLInputElement>()
const found = shallowRef<Schemas['Found'][]>([])

onMounted(() => field.value?.focus())

watchDebounced(
  text,
  async (words) => {
    if (props.film || !words.trim() || /^(https?:|mailto:|tel:|\/|#)/.test(words)) found.value = []
    else found.value = (await call(api.GET('/api/staff/find', { params: { query: { words } } }))).slice(0, 6)
  },
  { debounce: 150 },
)
</script>

<template>
  <form
    class="link panel"
    @submit.prevent="emit('done', text.trim())"
    @keydown.esc.stop.prevent="emit('cancel')"
  >
    <label for="link-address">{{
      film
        ? 'The address of the film (https://…). It plays when a reader asks for it.'
        : 'An address, or words from an article'
    }}</label>
    <div class="row">
      <input id="link-address" ref="field" v-model="text" maxlength="500" autocomplete="off" />
      <Button html-type="submit" size="small">{{
        film ? 'Put it in' : text.trim() ? 'Link' : 'Remove link'
      }}</Button>
      <button type="button" class="quiet" @click="emit('cancel')">Cancel</button>
    </div>
    <ul class="plainlist">
      <li v-for="a in found" :key="a.reference">
        <button
          type="button"
          class="quiet"
          @click="emit('done', `/help/articles/${a.reference.split('.')[0]}`)"
        >
          <MarkedWords :runs="a.title" />
        </button>
        <span class="faded small"> {{ a.reference }}{{ a.live ? '' : ', not live yet' }}</span>
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
