<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { ago, exact } from '../../shared/format'
import { useAct } from '../shared/act'
import Dialog from '../shared/Dialog.vue'

/** Where a flow stands on its way through its review path, and the next step of whoever reads it. */
const props = defineProps<{
  flow: Schemas['FlowView']
  save: () => Promise<void>
  version: () => number
}>()
const emit = defineEmits<{ changed: [] }>()
const { act, busy, refused } = useAct()

type Action = Schemas['FlowStep']['action']
const way = computed(() => props.flow.way)
const may = (action: Action) => way.value.allowed.includes(action)
const last = computed(() => way.value.decisions.find((d) => !d.cleared))
const asking = ref<Action>()
const note = ref('')
const words: Record<Action, { title: string; does: string; done: string }> = {
  submit: { title: '', does: 'Send to review', done: 'Sent to review' },
  recall: { title: '', does: 'Take it back', done: 'Taken back' },
  approve: { title: 'Let it pass this gate', does: 'Let it pass', done: 'It passed' },
  send_back: { title: 'Send it back', does: 'Send back', done: 'Sent back' },
}

function ask(action: Action) {
  note.value = ''
  asking.value = action
}
async function move(action: Action) {
  if (action === 'submit') await props.save()
  const ok = await act(
    () =>
      call(
        api.POST('/api/staff/flows/{slug}/steps', {
          params: { path: { slug: props.flow.slug } },
          body: { action, copy: props.version(), gate: way.value.gate, note: note.value },
        }),
      ),
    words[action].done,
  )
  if (ok) asking.value = undefined
  if (ok) emit('changed')
}
</script>

<template>
  <div class="panel way" role="group" aria-label="Review">
    <p>
      <template v-if="way.state === 'in_review'">
        In review since <span :title="exact(way.since ?? '')">{{ ago(way.since ?? '') }}</span>: it stands
        before the gate “{{ way.gate }}”, for {{ way.who }} to look at.
      </template>
      <template v-else-if="way.state === 'approved'">Every gate is passed: it can go live.</template>
      <template v-else-if="way.state === 'sent_back'">It was sent back.</template>
      <template v-else>It goes live by the review path “{{ way.path }}”.</template>
      <span v-if="last?.note" class="said">{{ last.by }}: “{{ last.note }}”</span>
    </p>
    <RouterLink v-if="flow.version && flow.changed" :to="`/flows/${flow.slug}/changes?before=${flow.version}`"
      >What changed</RouterLink
    >
    <Button v-if="may('submit') && flow.changed" size="small" :loading="busy" @click="move('submit')"
      >Send to review</Button
    >
    <Button v-if="may('approve')" size="small" type="primary" @click="ask('approve')">Let it pass…</Button>
    <Button v-if="may('send_back')" size="small" @click="ask('send_back')">Send back…</Button>
    <Button v-if="may('recall')" size="small" :loading="busy" @click="move('recall')">Take it back</Button>
    <span v-if="way.state === 'in_review' && way.refused" class="faded small">{{ way.refused }}</span>
    <p v-if="refused && !asking" class="fault wide" role="alert">{{ refused.message }}</p>
  </div>
  <Dialog
    v-if="asking"
    :open="!!asking"
    :title="words[asking].title"
    @update:open="(open: boolean) => !open && (asking = undefined)"
  >
    <form @submit.prevent="asking && move(asking)">
      <label for="way-note">{{ asking === 'send_back' ? 'What should change' : 'What you looked at' }}</label>
      <textarea id="way-note" v-model="note" rows="3" maxlength="1000" />
      <p v-if="refused" class="fault" role="alert">{{ refused.message }}</p>
      <Button
        type="primary"
        html-type="submit"
        :loading="busy"
        :disabled="asking === 'send_back' && !note.trim()"
        >{{ words[asking].does }}</Button
      >
    </form>
  </Dialog>
</template>

<style scoped>
.way {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.4rem 0.8rem;
  padding: 0.5rem 0.8rem;
  margin: 0 0 0.8rem;
}
p {
  margin: 0;
}
.way > p:first-child {
  flex: 1 1 20rem;
}
.said {
  display: block;
  font-style: italic;
}
.wide {
  flex-basis: 100%;
}
form {
  display: grid;
  gap: 0.5rem;
}
textarea {
  font: inherit;
  padding: 0.4rem 0.6rem;
  border: 1px solid var(--rule);
  border-radius: 4px;
}
form button {
  justify-self: start;
}
</style>
