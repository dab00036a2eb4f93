<script setup lang="ts">
import { Button, Input, message, Progress } from 'ant-design-vue'
import { computed, h, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, call, type Schemas } from '../../shared/api/client'
import { counted } from '../../shared/format'
import { may } from '../session'
import { useAct } from '../shared/act'
import type { Filter } from '../library/filter'
import { useJob } from '../shared/job'
import Dialog from '../shared/Dialog.vue'
import BulkFields, { type BulkForm } from './BulkFields.vue'

/** What can be done with many articles at once: shown first, with progress, and undone. */
const props = defineProps<{
  rows: Schemas['ArticleLine'][]
  total: number
  filter: Filter
  categories: Schemas['Category'][]
}>()
const selected = defineModel<number[]>('selected', { required: true })
const emit = defineEmits<{ changed: [] }>()
const { act, busy, refused } = useAct()
const { job, follow } = useJob()
const router = useRouter()
const open = ref(false)
const everything = ref(false)
const summary = ref<Schemas['BulkSummary']>()
const empty: BulkForm = {
  what: 'category_id',
  category_id: 0,
  owner_id: 0,
  audience: 'everyone',
  words: '',
  recheck_on: '',
}
const form = reactive({ ...empty })
// References are remembered as rows are selected, page by page.
const known = new Map<number, string>()
const references = computed(() => {
  props.rows.forEach((r) => known.set(r.id, r.reference))
  return selected.value.map((id) => known.get(id)).filter((r): r is string => !!r)
})
const meant = computed(() => (everything.value ? props.total : references.value.length))

function change(): Schemas['Bulk'] {
  const words = form.words
    .split(',')
    .map((w) => w.trim())
    .filter(Boolean)
  return {
    ...(everything.value ? { filter: { ...props.filter, page: 1 } } : { references: references.value }),
    ...(form.what === 'category_id' && { category_id: form.category_id }),
    ...(form.what === 'owner_id' && { owner_id: form.owner_id }),
    ...(form.what === 'audience' && { audience: form.audience }),
    ...(form.what === 'add_keywords' && { add_keywords: words }),
    ...(form.what === 'remove_keywords' && { remove_keywords: words }),
    ...(form.what === 'recheck_on' && { recheck_on: form.recheck_on }),
    ...(form.what === 'withdraw' && { withdraw: true }),
  }
}

function begin() {
  Object.assign(form, empty, { category_id: props.categories[0]?.id ?? 0 })
  summary.value = undefined
  job.value = undefined
  open.value = true
}
async function look() {
  await act(async () => {
    summary.value = await call(api.POST('/api/staff/bulk-summaries', { body: change() }))
  })
}
async function go() {
  await act(async () => {
    const begun = await call(api.POST('/api/staff/bulk-changes', { body: change() }))
    const done = await follow(begun.id)
    if (!done) return
    open.value = false
    if (done.state === 'failed') {
      message.error((done.result as { error: string }).error, 8)
      return
    }
    selected.value = []
    everything.value = false
    emit('changed')
    offerUndo(begun.id, (done.result as Schemas['BulkSummary'] & { changed: number }).changed)
  })
}
function offerUndo(id: number, changed: number) {
  const key = `bulk-${id}`
  const content = () =>
    h('span', [
      `${counted(changed, 'article')} changed. `,
      h('button', { type: 'button', class: 'quiet', onClick: () => undo(id, key) }, 'Undo'),
    ])
  message.success({ content, key, duration: 20 })
}
async function undo(id: number, key: string) {
  message.destroy(key)
  await act(async () => {
    const begun = await call(api.POST('/api/staff/jobs/{id}/undo', { params: { path: { id } } }))
    const done = await follow(begun.id)
    const result = done?.result as { changed: number; refused?: unknown[] } | undefined
    const left = result?.refused?.length ?? 0
    message.success(
      `${counted(result?.changed ?? 0, 'article')} as before.` +
        (left ? ` ${left} had been changed since and stay.` : ''),
      6,
    )
    emit('changed')
  })
}
const together = ref(false)
const name = ref('')
async function batch() {
  await act(async () => {
    const made = await call(
      api.POST('/api/staff/batches', { body: { name: name.value, references: references.value } }),
    )
    together.value = false
    await router.push(`/review/batches/${made.id}`)
  })
}
const exported = computed(() =>
  everything.value
    ? '/api/staff/export?' +
      new URLSearchParams(Object.entries(props.filter).map(([k, v]) => [k, String(v)])).toString()
    : `/api/staff/export?references=${references.value.join(',')}`,
)
</script>

