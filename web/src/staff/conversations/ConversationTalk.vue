<script setup lang="ts">
import { Button, message, Textarea } from 'ant-design-vue'
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { useStorage } from '@vueuse/core'
import { api, call, type Schemas } from '../../shared/api/client'
import Talk from '../../shared/Talk.vue'
import { who } from '../session'
import { useAct } from '../shared/act'
import { useKey } from '../shared/keys'

/** A conversation, and what the agent can do with it. */
const props = defineProps<{ handoff: Schemas['Handoff'] }>()
const offered = defineModel<string>('offered', { required: true })
const emit = defineEmits<{ changed: [] }>()
const path = computed(() => ({ params: { path: { reference: props.handoff.reference } } }))
// What is being typed and chosen survives a reload of the page.
const kept = (what: string) => `hermeneus:reply${what}:${props.handoff.reference}`
const text = useStorage(kept(''), '')
const articles = useStorage<string[]>(kept('-articles'), [])
const files = useStorage<Schemas['KeptFile'][]>(kept('-files'), [])
const end = ref<HTMLElement>()
const field = ref<{ focus: () => void }>()
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
  void write()
})

/** Puts the agent into the reply: what is typed next is meant for it. */
async function write() {
  await nextTick()
  field.value?.focus()
}
defineExpose({ write })
watch(mine, (now) => now && write())
onMounted(() => mine.value && write())

const run = (work: () => Promise<unknown>, done?: string) =>
  act(work, done).then((ok) => (emit('changed'), ok))
const accept = () => run(() => call(api.POST('/api/staff/handoffs/{reference}/accept', path.value)))
const close = () => run(() => call(api.POST('/api/staff/handoffs/{reference}/close', path.value)), 'Closed')

async function reply() {
  if (!text.value.trim() && !articles.value.length && !files.value.length) return
  const body = { text: text.value, articles: articles.value, files: files.value.map((f) => f.id) }
  if (await run(() => call(api.POST('/api/staff/handoffs/{reference}/replies', { ...path.value, body })))) {
    text.value = ''
    articles.value = []
    files.value = []
  }
  await write()
}

async function attach(e: Event) {
  const input = e.target as HTMLInputElement
  const chosen = [...(input.files ?? [])]
  input.value = ''
  for (const file of chosen) {
    await act(async () => {
      const done = await call(
        api.POST('/api/staff/handoffs/{reference}/files', {
          params: { ...path.value.params, query: { name: file.name } },
          body: '' as never,
          bodySerializer: () => file,
          headers: { 'Content-Type': 'application/octet-stream' },
        }),
      )
      files.value.push(done)
    })
  }
  await write()
}
async function detach(file: Schemas['KeptFile']) {
  files.value = files.value.filter((f) => f.id !== file.id)
  const params = { path: { reference: props.handoff.reference, id: file.id } }
  await call(api.DELETE('/api/staff/handoffs/{reference}/files/{id}', { params })).catch(() => undefined)
  await write()
}

useKey(
  'Enter',
  (e) => {
    if (!mine.value || !(e.target as HTMLElement).closest('.reply')) return
    e.preventDefault()
    void reply()
  },
  { ctrl: true, typing: true },
)
useKey(
  'k',
  (e) => {
    if (!mine.value) return
    e.preventDefault()
    const first = document.querySelector<HTMLButtonElement>('.suggestion button')
    if (first) first.focus()
    else message.info('No article that this customer may see fits. Find one by other words, at the right.', 4)
  },
  { ctrl: true, typing: true },
)

/** What was shown opens beside the conversation, so that what is being typed stays. */
const look = (reference: string) => window.open(`/library/${reference}`, '_blank', 'noopener')
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
      <Talk
        :messages="handoff.messages"
        side="agent"
        :files-at="`/api/staff/handoffs/${handoff.reference}/files`"
        @open="look"
      />
      <div ref="end" />
    </div>
    <form v-if="mine" class="reply" @submit.prevent="reply">
      <ul v-if="articles.length || files.length" class="plainlist row small">
        <li v-for="a in articles" :key="a" class="panel tag">
          {{ a }}
          <button
            type="button"
            class="quiet"
            :aria-label="`Take ${a} out`"
            @click="((articles = articles.filter((other) => other !== a)), write())"
          >
            take out
          </button>
        </li>
        <li v-for="f in files" :key="f.id" class="panel tag">
          {{ f.name }}
          <button type="button" class="quiet" :aria-label="`Take ${f.name} out`" @click="detach(f)">
            take out
          </button>
        </li>
      </ul>
      <label for="reply" class="hidden">Your reply</label>
      <Textarea
        id="reply"
        ref="field"
        v-model:value="text"
        :auto-size="{ minRows: 3, maxRows: 9 }"
        :maxlength="4000"
        placeholder="Your reply. Ctrl+K goes to the suggested articles, Ctrl+Enter sends."
      />
      <div class="row">
        <Button type="primary" html-type="submit" :loading="busy">Send reply</Button>
        <label class="attach"
          >Attach a file
          <input
            class="hidden"
            type="file"
            multiple
            accept=".png,.jpg,.jpeg,.gif,.webp,.pdf,.txt"
            aria-label="Attach a file"
            @change="attach"
        /></label>
      </div>
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
}
.attach {
  position: relative;
  color: var(--rubric);
  cursor: pointer;
}
.attach:hover {
  text-decoration: underline;
}
.attach:focus-within {
  outline: 2px solid var(--rubric);
  outline-offset: 3px;
}
.tag {
  padding: 0.1rem 0.5rem;
}
</style>
