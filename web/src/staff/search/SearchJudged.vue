<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { api, call } from '../../shared/api/client'
import { ago, exact } from '../../shared/format'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'
import Choice from '../shared/Choice.vue'
import Failed from '../shared/Failed.vue'
import SearchMoved from './SearchMoved.vue'

/** The questions of which it is known what answers them, and how well the search does on them. */
const props = defineProps<{ site: number }>()
const measured = useLoad(
  () => props.site,
  () => call(api.GET('/api/staff/sites/{site}/search/quality', { params: { path: { site: props.site } } })),
)
const batches = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/batches')),
)
const { act, busy, refused } = useAct()
const question = ref('')
const reference = ref('')
const only = ref<'all' | 'missed' | 'moved'>('all')
const words = ref('')
const batch = ref(0)
const trial = ref<Awaited<ReturnType<typeof tryBatch>>>()

const shown = computed(() =>
  (measured.value.value?.judged ?? []).filter(
    (j) =>
      j.question.toLowerCase().includes(words.value.toLowerCase()) &&
      (only.value === 'all' ||
        (only.value === 'missed' ? j.place !== 1 : j.before != null && j.before !== j.place)),
  ),
)
const most = ref(100)
async function judge() {
  const body = { question: question.value, reference: reference.value.toUpperCase() }
  const path = { params: { path: { site: props.site } } }
  if (await act(() => call(api.POST('/api/staff/sites/{site}/search/judged', { ...path, body })), 'Judged')) {
    question.value = reference.value = ''
    await measured.reload()
  }
}
async function drop(id: number) {
  if (
    await act(
      () => call(api.DELETE('/api/staff/search/judged/{id}', { params: { path: { id } } })),
      'Left out',
    )
  )
    await measured.reload()
}
function tryBatch() {
  const body = { batch_id: batch.value }
  return call(
    api.POST('/api/staff/sites/{site}/search/trials', { params: { path: { site: props.site } }, body }),
  )
}
defineExpose({ reload: measured.reload })
const sources: Record<string, string> = {
  ledger: 'from the Ledger',
  confirmed: 'confirmed by a customer',
  by_hand: 'by hand',
}
const filters = [
  { value: 'all' as const, label: 'all' },
  { value: 'missed' as const, label: 'not in the first place' },
  { value: 'moved' as const, label: 'moved lately' },
]
const open = computed(() =>
  (batches.value.value ?? []).filter((b) => ['open', 'scheduled'].includes(b.state)),
)
</script>

<template>
  <Failed v-if="measured.error.value" :error="measured.error.value" @retry="measured.reload" />
  <template v-if="measured.value.value">
    <section class="panel report" aria-label="How well the search does">
      <SearchMoved :quality="measured.value.value.quality" />
      <p v-if="measured.value.value.quality.since" class="small faded">
        Compared with before {{ measured.value.value.quality.why }} (<time
          :title="exact(measured.value.value.quality.since)"
          >{{ ago(measured.value.value.quality.since) }}</time
        >).
      </p>
    </section>
    <form
      v-if="open.length"
      class="row small"
      @submit.prevent="
        act(async () => {
          trial = await tryBatch()
        })
      "
    >
      <label for="trial-batch">Before a batch goes live:</label>
      <Choice
        id="trial-batch"
        v-model="batch"
        small
        :options="[
          { value: 0, label: 'choose a batch' },
          ...open.map((b) => ({ value: b.id, label: b.name })),
        ]"
      />
      <Button size="small" html-type="submit" :disabled="!batch" :loading="busy">What would it move?</Button>
    </form>
    <section v-if="trial" class="panel report" role="status">
      <h3>With {{ trial.drafts.join(', ') }} as drafted</h3>
      <SearchMoved :quality="trial" trial />
    </section>
    <form class="row add" @submit.prevent="judge">
      <label class="hidden" for="judge-question">Question</label>
      <Input
        id="judge-question"
        v-model:value="question"
        placeholder="A question in a customer’s words"
        :maxlength="300"
      />
      <label class="hidden" for="judge-reference">Article</label>
      <Input
        id="judge-reference"
        v-model:value="reference"
        class="ref"
        placeholder="A-0042"
        :maxlength="12"
      />
      <Button html-type="submit" :loading="busy" :disabled="!question.trim() || !reference.trim()"
        >Is answered by</Button
      >
    </form>
    <p v-if="refused?.field('question') || refused?.field('reference')" class="fault small">
      {{ refused?.field('question') ?? refused?.field('reference') }}
    </p>
    <div class="row small">
      <label class="hidden" for="judged-words">Words</label>
      <Input
        id="judged-words"
        v-model:value="words"
        size="small"
        class="filter"
        placeholder="Only with these words"
      />
      <label class="hidden" for="judged-only">Show</label>
      <Choice id="judged-only" v-model="only" small :options="filters" />
    </div>
    <div class="scroll" tabindex="0" role="group" aria-label="Judged questions">
      <table class="small">
        <thead>
          <tr>
            <th scope="col">Question</th>
            <th scope="col">Answered by</th>
            <th scope="col">Place</th>
            <th scope="col">Known from</th>
            <th scope="col"><span class="hidden">Leave out</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="j in shown.slice(0, most)" :key="j.id">
            <th scope="row">{{ j.question }}</th>
            <td>
              <RouterLink v-for="r in j.right" :key="r" :to="`/library/${r}`" class="refs">{{
                r
              }}</RouterLink>
            </td>
            <td>
              {{ j.place || '–' }}
              <span v-if="j.before != null && j.before !== j.place" class="faded"
                >was {{ j.before || '–' }}</span
              >
            </td>
            <td class="faded" :title="exact(j.made_at)">
              {{ sources[j.source] }}{{ j.made_by ? `, ${j.made_by}` : '' }}
            </td>
            <td>
              <button
                type="button"
                class="quiet"
                :aria-label="`Leave out: ${j.question}`"
                @click="drop(j.id)"
              >
                Leave out
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="!shown.length" class="empty">
      No such question. Judged questions come from customers who said that an article helped, from the Ledger
      (“this answered it”), and from here.
    </p>
    <Button v-if="shown.length > most" @click="most += 200">Show more of {{ shown.length }}</Button>
  </template>
</template>

<style scoped>
.report {
  padding: 0.7rem 1rem;
  margin-bottom: 0.8rem;
}
.report h3 {
  margin-top: 0;
}
.add {
  flex-wrap: nowrap;
  margin: 0.8rem 0;
}
.ref {
  width: 7rem;
}
.filter {
  width: 16rem;
}
.scroll {
  overflow-x: auto;
}
table {
  width: 100%;
  border-collapse: collapse;
  background: var(--leaf);
  margin-top: 0.5rem;
}
:is(td, th) {
  text-align: left;
  font-weight: 400;
  vertical-align: top;
  border-bottom: 1px solid var(--rule);
  padding: 0.3rem 0.7rem;
}
thead th {
  color: var(--faded);
}
.refs {
  margin-right: 0.4rem;
}
</style>
