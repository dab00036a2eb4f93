<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, call, type Schemas } from '../../shared/api/client'
import { ago, counted, day, exact, time } from '../../shared/format'
import FlowLane from './FlowLane.vue'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import { who } from '../session'
import { useKey } from '../shared/keys'
import { useFresh, useLoad } from '../shared/load'

const router = useRouter()
const {
  value: lanes,
  error,
  reload,
} = useLoad(
  () => who.value?.id,
  () => call(api.GET('/api/staff/lanes')),
  'lanes',
)
const batches = useLoad(
  () => who.value?.id,
  () => call(api.GET('/api/staff/batches')),
  'batches',
)
const flows = useLoad(
  () => who.value?.id,
  () => call(api.GET('/api/staff/flow-reviews')),
  'flow reviews',
)
useFresh(async () => {
  await Promise.all([reload(), flows.reload()])
})

// A lane of hundreds is drawn in part, until somebody asks for all of it.
const Shown = 30
const whole = ref<string[]>([])
const shown = (l: Schemas['Lane']) =>
  whole.value.includes(l.kind + l.name) ? l.items : l.items.slice(0, Shown)
const mine = computed(() => (lanes.value ?? []).flatMap((l) => shown(l).filter((i) => i.mine)))
const going = computed(() =>
  (batches.value.value ?? []).filter((b) => ['open', 'scheduled'].includes(b.state)),
)
const ended = computed(() =>
  (batches.value.value ?? []).filter((b) => !['open', 'scheduled'].includes(b.state)),
)
const words: Record<string, string> = { published: 'published', undone: 'undone', given_up: 'given up' }
const opens = (l: Schemas['Lane'], i: Schemas['QueueItem']) =>
  (l.kind === 'sent_back' ? '/library/' : '/review/') + i.reference

const at = ref(-1)
useKey('Enter', (e) => {
  const i = mine.value[at.value]
  if (i && !/^(A|BUTTON|SUMMARY)$/.test((e.target as HTMLElement).tagName))
    void router.push('/review/' + i.reference)
})
useKey(['j', 'k'], (e) => {
  at.value = Math.min(mine.value.length - 1, Math.max(0, at.value + (e.key === 'j' ? 1 : -1)))
  document
    .querySelector(`[data-ref="${mine.value[at.value]?.reference}"]`)
    ?.scrollIntoView({ block: 'nearest' })
})
</script>

<template>
  <Frame margin-title="Batches">
    <h1>Review</h1>
    <Failed v-if="error" :error="error" @retry="reload" />
    <p v-if="lanes && !lanes.length && !flows.value.value?.length" class="empty">
      Nothing is on its way. What authors send to review stands here, in a lane for each gate it has to pass.
      <RouterLink to="/library?state=drafting">What is being written</RouterLink>
    </p>
    <section v-for="l in lanes ?? []" :key="l.kind + l.name" :aria-label="l.name">
      <h2>
        {{ l.name }} <span class="faded">{{ l.items.length }}</span>
        <span v-if="l.mine && l.kind !== 'sent_back'" class="small yours">{{ l.mine }} for you</span>
      </h2>
      <ul class="lane">
        <li
          v-for="i in shown(l)"
          :key="i.reference"
          :data-ref="i.reference"
          :class="{ mine: i.mine, at: mine[at]?.reference === i.reference }"
        >
          <span class="what">
            <RouterLink :to="opens(l, i)" class="title">{{ i.title || 'Untitled' }}</RouterLink>
            <span class="faded small">
              {{ i.category }} · {{ i.own ? 'written by you' : i.writer
              }}<template v-if="i.steps > 1 && l.kind === 'gate'">
                · gate {{ i.step }} of {{ i.steps }}</template
              >
              <template v-if="i.assignee"> · asked: {{ i.assignee }}</template>
              <template v-if="i.comments"> · {{ counted(i.comments, 'open comment') }}</template>
            </span>
            <span v-if="l.kind === 'sent_back' && i.note" class="small">“{{ i.note }}”</span>
            <strong v-if="i.stuck" class="fault small"
              >Stuck: nobody can pass this gate ({{ i.who }}).</strong
            >
          </span>
          <span class="small when">
            <strong v-if="i.overdue" class="fault" :title="i.overdue_at ? exact(i.overdue_at) : ''"
              >overdue</strong
            >
            <template v-if="l.kind === 'scheduled' && i.due_at">
              <span :title="exact(i.due_at)">{{ day(i.due_at) }}, {{ time(i.due_at) }}</span>
            </template>
            <span v-else class="faded" :title="exact(i.since)">{{ ago(i.since) }}</span>
          </span>
          <RouterLink v-if="i.batch" class="small batch" :to="`/review/batches/${i.batch_id}`">{{
            i.batch
          }}</RouterLink>
          <span v-else />
        </li>
      </ul>
      <button
        v-if="shown(l).length < l.items.length"
        type="button"
        class="quiet small"
        @click="whole.push(l.kind + l.name)"
      >
        Show all {{ l.items.length }}
      </button>
    </section>
    <FlowLane v-if="flows.value.value?.length" :flows="flows.value.value" />
    <template #margin>
      <h2 class="first">Batches</h2>
      <p class="small faded">Texts that go live together, or not at all.</p>
      <ul class="plainlist">
        <li v-for="b in going" :key="b.id" class="one">
          <RouterLink :to="`/review/batches/${b.id}`">{{ b.name }}</RouterLink>
          <span class="faded small">
            {{ b.ready }} of {{ b.members }} ready<template v-if="b.due_at">
              · {{ day(b.due_at) }}, {{ time(b.due_at) }}</template
            >
          </span>
        </li>
        <li v-if="!going.length" class="small faded">
          None is open. Select articles in the library to put them together.
        </li>
      </ul>
      <details v-if="ended.length" class="small">
        <summary>Ended</summary>
        <ul class="plainlist">
          <li v-for="b in ended" :key="b.id" class="one">
            <RouterLink :to="`/review/batches/${b.id}`">{{ b.name }}</RouterLink>
            <span class="faded">
              {{ words[b.state] }}<template v-if="b.ended_at">, {{ ago(b.ended_at) }}</template></span
            >
          </li>
        </ul>
      </details>
      <p class="small"><RouterLink to="/trail">The trail: who did what</RouterLink></p>
    </template>
  </Frame>
</template>

<style scoped>
.lane {
  list-style: none;
  margin: 0;
  padding: 0;
  background: var(--leaf);
  border: 1px solid var(--rule);
  border-radius: 4px;
}
.lane li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 8.5rem 8rem;
  gap: 1rem;
  align-items: baseline;
  padding: 0.45rem 0.9rem;
  border-top: 1px solid var(--rule);
  border-left: 3px solid transparent;
}
.lane li:first-child {
  border-top: 0;
}
.lane li.mine {
  border-left-color: var(--rubric);
}
.lane li.at {
  background: #f6efe1;
}
.what > * {
  display: block;
}
.title {
  font-family: var(--text-face);
}
.when {
  display: flex;
  gap: 0.5rem;
  justify-content: flex-end;
}
.yours {
  color: var(--rubric);
  font: 0.9rem var(--face);
  margin-left: 0.5rem;
}
.first {
  margin-top: 0;
}
.one {
  margin-bottom: 0.5rem;
}
.one .faded {
  display: block;
}
details .one .faded {
  display: inline;
  margin-left: 0.4rem;
}
</style>
