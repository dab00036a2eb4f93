<script setup lang="ts">
import { Button, Textarea } from 'ant-design-vue'
import { computed, nextTick, ref, watch } from 'vue'
import { useStorage } from '@vueuse/core'
import { api, call, type Schemas } from '../../shared/api/client'
import Talk from '../../shared/Talk.vue'
import { who } from '../session'
import { useAct } from '../use/act'

/** A conversation, and what the agent can do with it. */
const props = defineProps<{ handoff: Schemas['Handoff'] }>()
const offered = defineModel<string>('offered', { required: true })
const emit = defineEmits<{ changed: [] }>()
const path = computed(() => ({ params: { path: { reference: props.handoff.reference } } }))
// What is being typed survives a reload of the page.
const text = useStorage(`hermeneus:reply:${props.handoff.reference}`, '')
const articles = ref<string[]>([])
const end = ref<HTMLElement>()
const { act, busy } = useAct()

const mine = computed(() => props.handoff.status === 'with_agent' && props.handoff.agent_id === who.value?.id)
const standing = computed(() => {
  const h = props.handoff
  if (h.status === 'waiting') return 'Waiting for a person'
  if (h.status === 'closed') return 'Closed'
  return mine.value ? 'With you' : `With ${h.agent}`
})

watch(
  () => props.handoff.messages.length,
  () => nextTick(() => end.value?.scrollIntoView({ block: 'end' })),
  { immediate: true },
)
watch(offered, (ref) => {
  if (!ref) return
  if (mine.value && !articles.value.includes(ref)) articles.value.push(ref)
  offered.value = ''
})

const run = (work: () => Promise<unknown>, done?: string) =>
  act(work, done).then((ok) => (emit('changed'), ok))
const accept = () => run(() => call(api.POST('/api/staff/handoffs/{reference}/accept', path.value)))
const close = () => run(() => call(api.POST('/api/staff/handoffs/{reference}/close', path.value)), 'Closed')

async function reply() {
  if (!text.value.trim() && !articles.value.length) return
  const body = { text: text.value, articles: articles.value }
  if (await run(() => call(api.POST('/api/staff/handoffs/{reference}/replies', { ...path.value, body })))) {
    text.value = ''
    articles.value = []
  }
}

function onKey(e: KeyboardEvent) {
  if (!(e.ctrlKey || e.metaKey)) return
  if (e.key === 'Enter') {
    e.preventDefault()
    reply()
  }
  if (e.key === 'k') {
    e.preventDefault()
    document.querySelector<HTMLButtonElement>('.suggestion button')?.focus()
  }
}
</script>

<template>
  <div class="talkpage">
    <header class="row spread">
      <div>
        <h1>{{ handoff.subject || 'No subject' }}</h1>
        <p class="faded">
          {{ handoff.reference }} · {{ handoff.kind === 'chat' ? 'chat' : 'request' }} ·
          {{ handoff.customer }} · {{ standing }}
        </p>
      </div>
      <Button v-if="handoff.status === 'waiting'" type="primary" :loading="busy" @click="accept"
        >Accept</Button
      >
      <Button v-if="mine" :loading="busy" @click="close">Close conversation</Button>
    </header>
    <div class="messages">
      <Talk :messages="handoff.messages" side="agent" />
      <div ref="end" />
    </div>
    <form v-if="mine" class="reply" @submit.prevent="reply">
      <ul v-if="articles.length" class="plainlist row small">
        <li v-for="a in articles" :key="a" class="leaf tag">
          {{ a }}
          <button
            type="button"
            class="quiet"
            :aria-label="`Take ${a} out`"
            @click="articles = articles.filter((other) => other !== a)"
          >
            take out
          </button>
        </li>
      </ul>
      <label for="reply" class="hidden">Your reply</label>
      <Textarea
        id="reply"
        v-model:value="text"
        :auto-size="{ minRows: 3, maxRows: 9 }"
        :maxlength="4000"
        placeholder="Your reply. Ctrl+K goes to the suggested articles, Ctrl+Enter sends."
        @keydown="onKey"
      />
      <Button type="primary" html-type="submit" :loading="busy">Send reply</Button>
    </form>
  </div>
</template>

<style scoped>
.talkpage {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr) auto;
  height: 100%;
  gap: 0.8rem;
}
header p {
  margin: 0;
}
header {
  flex-wrap: nowrap;
  align-items: start;
}
h1 {
  font-size: 1.3rem;
}
.messages {
  overflow-y: auto;
  padding-right: 0.5rem;
}
.reply {
  display: grid;
  gap: 0.5rem;
  justify-items: start;
}
.tag {
  padding: 0.1rem 0.5rem;
}
</style>
