<script setup lang="ts">
import { onMounted, onUnmounted, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../shared/api/client'
import { onVisibleFor } from '../shared/visible'

/** An article, read without leaving the conversation. */
const { t } = useI18n()
const props = defineProps<{ page: Schemas['Page'] }>()
const emit = defineEmits<{ close: []; read: [seconds: number] }>()
const body = ref<HTMLElement>()
const back = ref<HTMLButtonElement>()
let stop: (() => void) | undefined

onMounted(() => {
  back.value?.focus()
  if (body.value) stop = onVisibleFor(body.value, props.page.read_seconds, (seconds) => emit('read', seconds))
})
onUnmounted(() => stop?.())
</script>

<template>
  <section
    class="sheet"
    role="dialog"
    aria-modal="true"
    aria-labelledby="sheet-title"
    @keydown.esc="emit('close')"
  >
    <button ref="back" type="button" class="plain" @click="emit('close')">{{ t('chat.back') }}</button>
    <article ref="body">
      <h2 id="sheet-title">{{ page.title }}</h2>
      <div class="prose" v-html="page.body" />
    </article>
    <button type="button" class="plain" @click="emit('close')">{{ t('chat.back') }}</button>
  </section>
</template>
