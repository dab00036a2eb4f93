<script setup lang="ts">
import { useEventListener, useIntervalFn } from '@vueuse/core'
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, call, type Schemas } from '../../shared/api/client'
import { useAct } from '../shared/act'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import { tab, useHold } from '../shared/hold'
import { useKey } from '../shared/keys'
import { useLive } from '../shared/live'
import { useLoad } from '../shared/load'
import { who } from '../session'
import FlowBeside from './FlowBeside.vue'
import FlowFaults from './FlowFaults.vue'
import FlowTop from './FlowTop.vue'
import FlowTry from './FlowTry.vue'
import FlowVersions from './FlowVersions.vue'
import FlowWhere from './FlowWhere.vue'
import RenameTurn from './RenameTurn.vue'
import ScriptEditor from './ScriptEditor.vue'
import TextCount from './TextCount.vue'
import { useChecks } from './flowChecks'
import { useFlowCopy } from './flowCopy'

const props = defineProps<{ slug: string }>()
const route = useRoute()
const router = useRouter()
const { act } = useAct()
const path = { params: { path: { slug: props.slug } } }

const {
  value: flow,
  error,
  reload,
} = useLoad(
  () => props.slug,
  () => call(api.GET('/api/staff/flows/{slug}', path)),
)
const words = useLoad(
  () => 'words',
  () => call(api.GET('/api/staff/flow-words')),
  'flow words',
)
const copy = useFlowCopy(props.slug, tab, (version) => {
  const f = flow.value
  const onItsWay = f?.way.path_id && f.way.state !== 'drafting' // what was looked at has changed
  if (f && (version < f.copy_version || onItsWay)) void reload()
  else if (f) flow.value = { ...f, copy_version: version, changed: true }
})
const { source, status, fault, savedAt } = copy
const hold = useHold(
  {
    hold: () => call(api.POST('/api/staff/flows/{slug}/hold', { ...path, body: { tab } })),
    takeOver: () => call(api.POST('/api/staff/flows/{slug}/take-over', { ...path, body: { tab } })),
    letGo: `/api/staff/flows/${props.slug}/let-go`,
  },
  reload,
)

const other = computed(() => {
  const h = flow.value?.holder
  return h && h.id !== who.value?.id ? h : undefined
})
const editable = computed(() => !!flow.value?.may_write && !other.value)
const editor = ref<InstanceType<typeof ScriptEditor>>()
const line = ref(1)

watch(flow, (f, before) => {
  if (!f) return
  if (!before || (f.copy_version > copy.version() && status.value === 'saved')) copy.begin(f)
})
useLive(`/api/staff/flows/${props.slug}/events`, () => {
  if (other.value || (status.value !== 'typing' && status.value !== 'saving')) void reload()
})
useIntervalFn(() => other.value && reload(), 20_000)
watch(status, (now) => (now === 'held' || now === 'stale') && reload())

const { checked, again } = useChecks(props.slug, source)
const named = {
  words: () => words.value.value,
  turns: () => (checked.value?.turns ?? []).filter((t) => t.named).map((t) => t.turn),
  facts: () => checked.value?.facts ?? [],
}

function typed(text: string) {
  copy.typed(text)
  void hold.touch()
}
async function takeOver() {
  if (await act(hold.takeOver)) await reload()
}
async function goOn(mine: boolean) {
  await reload()
  const newer = flow.value
  if (newer) await act(() => copy.goOn(newer, mine))
}
useEventListener(window, 'pagehide', () => copy.keepNow())
onBeforeUnmount(async () => {
  copy.keepNow()
  await copy.save()
  hold.letGo()
})
useKey(
  's',
  (e) => {
    e.preventDefault()
    void copy.save()
  },
  { ctrl: true, typing: true },
)

const parts = { checks: 'Checks', try: 'Try it', where: 'Where', versions: 'Versions' } as const
type Part = keyof typeof parts
const part = computed<Part>(() =>
  (route.query.margin as Part) in parts ? (route.query.margin as Part) : 'checks',
)
const beside = computed(() => (typeof route.query.beside === 'string' ? route.query.beside : ''))
const query = (more: Record<string, string | undefined>) =>
  router.replace({ query: { ...route.query, ...more } })

const example = shallowRef<Schemas['CounterExample']>()
function show(e: Schemas['CounterExample']) {
  example.value = e
  void query({ margin: 'try' })
}
const renaming = ref('')
async function published() {
  await reload()
  if (flow.value) copy.begin(flow.value)
}
</script>

<template>
  <Frame :margin-title="parts[part]">
    <Failed v-if="error" :error="error" @retry="reload" />
    <template v-if="flow">
      <FlowTop
        :flow="flow"
        :other="other"
        :status="status"
        :saved-at="savedAt"
        :fault="fault"
        :checked="checked"
        :languages="words.value.value?.languages ?? []"
        :beside="beside"
        :save="copy.save"
        :version="copy.version"
        @take-over="takeOver"
        @go-on="goOn"
        @published="published"
        @changed="reload"
        @beside="(l) => query({ beside: l || undefined })"
      />
      <FlowBeside
        v-if="beside && checked"
        :texts="checked.texts"
        :language="checked.language"
        :beside="beside"
        :source="source"
        :editable="editable"
        @typed="typed"
      />
      <ScriptEditor
        v-else
        ref="editor"
        :source="source"
        :editable="editable"
        :faults="checked?.faults ?? []"
        :articles="checked?.articles ?? []"
        :named="named"
        @typed="typed"
        @line="(n) => (line = n)"
        @rename="(turn) => (renaming = turn)"
      />
      <TextCount v-if="checked && !beside" :checked="checked" :line="line" />
      <RenameTurn
        v-if="renaming"
        :source="source"
        :turn="renaming"
        @close="renaming = ''"
        @renamed="(text) => editor?.put(text)"
      />
    </template>
    <template v-if="flow" #margin>
      <nav class="parts" aria-label="What stands beside the script">
        <button
          v-for="(label, key) in parts"
          :key="key"
          type="button"
          :aria-current="part === key ? 'page' : undefined"
          @click="query({ margin: key === 'checks' ? undefined : key })"
        >
          {{ key === 'checks' && checked?.faults.length ? `${label} ${checked.faults.length}` : label }}
        </button>
      </nav>
      <FlowFaults
        v-if="part === 'checks'"
        :checked="checked"
        :line="line"
        @go="(n) => editor?.go(n)"
        @show="show"
      />
      <FlowTry
        v-else-if="part === 'try'"
        :slug="slug"
        :source="source"
        :words="words.value.value"
        :turns="checked?.turns ?? []"
        :line="line"
        :example="example"
        :kept="checked?.rehearsals ?? []"
        :may-write="flow.may_write"
        @kept="again"
        @go="(n) => editor?.go(n)"
      />
      <FlowWhere v-else-if="part === 'where'" :flow="flow" :words="words.value.value" @changed="reload" />
      <FlowVersions v-else :flow="flow" @changed="published" />
    </template>
  </Frame>
</template>

<style scoped>
.parts {
  display: flex;
  gap: 0.9rem;
  border-bottom: 1px solid var(--rule);
  margin-bottom: 0.8rem;
}
.parts button {
  font: inherit;
  background: none;
  border: 0;
  border-bottom: 2px solid transparent;
  padding: 0.2rem 0;
  color: var(--faded);
  cursor: pointer;
}
.parts button[aria-current] {
  color: var(--ink);
  border-color: var(--rubric);
}
</style>