<template>
  <div v-if="selected.length" class="bulk panel row" role="region" aria-label="Selected articles">
    <strong>{{ counted(meant, 'article') }} selected</strong>
    <label v-if="total > rows.length" class="small"
      ><input v-model="everything" type="checkbox" /> all {{ total }} that fit</label
    >
    <Button size="small" type="primary" @click="begin">Change them</Button>
    <Button v-if="!everything" size="small" @click="together = true">Put them together</Button>
    <a :href="exported" download>Take them out</a>
    <button type="button" class="quiet" @click="selected = []">Select none</button>
  </div>
  <Dialog v-model:open="together" title="Publish them together">
    <form @submit.prevent="batch">
      <p class="small">Reviewed as one, live as one or not at all, and undone as one.</p>
      <label for="batch-name">Name of the batch</label>
      <Input id="batch-name" v-model:value="name" :maxlength="120" placeholder="Prices from April" />
      <p v-if="refused" class="fault" role="alert">
        {{ refused.problem.errors?.map((e) => e.message).join(' ') || refused.problem.detail }}
      </p>
      <div class="row">
        <Button type="primary" html-type="submit" :loading="busy" :disabled="!name.trim()"
          >Put them together</Button
        >
        <Button @click="together = false">Cancel</Button>
      </div>
    </form>
  </Dialog>
  <Dialog v-model:open="open" :title="`Change ${counted(meant, 'article')}`">
    <form @submit.prevent="summary ? go() : look()">
      <BulkFields
        v-model="form"
        :categories="categories"
        :publisher="may('publish')"
        @input="summary = undefined"
        @change="summary = undefined"
      />
      <p v-if="refused" class="fault" role="alert">
        {{ refused.problem.errors?.map((e) => e.message).join(' ') || refused.problem.detail }}
      </p>
      <div v-if="summary" class="panel sum" role="status">
        <p>
          <strong>{{ counted(summary.changes, 'article') }}</strong> will be {{ summary.what.join(', ') }};
          {{ summary.articles - summary.changes - summary.refusals }} are so already.
          <template v-if="summary.customers">
            Customers see {{ counted(summary.customers, 'live article') }} changed at once.</template
          >
        </p>
        <template v-if="summary.refusals">
          <p>{{ counted(summary.refusals, 'article') }} cannot be changed so:</p>
          <ul>
            <li v-for="r in summary.refused" :key="r.reference">
              {{ r.title || r.reference }}: {{ r.reason }}
            </li>
          </ul>
        </template>
      </div>
      <Progress
        v-if="job && busy"
        :percent="Math.round((100 * job.done) / Math.max(1, job.total))"
        size="small"
      />
      <div class="row">
        <Button type="primary" html-type="submit" :loading="busy" :disabled="summary?.changes === 0">{{
          summary ? 'Do it' : 'Show what will change'
        }}</Button>
        <Button @click="open = false">Cancel</Button>
      </div>
    </form>
  </Dialog>
</template>

<style scoped>
.bulk {
  padding: 0.45rem 0.8rem;
  margin-bottom: 0.7rem;
  border-color: var(--rubric);
}
.sum {
  padding: 0.6rem 0.8rem;
  margin: 0.6rem 0;
}
.sum p {
  margin: 0;
}
form > .row {
  margin-top: 0.9rem;
}
</style>
