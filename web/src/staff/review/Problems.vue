<script setup lang="ts">
import { Button, Input, Textarea } from 'ant-design-vue'
import { ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { ago, exact } from '../../shared/format'
import Choice from '../shared/Choice.vue'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import { may } from '../session'
import { useAct } from '../shared/act'
import { audienceChoices, audienceWords } from '../customers/audiences'
import { useLoad } from '../shared/load'

/** Known problems: one cause of many questions, and what customers are told of it. */
const problems = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/known-problems')),
)
const { act, busy, refused } = useAct()
const name = ref('')
const editing = ref<Schemas['KnownProblem']>()
const mayOpen = may('open_problems')
const mayTell = may('tell_customers')

async function open() {
  if (
    await act(() => call(api.POST('/api/staff/known-problems', { body: { name: name.value } })), 'Opened')
  ) {
    name.value = ''
    await problems.reload()
  }
}
async function solve(id: number) {
  const at = { params: { path: { id } } }
  if (await act(() => call(api.POST('/api/staff/known-problems/{id}/solve', at)), 'Solved'))
    await problems.reload()
}
async function tell() {
  const p = editing.value
  if (!p) return
  const body = { notice: p.notice, audience: p.audience, reference: p.reference.toUpperCase() }
  const at = { params: { path: { id: p.id } } }
  if (await act(() => call(api.PUT('/api/staff/known-problems/{id}/notice', { ...at, body })), 'Kept')) {
    editing.value = undefined
    await problems.reload()
  }
}
const fault = (field: string) => refused.value?.field(field)
</script>

<template>
  <Frame>
    <p class="small"><RouterLink to="/settings">Settings</RouterLink> › Known problems</p>
    <h1>Known problems</h1>
    <p class="faded">
      One cause of many questions. While it is open, the help centre can say so on its first page.
    </p>
    <Failed v-if="problems.error.value" :error="problems.error.value" @retry="problems.reload" />
    <ul class="plainlist panel list">
      <li v-for="p in problems.value.value ?? []" :key="p.id">
        <div class="row spread">
          <span>
            <strong>{{ p.name }}</strong>
            <span class="faded small more" :title="exact(p.solved_at ?? p.opened_at)">{{
              p.solved_at ? `solved ${ago(p.solved_at)}` : `open since ${ago(p.opened_at)}`
            }}</span>
          </span>
          <span v-if="!p.solved_at" class="row">
            <button
              v-if="mayTell"
              type="button"
              class="quiet"
              :aria-label="`What customers are told of ${p.name}`"
              @click="editing = { ...p }"
            >
              What customers are told
            </button>
            <button
              v-if="mayOpen"
              type="button"
              class="quiet"
              :aria-label="`Solved: ${p.name}`"
              @click="solve(p.id)"
            >
              Solved
            </button>
          </span>
        </div>
        <p v-if="p.notice && editing?.id !== p.id" class="small notice">
          “{{ p.notice }}” <span class="faded">for {{ audienceWords(p.audience) }}</span>
          <RouterLink v-if="p.reference" :to="`/library/${p.reference}`" class="more">{{
            p.reference
          }}</RouterLink>
        </p>
        <form v-if="editing?.id === p.id" class="fields" @submit.prevent="tell">
          <label for="notice">The notice; none takes it away</label>
          <Textarea id="notice" v-model:value="editing.notice" :rows="2" :maxlength="300" />
          <p v-if="fault('notice')" class="fault">{{ fault('notice') }}</p>
          <label for="notice-for">For</label>
          <Choice id="notice-for" v-model="editing.audience" :options="audienceChoices" />
          <label for="notice-article">The article that says more, if there is one</label>
          <Input id="notice-article" v-model:value="editing.reference" placeholder="A-0042" :maxlength="12" />
          <p v-if="fault('reference')" class="fault">{{ fault('reference') }}</p>
          <div class="row">
            <Button type="primary" html-type="submit" :loading="busy">Tell customers</Button>
            <Button @click="editing = undefined">Cancel</Button>
          </div>
        </form>
      </li>
      <li v-if="problems.value.value && !problems.value.value.length" class="faded">None is known.</li>
    </ul>
    <form v-if="mayOpen" class="row" @submit.prevent="open">
      <label class="hidden" for="problem-name">A new problem</label>
      <Input
        id="problem-name"
        v-model:value="name"
        class="name"
        :maxlength="120"
        placeholder="Outage between two villages"
      />
      <Button html-type="submit" :loading="busy" :disabled="!name.trim()">Open a problem</Button>
    </form>
  </Frame>
</template>

<style scoped>
.list li {
  padding: 0.6rem 0.9rem;
  border-bottom: 1px solid var(--rule);
}
.more {
  margin-left: 0.6rem;
}
.notice {
  margin: 0.2rem 0 0;
}
.list {
  margin-bottom: 1rem;
}
.name {
  width: 22rem;
}
.fields {
  display: grid;
  gap: 0.3rem;
  max-width: 40rem;
  margin-top: 0.5rem;
}
</style>
