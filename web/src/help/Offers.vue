<script setup lang="ts">
import { nextTick, onMounted, onUnmounted, ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../shared/api/client'
import { onVisibleFor } from '../shared/visible'
import { report } from '../shared/visit'

/** Answers beside the request form while its subject and its description are typed. */
const props = defineProps<{ subject: HTMLInputElement; text: HTMLTextAreaElement }>()
const emit = defineEmits<{ answered: [] }>()

const { t } = useI18n()
const offers = ref<Schemas['Result'][]>([])
const page = ref<Schemas['Page']>()
const sheet = useTemplateRef('sheet')
const back = useTemplateRef('back')
const done = ref(false)
const fault = ref('')
let turn = 0
let timer: ReturnType<typeof setTimeout> | undefined
let stopReading: (() => void) | undefined

function later() {
  clearTimeout(timer)
  timer = setTimeout(ask, 350)
}

async function post(path: string, body?: object) {
  const answer = await report(path, body)
  if (!answer.ok) throw new Error(answer.statusText)
  return answer
}

async function ask() {
  const mine = ++turn
  const subject = props.subject.value.trim()
  const text = props.text.value.trim()
  if (subject.length + text.length < 4) {
    offers.value = []
    return
  }
  try {
    const answer = await post('/api/help/offers', { subject, text })
    if (mine === turn) offers.value = (await answer.json()) as Schemas['Result'][]
  } catch {
    // Offers are a help; the form works without them.
  }
}

async function read(reference: string) {
  fault.value = ''
  try {
    const answer = await post(`/api/help/articles/${reference}/open`)
    page.value = (await answer.json()) as Schemas['Page']
    await nextTick()
    back.value?.focus()
    stopReading?.()
    if (sheet.value)
      stopReading = onVisibleFor(sheet.value, page.value.read_seconds, (seconds) => {
        void post(`/api/help/articles/${reference}/read`, { seconds }).catch(() => undefined)
      })
  } catch {
    fault.value = t('article.failed')
  }
}

function close() {
  stopReading?.()
  page.value = undefined
}

async function answered(reference: string) {
  fault.value = ''
  try {
    await post(`/api/help/articles/${reference}/answered`)
    close()
    done.value = true
    emit('answered')
  } catch {
    fault.value = t('article.failed')
  }
}

onMounted(() => {
  props.subject.addEventListener('input', later)
  props.text.addEventListener('input', later)
  if (props.subject.value) void ask()
})
onUnmounted(() => {
  props.subject.removeEventListener('input', later)
  props.text.removeEventListener('input', later)
  stopReading?.()
})
</script>

<template>
  <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
  <div v-if="done" class="note" role="status">
    <p>{{ t('request.answeredNote') }}</p>
    <p>
      {{ t('request.answeredMore') }} <a href="/help/request">{{ t('frame.send') }}</a>
    </p>
  </div>
  <section v-else-if="page" ref="sheet" class="sheet-beside" :aria-label="page.title" @keydown.esc="close">
    <p class="row">
      <button ref="back" type="button" class="plain" @click="close">{{ t('request.close') }}</button>
      <button type="button" class="yes" @click="answered(page.reference)">{{ t('request.answered') }}</button>
    </p>
    <h2 :lang="page.language">{{ page.title }}</h2>
    <div class="prose" :lang="page.language" v-html="page.body" />
    <p>
      <button type="button" class="yes" @click="answered(page.reference)">{{ t('request.answered') }}</button>
    </p>
  </section>
  <template v-else-if="offers.length">
    <h2>{{ t('request.mayAnswer') }}</h2>
    <ul>
      <li v-for="o in offers" :key="o.reference">
        <button type="button" class="plain title" @click="read(o.reference)">{{ o.title }}</button>
        <p>
          <template v-for="(run, i) in o.passage" :key="i"
            ><mark v-if="run.hit">{{ run.text }}</mark
            ><template v-else>{{ run.text }}</template></template
          >
        </p>
        <p class="row">
          <button type="button" class="plain" @click="read(o.reference)">{{ t('request.open') }}</button>
          <button type="button" class="plain" @click="answered(o.reference)">
            {{ t('request.answered') }}
          </button>
        </p>
      </li>
    </ul>
  </template>
</template>
