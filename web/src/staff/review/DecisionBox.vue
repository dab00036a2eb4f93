<script setup lang="ts">
import { Button, Textarea } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { day, exact, time } from '../../shared/format'
import { useAct } from '../shared/act'
import Choice from '../shared/Choice.vue'
import PublishDialog from './PublishDialog.vue'

/** The decision about a text in review: its gates, the note, and what can be done. */
const props = defineProps<{ article: Schemas['Article']; round: Schemas['ReviewRound'] }>()
const emit = defineEmits<{ changed: []; decided: [] }>()
const note = ref('')
const handing = ref(false)
const to = ref(0)
const publishing = ref(false)
const { act, busy, refused } = useAct()
const path = computed(() => ({ params: { path: { reference: props.article.reference } } }))
const may = (action: string) => props.article.allowed.includes(action)
const wants = computed(() => props.round.gates.find((g) => g.here)?.note ?? false)
const decides = computed(() => may('approve') || may('send_back') || may('publish'))

async function step(action: 'approve' | 'send_back' | 'unschedule' | 'recall', done: string) {
  const ok = await act(
    () =>
      call(
        api.POST('/api/staff/articles/{reference}/actions', {
          ...path.value,
          body: {
            action,
            version: props.article.version,
            seen: props.article.state,
            gate: props.article.gate,
            note: note.value,
          },
        }),
      ),
    done,
  )
  if (ok) {
    note.value = ''
    if (action === 'unschedule') emit('changed')
    else emit('decided')
  } else if (refused.value?.kind === 'stale-save' || refused.value?.kind === 'not-now') emit('changed')
}
async function handOn() {
  const ok = await act(
    () =>
      call(
        api.POST('/api/staff/articles/{reference}/hand-on', {
          ...path.value,
          body: { to: to.value, note: note.value },
        }),
      ),
    'Handed on',
  )
  if (!ok) return
  handing.value = false
  note.value = ''
  emit('changed')
}
function key(e: KeyboardEvent) {
  if ((e.ctrlKey || e.metaKey) && e.key === 'Enter' && may('approve')) void step('approve', 'Passed')
}
</script>

<template>
  <section aria-label="Decision">
    <ol class="gates small" :aria-label="`The path ${round.path}`">
      <li v-for="g in round.gates" :key="g.name" :class="{ here: g.here, passed: g.passed }">
        <strong>{{ g.name }}</strong>
        <span class="faded">{{ g.passed ? `passed by ${g.passed}` : g.who }}</span>
      </li>
    </ol>
    <p v-if="round.path_now" class="small note">
      It stays on the path it entered. Its category now has {{ round.path_now }}.
    </p>
    <p v-if="round.stuck" class="fault small" role="alert">
      Stuck: nobody can pass this gate. An administrator can entitle somebody, or its author takes it back and
      sends it again.
    </p>
    <p v-if="round.overdue && round.overdue_at" class="fault small">
      Overdue since {{ exact(round.overdue_at) }}
    </p>
    <p v-if="round.assignee.name" class="small">{{ round.assignee.name }} is asked to decide.</p>
    <p v-if="round.batch.id" class="small">
      Part of the batch
      <RouterLink :to="`/review/batches/${round.batch.id}`">{{ round.batch.name }}</RouterLink>, with which it
      goes live.
    </p>
    <p v-if="round.due" class="small">
      Goes live on
      <strong :title="exact(round.due.at)">{{ day(round.due.at) }}, {{ time(round.due.at) }}</strong> ({{
        round.due.zone
      }}), set by {{ round.due.who }}.
      <button
        v-if="may('unschedule')"
        type="button"
        class="quiet"
        @click="step('unschedule', 'Taken off the schedule')"
      >
        Take it off
      </button>
    </p>
    <p v-if="round.why && article.state === 'in_review'" class="small faded">{{ round.why }}</p>
    <template v-if="decides || handing">
      <label for="note" class="small">Decision note</label>
      <Textarea
        id="note"
        v-model:value="note"
        :rows="4"
        :maxlength="2000"
        :placeholder="
          wants ? 'What you checked: this gate wants it said.' : 'What is right, or what should change.'
        "
        @keydown="key"
      />
      <div class="row decide">
        <Button
          v-if="may('approve')"
          type="primary"
          :loading="busy"
          title="Ctrl+Enter"
          @click="step('approve', 'Passed')"
          >Approve</Button
        >
        <Button
          v-if="may('publish')"
          :type="may('approve') ? 'default' : 'primary'"
          @click="publishing = true"
          >Publish…</Button
        >
        <Button v-if="may('send_back')" :disabled="busy" @click="step('send_back', 'Sent back')"
          >Send back</Button
        >
      </div>
    </template>
    <p class="row small">
      <button
        v-if="round.candidates.length > 1 || round.assignee.id"
        type="button"
        class="quiet"
        @click="handing = !handing"
      >
        Hand to somebody
      </button>
      <button v-if="may('recall')" type="button" class="quiet" @click="step('recall', 'Taken out of review')">
        Take it out of review
      </button>
    </p>
    <form v-if="handing" class="row" @submit.prevent="handOn">
      <label class="hidden" for="hand-to">To whom</label>
      <Choice
        id="hand-to"
        v-model="to"
        small
        :options="[
          { value: 0, label: 'Choose…' },
          ...round.candidates.map((c) => ({ value: c.id, label: c.name })),
        ]"
      />
      <Button size="small" html-type="submit" :disabled="!to" :loading="busy">Hand it on</Button>
    </form>
    <p v-if="refused" class="fault small" role="alert">{{ refused.problem.detail }}</p>
    <details v-if="round.decisions.length" class="small" open>
      <summary>Decided so far</summary>
      <ul class="plainlist">
        <li v-for="(d, i) in round.decisions" :key="i" :class="{ cleared: d.cleared }">
          <strong>{{ d.who }}</strong>
          {{ { approve: 'let it pass', send_back: 'sent it back at', hand_on: 'handed it on at' }[d.action] }}
          “{{ d.gate }}”, revision {{ d.revision }}
          <span class="faded" :title="exact(d.at)">{{ day(d.at) }}</span>
          <span v-if="d.cleared" class="faded"> · cleared: the text changed afterwards</span>
          <span v-if="d.note" class="said">{{ d.note }}</span>
        </li>
      </ul>
    </details>
    <PublishDialog v-model:open="publishing" :article="article" :note="note" @done="emit('decided')" />
  </section>
</template>

<style scoped>
.gates {
  list-style: none;
  margin: 0 0 0.6rem;
  padding: 0;
  border-left: 2px solid var(--rule);
}
.gates li {
  padding: 0.1rem 0 0.1rem 0.7rem;
  margin-left: -2px;
  border-left: 2px solid transparent;
}
.gates li.here {
  border-color: var(--rubric);
}
.gates li.passed {
  border-color: var(--ink);
}
.gates .faded {
  margin-left: 0.4rem;
}
.note {
  padding-left: 0.6rem;
  border-left: 2px solid var(--ochre);
}
.decide {
  margin: 0.6rem 0 0.3rem;
}
.cleared > strong {
  text-decoration: line-through;
}
.said {
  display: block;
  white-space: pre-line;
  overflow-wrap: anywhere;
}
section p {
  margin: 0.35rem 0;
}
</style>
