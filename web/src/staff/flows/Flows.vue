<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { api, call, Refused, type Schemas } from '../../shared/api/client'
import { ago, exact } from '../../shared/format'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import ScriptPlay from './ScriptPlay.vue'
import { may } from '../session'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'

const slug = 'front-door'
const key = `hermeneus:flow:${slug}`
const { act, busy } = useAct()
const editing = ref(false)
const source = ref('')
const base = ref(0)
const faults = ref<Schemas['Fault'][]>()
const rehearsal = ref(0)

const beginning = `{
  "name": "Front door",
  "language": "en",
  "start": "hello",
  "free_text": "find",
  "turns": [
    {"id": "hello", "kind": "say", "text": "Hello, I am the help bot.", "next": "find"},
    {"id": "find", "kind": "look_up", "text": "What would you like to know?", "helped": "bye", "not_helped": "ask", "nothing": "ask"},
    {"id": "ask", "kind": "request", "text": "Write it down, and a person answers.", "team": "Accounts", "next": "bye"},
    {"id": "bye", "kind": "close", "text": "Goodbye."}
  ]
}`

const {
  value: flow,
  error,
  reload,
} = useLoad(
  () => slug,
  () => call(api.GET('/api/staff/flows/{slug}', { params: { path: { slug } } })),
)
const missing = computed(() => error.value instanceof Refused && error.value.kind === 'not-found')

function edit() {
  const kept = localStorage.getItem(key)
  const draft = kept ? (JSON.parse(kept) as { source: string; base: number }) : undefined
  source.value = draft?.source ?? flow.value?.source ?? beginning
  base.value = draft?.base ?? flow.value?.version ?? 0
  faults.value = undefined
  editing.value = true
}
watch(source, (now) => {
  faults.value = undefined
  if (editing.value) localStorage.setItem(key, JSON.stringify({ source: now, base: base.value }))
})

function drop() {
  localStorage.removeItem(key)
  editing.value = false
}

async function check() {
  await act(async () => {
    faults.value = await call(api.POST('/api/staff/flow-checks', { body: { source: source.value } }))
  })
}

async function publish() {
  await check()
  if (faults.value?.length) return
  const ok = await act(
    () =>
      call(
        api.PUT('/api/staff/flows/{slug}', {
          params: { path: { slug } },
          body: { source: source.value, base: base.value },
        }),
      ),
    'Published',
  )
  if (!ok) return
  drop()
  rehearsal.value++
  await reload()
}
</script>

<template>
  <Frame margin-title="Rehearsal">
    <Failed v-if="error && !missing" :error="error" @retry="reload" />
    <div class="row spread">
      <h1>{{ flow?.script.name ?? 'Front door' }}</h1>
      <div v-if="may('publish')" class="row">
        <template v-if="editing">
          <Button @click="drop">Drop the draft</Button>
          <Button :loading="busy" @click="check">Check</Button>
          <Button type="primary" :loading="busy" @click="publish">Publish now</Button>
        </template>
        <Button v-else :type="missing ? 'primary' : 'default'" @click="edit">{{
          missing ? 'Write the first script' : 'Edit the script'
        }}</Button>
      </div>
    </div>
    <p v-if="flow" class="faded">
      Version {{ flow.version }} is live, published by {{ flow.published_by }}
      <span :title="exact(flow.published_at)">{{ ago(flow.published_at) }}</span>. Conversations that are
      running keep the version they began with.
    </p>
    <template v-if="editing">
      <label for="source" class="faded"
        >The script, as JSON. It is kept in this browser until you publish or drop it.</label
      >
      <textarea id="source" v-model="source" class="source panel" spellcheck="false" />
      <div v-if="faults" role="status">
        <p v-if="!faults.length">The checks find nothing wrong.</p>
        <ul v-else class="plainlist">
          <li v-for="(f, i) in faults" :key="i" class="fault">
            <strong v-if="f.turn || f.field">{{ [f.turn, f.field].filter(Boolean).join(' · ') }}:</strong>
            {{ f.message }}
          </li>
        </ul>
      </div>
    </template>
    <p v-else-if="missing" class="empty">
      The bot has nothing to say yet. Its script will stand here like a play: what the bot says, what
      customers choose, and where each choice leads.
    </p>
    <ScriptPlay v-else-if="flow" :flow="flow" />
    <template v-if="flow" #margin>
      <div class="row spread">
        <h2 class="first">Rehearsal</h2>
        <button type="button" class="quiet" @click="rehearsal++">Start again</button>
      </div>
      <p class="small faded">
        You talk to the live version. As staff you are never counted, and nobody is called.
      </p>
      <iframe :key="rehearsal" src="/chat?new=1" title="Rehearsal of the flow" class="panel" />
    </template>
  </Frame>
</template>

<style scoped>
.source {
  width: 100%;
  height: 26rem;
  font:
    13px/1.5 ui-monospace,
    monospace;
  padding: 0.8rem;
  margin: 0.4rem 0 0.8rem;
}
.first {
  margin: 0;
}
iframe {
  width: 100%;
  height: calc(100vh - 220px);
  min-height: 22rem;
}
</style>
