<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { api, call, type Refused, type Schemas } from '../../shared/api/client'
import Choice from '../shared/Choice.vue'
import { ago, exact } from '../../shared/format'
import { useAct } from '../shared/act'
import { useSaying } from '../shared/delivery'
import Dialog from '../shared/Dialog.vue'
import { useKey } from '../shared/keys'
import FlowWay from './FlowWay.vue'

const props = defineProps<{
  flow: Schemas['FlowView']
  other?: Schemas['Holder']
  status: string
  savedAt: string
  fault?: Refused
  checked?: Schemas['Checked']
  languages: string[]
  beside: string
  save: () => Promise<void>
  version: () => number
}>()
const emit = defineEmits<{
  takeOver: []
  goOn: [mine: boolean]
  published: []
  changed: []
  beside: [language: string]
}>()
const { act, busy, refused } = useAct()

const saying = useSaying(props)
const others = computed(() =>
  props.languages.filter((l) => l !== (props.checked?.language ?? props.flow.language)),
)

const publishing = ref(false)
const note = ref('')
const may = computed(() => props.flow.may_publish && props.flow.changed && props.status !== 'stale')
async function ask() {
  await props.save()
  note.value = ''
  publishing.value = true
}
useKey('Enter', () => may.value && !publishing.value && void ask(), { ctrl: true, typing: true })

async function publish() {
  const ok = await act(
    () =>
      call(
        api.POST('/api/staff/flows/{slug}/versions', {
          params: { path: { slug: props.flow.slug } },
          body: { copy: props.version(), note: note.value },
        }),
      ),
    'Published',
  )
  if (!ok) return
  publishing.value = false
  emit('published')
}
</script>

<template>
  <div class="row spread top">
    <h1>{{ checked?.name || flow.name }}</h1>
    <div class="row">
      <Choice
        v-if="others.length"
        :model-value="beside"
        :options="[
          { value: '', label: 'One language' },
          ...others.map((l) => ({ value: l, label: `Beside it: ${l}` })),
        ]"
        aria-label="The other language that stands beside"
        small
        class="beside"
        @chosen="(l) => emit('beside', String(l))"
      />
      <Button v-if="flow.may_publish" type="primary" :disabled="!may" @click="ask">Publish…</Button>
    </div>
  </div>
  <p class="faded state">
    <template v-if="flow.state === 'ended'">Ended. </template>
    <template v-else-if="flow.version">
      Version {{ flow.version }} is live since
      <span :title="exact(flow.published_at ?? '')">{{ ago(flow.published_at ?? '') }}</span>{{
        flow.changed ? '; this is its next one.' : '.'
      }}
    </template>
    <template v-else>Nobody meets it before it is published. </template>
    <span class="small saying" role="status">{{ saying }}</span>
  </p>
  <p v-if="other" class="panel note">
    {{ other.name }} is writing this. You read along.
    <button v-if="flow.may_publish" type="button" class="quiet" @click="emit('takeOver')">Take over</button>
  </p>
  <p v-if="status === 'stale'" class="panel note" role="alert">
    {{ flow.writer }} saved a newer text. Yours is here and not saved.
    <button type="button" class="quiet" @click="emit('goOn', true)">Keep mine</button> ·
    <button type="button" class="quiet" @click="emit('goOn', false)">Take theirs</button>
    <span class="faded small">Either way both stay among the earlier states.</span>
  </p>
  <FlowWay v-if="flow.way.path_id" :flow="flow" :save="save" :version="version" @changed="emit('changed')" />
  <p v-if="flow.faults" class="panel note fault" role="status">
    Since {{ ago(flow.faults_since ?? '') }} the live version has {{ flow.faults }}
    {{ flow.faults === 1 ? 'error' : 'errors' }}: something that it leans on has changed.
  </p>
  <Dialog v-model:open="publishing" title="Publish this script">
    <form @submit.prevent="publish">
      <p v-if="checked?.errors" class="fault">
        The checks find {{ checked.errors }} {{ checked.errors === 1 ? 'error' : 'errors' }}. Nothing goes
        live before {{ checked.errors === 1 ? 'it is' : 'they are' }} mended.
      </p>
      <template v-else>
        <p>
          Whoever comes from now on meets it. {{ flow.running }}
          {{ flow.running === 1 ? 'conversation goes' : 'conversations go' }} on in the version
          {{ flow.running === 1 ? 'it' : 'they' }} began with.
        </p>
        <p v-if="checked?.warnings">
          The checks warn {{ checked.warnings }} {{ checked.warnings === 1 ? 'time' : 'times' }}. Say why it
          goes live all the same.
        </p>
        <label for="version-note">What is new{{ checked?.warnings ? '' : ' (if you like)' }}</label>
        <textarea id="version-note" v-model="note" rows="3" maxlength="1000" />
        <p v-if="refused" class="fault" role="alert">{{ refused.message }}</p>
        <Button
          type="primary"
          html-type="submit"
          :loading="busy"
          :disabled="!!checked?.warnings && !note.trim()"
          >Publish now</Button
        >
      </template>
    </form>
  </Dialog>
</template>

<style scoped>
.top h1 {
  margin: 0;
}
.state {
  margin: 0.2rem 0 0.8rem;
}
.saying {
  margin-left: 0.4rem;
}
.note {
  padding: 0.5rem 0.8rem;
  margin: 0 0 0.8rem;
}
.beside {
  width: 9.5rem;
}
form {
  display: grid;
  gap: 0.5rem;
}
form p {
  margin: 0;
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
