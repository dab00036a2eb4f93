<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import Talk from '../shared/Talk.vue'
import type { Schemas } from '../shared/api/client'
import ArticleSheet from './ArticleSheet.vue'
import { useConversation } from './conversation'

defineProps<{ company: string }>()
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
const choosing = computed(() => ['choice', 'verdict'].includes(view.value?.waiting ?? ''))
const closed = computed(() => view.value?.status === 'closed')
const standing = computed(() => {
  switch (view.value?.status) {
    case 'waiting':
      return `You are in the queue. Your number is ${view.value.reference}. You can keep writing.`
    case 'with_agent':
      return `${view.value.agent} is with you.`
  }
  return ''
})

watch(
  () => view.value?.messages.length,
  () => nextTick(() => end.value?.scrollIntoView({ block: 'end' })),
)

async function send() {
  const words = text.value.trim()
  if (words && (await chat.say('words', words))) text.value = ''
}

async function open(card: Schemas['Card']) {
  page.value = await chat.openArticle(card.reference)
}
</script>

<template>
  <div class="window">
    <header aria-label="Chat">
      <h1>{{ company }}</h1>
      <button type="button" class="plain" @click="chat.begin">Start again</button>
    </header>
    <p v-if="view?.rehearsal" class="rehearsal">Rehearsal: not counted, and nobody is called.</p>
    <main aria-live="polite" aria-label="Messages of the chat" tabindex="0">
      <Talk v-if="view" :messages="view.messages" side="customer" @open="open" />
      <p v-else-if="!fault" class="faded">One moment…</p>
      <p v-if="standing" class="standing" role="status">{{ standing }}</p>
      <div ref="end" />
    </main>
    <section class="answer" aria-label="Your answer">
      <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
      <p v-if="lost" class="faded small">The line is down; it comes back by itself.</p>
      <p v-if="view?.waiting === 'verdict' && !closed" class="asks">Did this answer your question?</p>
      <div v-if="choosing && choices.length" class="choices">
        <button v-for="c in choices" :key="c" type="button" :disabled="busy" @click="chat.say('choice', c)">
          {{ c }}
        </button>
      </div>
      <form v-if="view && !closed" @submit.prevent="send">
        <label for="say" class="hidden">Your message</label>
        <textarea
          id="say"
          v-model="text"
          rows="2"
          maxlength="4000"
          :placeholder="choosing ? 'Or in your own words…' : 'Your message…'"
          @keydown.enter.exact.prevent="send"
        />
        <button :disabled="busy || !text.trim()">Send</button>
      </form>
      <p v-if="view?.may_ask" class="person">
        <button type="button" class="plain" :disabled="busy" @click="chat.say('want_person')">
          Talk to a person
        </button>
      </p>
      <button v-if="closed || (fault && !view)" type="button" class="again" @click="chat.begin">
        Ask something else
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
