<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import Talk from '../shared/Talk.vue'
import type { Schemas } from '../shared/api/client'
import ArticleSheet from './ArticleSheet.vue'
import { useConversation } from './conversation'

defineProps<{ company: string }>()
const { t } = useI18n()
const chat = useConversation()
const { view, fault, busy, lost } = chat
const text = ref('')
const end = ref<HTMLElement>()
const page = ref<Schemas['Page']>()

onMounted(chat.open)

const choices = computed(() =>
  view.value?.status === 'bot'
    ? (view.value.messages.filter((m) => m.choices.length).at(-1)?.choices ?? [])
    : [],
)
const choosing = computed(() =>
  ['choice', 'verdict', 'fact', 'field', 'mark'].includes(view.value?.waiting ?? ''),
)
const closed = computed(() => view.value?.status === 'closed')
// Who is with them now is said among the messages, once.
const standing = computed(() => (view.value?.status === 'waiting' ? t('chat.queue') : ''))

watch(
  () => view.value?.messages.length,
  () => nextTick(() => end.value?.scrollIntoView({ block: 'end' })),
)

/** The field is empty at once, so that what is typed while it goes out stays; what did not arrive comes back. */
async function send() {
  const words = text.value.trim()
  if (!words || busy.value) return
  text.value = ''
  if (!(await chat.say('words', words))) text.value = [words, text.value].filter(Boolean).join('\n')
}

async function open(reference: string) {
  page.value = await chat.openArticle(reference)
}
</script>

<template>
  <div class="window">
    <header :aria-label="t('chat.label')">
      <h1>{{ company }}</h1>
      <button type="button" class="plain" @click="chat.begin">{{ t('chat.again') }}</button>
    </header>
    <p v-if="view?.rehearsal" class="rehearsal">{{ t('chat.rehearsal') }}</p>
    <main aria-live="polite" :aria-label="t('chat.messages')" tabindex="0">
      <Talk
        v-if="view"
        :messages="view.messages"
        side="customer"
        :files-at="`/help/requests/${chat.token.value}/files`"
        @open="open"
        @read="chat.markToldRead"
      />
      <p v-else-if="!fault" class="faded">{{ t('chat.moment') }}</p>
      <p v-if="standing" class="standing" role="status">{{ standing }}</p>
      <div ref="end" />
    </main>
    <section class="answer" :aria-label="t('chat.answer')">
      <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
      <p v-if="lost" class="faded small">{{ t('chat.lost') }}</p>
      <p v-if="view?.waiting === 'verdict' && !closed" class="asks">{{ t('article.helped') }}</p>
      <div v-if="choosing && choices.length" class="choices">
        <button v-for="c in choices" :key="c" type="button" :disabled="busy" @click="chat.say('choice', c)">
          {{ c }}
        </button>
      </div>
      <form v-if="view && !closed" @submit.prevent="send">
        <label for="say" class="hidden">{{ t('chat.write') }}</label>
        <textarea
          id="say"
          v-model="text"
          rows="2"
          maxlength="4000"
          :placeholder="choosing ? t('chat.choosePlaceholder') : t('chat.placeholder')"
          @keydown.enter.exact.prevent="send"
        />
        <button :disabled="busy || !text.trim()">{{ t('chat.send') }}</button>
      </form>
      <p v-if="view?.may_ask" class="person">
        <button type="button" class="plain" :disabled="busy" @click="chat.say('want_person')">
          {{ t('chat.person') }}
        </button>
      </p>
      <button v-if="closed || (fault && !view)" type="button" class="again" @click="chat.begin">
        {{ t('chat.else') }}
      </button>
    </section>
    <ArticleSheet
      v-if="page"
      :page="page"
      @close="page = undefined"
      @read="(seconds) => chat.markRead(page?.reference ?? '', seconds)"
    />
  </div>
</template>
