<script setup lang="ts">
import { Button, Textarea } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { api, call } from '../../shared/api/client'
import { ago, counted, day, exact, time } from '../../shared/format'
import BatchForm from './BatchForm.vue'
import BatchMembers from './BatchMembers.vue'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import TimeField from '../shared/TimeField.vue'
import { useAct } from '../shared/act'
import { sure } from '../shared/sure'
import { useLoad } from '../shared/load'

/** Texts that are reviewed, scheduled, published and undone as one. */
const props = defineProps<{ id: string }>()
const path = computed(() => ({ params: { path: { id: Number(props.id) } } }))
const { act, busy, refused } = useAct()
const {
  value: batch,
  error,
  reload,
} = useLoad(
  () => props.id,
  () => call(api.GET('/api/staff/batches/{id}', path.value)),
)
const note = ref('')
const scheduling = ref(false)
const at = ref('')
const second = ref(false)
const may = (what: string) => batch.value?.may.includes(what) ?? false
const ended = computed(() => ['published', 'undone', 'given_up'].includes(batch.value?.state ?? ''))
const words: Record<string, string> = {
  open: 'Open',
  scheduled: 'Scheduled',
  published: 'Published',
  undone: 'Undone',
  given_up: 'Given up',
}
const waiting = ref<string[]>([])
const comments = computed(() => (batch.value?.members ?? []).reduce((n, m) => n + m.comments, 0))
const openComments = computed(() =>
  comments.value ? `${counted(comments.value, 'comment')} on them are open. ` : '',
)

type Action = 'submit' | 'approve' | 'send_back' | 'publish' | 'schedule' | 'unschedule' | 'undo' | 'give_up'
async function step(action: Action, done: string) {
  const ok = await act(async () => {
    const came = await call(
      api.POST('/api/staff/batches/{id}/actions', {
        ...path.value,
        body: {
          action,
          stand: batch.value?.stand,
          note: note.value,
          ...(action === 'schedule' ? { at: at.value, second: second.value } : {}),
        },
      }),
    )
    waiting.value = came.waiting
  }, done)
  if (ok) {
    note.value = ''
    scheduling.value = false
  }
  await reload()
}
function ask(action: Action, title: string, content: string, okText: string, done: string) {
  sure(title, content, okText, () => step(action, done))
}
async function takeOut(reference: string) {
  const b = batch.value
  if (!b) return
  const ok = await act(() =>
    call(
      api.PUT('/api/staff/batches/{id}', {
        ...path.value,
        body: { name: b.name, note: b.note, remove: [reference] },
      }),
    ),
  )
  if (ok) await reload()
}
</script>

<template>
  <Frame margin-title="The batch">
    <Failed v-if="error" :error="error" @retry="reload" />
    <template v-if="batch">
      <p class="crumbs small"><RouterLink to="/review">Review</RouterLink> › Batch</p>
      <h1>{{ batch.name }}</h1>
      <p class="faded">
        {{ words[batch.state] }} · {{ counted(batch.members.length, 'article') }}
        <template v-if="!ended">· {{ batch.ready }} past every gate</template>
        <template v-if="batch.ended_at">
          · <span :title="exact(batch.ended_at)">{{ ago(batch.ended_at) }}</span>
          {{ batch.ended_by }}</template
        >
      </p>
      <p v-if="!batch.members.length" class="empty">
        Nothing is in it yet. Add articles by their references, at the right.
      </p>
      <BatchMembers :members="batch.members" :changeable="may('change')" @take-out="takeOut" />
    </template>
    <template v-if="batch" #margin>
      <h2 class="first">All of them, as one</h2>
      <p v-if="batch.due" class="small">
        Goes live on
        <strong :title="exact(batch.due.at)">{{ day(batch.due.at) }}, {{ time(batch.due.at) }}</strong> ({{
          batch.due.zone
        }}), set by {{ batch.due.who }}.
      </p>
      <p v-if="comments && !ended" class="small open" role="status">
        <strong>{{ openComments }}</strong> Publishing leaves them so.
      </p>
      <div v-if="batch.conflicts.length" class="fault small" role="alert">
        <p v-for="c in batch.conflicts" :key="c">{{ c }}</p>
      </div>
      <template v-if="may('approve') || may('send_back')">
        <label for="note" class="small">Decision note</label>
        <Textarea
          id="note"
          v-model:value="note"
          :rows="3"
          :maxlength="2000"
          placeholder="For all that you decide about"
        />
      </template>
      <div class="row steps">
        <Button v-if="may('submit')" type="primary" :loading="busy" @click="step('submit', 'Sent to review')"
          >Send to review</Button
        >
        <Button v-if="may('approve')" type="primary" :loading="busy" @click="step('approve', 'Passed')"
          >Approve</Button
        >
        <Button v-if="may('send_back')" :loading="busy" @click="step('send_back', 'Sent back')"
          >Send back</Button
        >
        <Button
          v-if="may('publish')"
          type="primary"
          :loading="busy"
          @click="
            ask(
              'publish',
              `Publish ${counted(batch.members.length, 'article')}?`,
              `${openComments}Customers see all of them changed at once.`,
              'Publish them',
              'Published',
            )
          "
          >Publish all now</Button
        >
        <Button v-if="may('schedule')" @click="scheduling = !scheduling">At a time…</Button>
        <Button v-if="may('unschedule')" :loading="busy" @click="step('unschedule', 'Taken off the schedule')"
          >Take it off the schedule</Button
        >
        <Button
          v-if="may('undo')"
          @click="
            ask(
              'undo',
              'Undo this batch?',
              'What was live before is live again, for all of them.',
              'Undo it',
              'Undone',
            )
          "
          >Undo it</Button
        >
      </div>
      <form v-if="scheduling" @submit.prevent="step('schedule', 'The time is set')">
        <TimeField v-model:at="at" v-model:second="second" :zone="batch.zone" :fault="refused?.field('at')" />
        <Button class="steps" type="primary" html-type="submit" :loading="busy">Set the time</Button>
      </form>
      <p v-if="refused && !refused.field('at')" class="fault small" role="alert">
        {{ refused.problem.detail }}
      </p>
      <ul v-if="waiting.length" class="small" role="status">
        <li v-for="w in waiting" :key="w">{{ w }}</li>
      </ul>
      <BatchForm
        v-if="may('change')"
        :batch="batch"
        @changed="reload"
        @give-up="
          ask(
            'give_up',
            'Give this batch up?',
            'Its texts go their own ways; nothing of them is lost.',
            'Give it up',
            'Given up',
          )
        "
      />
      <p v-else-if="batch.note" class="small">For readers: {{ batch.note }}</p>
    </template>
  </Frame>
</template>

<style scoped>
.crumbs {
  margin: 0 0 0.5rem;
}
.first {
  margin-top: 0;
}
.steps {
  margin: 0.6rem 0;
}
.open {
  padding-left: 0.6rem;
  border-left: 3px solid var(--ochre);
}
</style>
