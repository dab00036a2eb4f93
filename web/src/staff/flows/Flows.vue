<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, call, type Schemas } from '../../shared/api/client'
import Choice from '../shared/Choice.vue'
import { ago, exact } from '../../shared/format'
import Dialog from '../shared/Dialog.vue'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import { useAct } from '../shared/act'
import { useKey } from '../shared/keys'
import { useLoad } from '../shared/load'
import { may } from '../session'

const router = useRouter()
const { act, busy, refused } = useAct()
const {
  value: flows,
  error,
  reload,
} = useLoad(
  () => 'flows',
  () => call(api.GET('/api/staff/flows')),
  'flows',
)
const words = useLoad(
  () => 'words',
  () => call(api.GET('/api/staff/flow-words')),
  'flow words',
)

const beginning = ref(false)
const name = ref('')
const from = ref('')
const language = ref('en')

function begin() {
  name.value = from.value = ''
  beginning.value = true
}
useKey('n', (e) => {
  if (!may('write') && !may('publish')) return
  e.preventDefault()
  begin()
})

async function create() {
  let slug = ''
  const ok = await act(async () => {
    const body = { name: name.value, from: from.value, language: language.value }
    slug = (await call(api.POST('/api/staff/flows', { body }))).slug
  })
  if (ok) await router.push(`/flows/${slug}`)
}

const states: Record<string, string> = {
  draft: 'being written',
  live: 'live',
  changed: 'live, and being changed',
  ended: 'ended',
}

function meets(e: Schemas['Entry']): string {
  const site = words.value.value?.sites.find((s) => s.id === e.site)?.name
  const group = words.value.value?.groups.find((g) => g.key === e.group)?.name
  const parts = [
    group ? `customers in ${group}` : 'everybody',
    e.page && `on pages that begin with ${e.page}`,
    site && `at ${site}`,
    e.hours && `while we are ${e.hours}`,
  ]
  return parts.filter(Boolean).join(' ')
}
</script>

<template>
  <Frame>
    <div class="row spread">
      <h1>Flows</h1>
      <Button v-if="may('write') || may('publish')" type="primary" @click="begin">New flow</Button>
    </div>
    <Failed v-if="error" :error="error" @retry="reload" />
    <p v-else-if="flows && !flows.length" class="empty">
      The bot has nothing to say yet. Its conversations will stand here, each a script that reads like a play.
      <template v-if="may('write') || may('publish')">Begin with <em>New flow</em>.</template>
    </p>
    <table v-else-if="flows" class="flows">
      <thead>
        <tr>
          <th>Flow</th>
          <th>State</th>
          <th>Meets</th>
          <th>Owner</th>
          <th class="number">Now in it</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="f in flows" :key="f.slug" :class="{ faded: f.state === 'ended' }">
          <td>
            <RouterLink :to="`/flows/${f.slug}`">{{ f.name }}</RouterLink>
            <div v-if="f.faults" class="fault small">
              {{ f.faults }} {{ f.faults === 1 ? 'error' : 'errors' }} since
              <span :title="exact(f.faults_since ?? '')">{{ ago(f.faults_since ?? '') }}</span>
            </div>
          </td>
          <td>
            {{ states[f.state] }}
            <div class="faded small">
              <template v-if="f.version">
                version {{ f.version }},
                <span :title="exact(f.published_at ?? '')">{{ ago(f.published_at ?? '') }}</span>
              </template>
              <template v-else-if="f.written_at">written {{ ago(f.written_at) }}</template>
            </div>
          </td>
          <td>
            <div v-for="e in f.entries" :key="e.id">{{ meets(e) }}</div>
            <span v-if="!f.entries.length" class="faded">nobody by itself</span>
          </td>
          <td>{{ f.owner }}</td>
          <td class="number">{{ f.running }}</td>
        </tr>
      </tbody>
    </table>
    <Dialog v-model:open="beginning" title="New flow">
      <form @submit.prevent="create">
        <label for="flow-name">Name</label>
        <input id="flow-name" v-model="name" maxlength="80" required autocomplete="off" />
        <label for="flow-from">Begin with</label>
        <Choice
          id="flow-from"
          v-model="from"
          :options="
            (words.value.value?.starters ?? []).map((s) => ({
              value: s.key,
              label: `${s.name} – ${s.about}`,
            }))
          "
        />
        <label for="flow-language">Language</label>
        <Choice
          id="flow-language"
          v-model="language"
          :options="(words.value.value?.languages ?? ['en']).map((l) => ({ value: l, label: l }))"
        />
        <p v-if="refused" class="fault" role="alert">{{ refused.message }}</p>
        <Button type="primary" html-type="submit" :loading="busy" :disabled="!name.trim()"
          >Begin writing</Button
        >
      </form>
    </Dialog>
  </Frame>
</template>

<style scoped>
.flows {
  width: 100%;
  border-collapse: collapse;
  background: var(--leaf);
  border: 1px solid var(--rule);
}
th {
  text-align: left;
  font: 600 0.85rem var(--face);
  color: var(--faded);
}
th,
td {
  padding: 0.55rem 0.8rem;
  border-bottom: 1px solid var(--rule);
  vertical-align: top;
}
.number {
  text-align: right;
}
form {
  display: grid;
  gap: 0.4rem;
}
form input {
  font: inherit;
  padding: 0.3rem 0.6rem;
  border: 1px solid var(--rule);
  border-radius: 4px;
}
form button {
  justify-self: start;
  margin-top: 0.6rem;
}
</style>
