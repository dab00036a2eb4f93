<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import Choice from '../shared/Choice.vue'
import { may } from '../session'
import { useAct } from '../shared/act'
import { sure } from '../shared/sure'

/** Where a flow meets customers, whose it is, and whether it is in service. */
const props = defineProps<{ flow: Schemas['FlowView']; words?: Schemas['FlowWords'] }>()
const emit = defineEmits<{ changed: [] }>()
const { act, busy, refused } = useAct()
const path = computed(() => ({ params: { path: { slug: props.flow.slug } } }))

const entries = ref<Schemas['Entry'][]>([])
const owner = ref(0)
watch(
  () => props.flow,
  (f) => {
    entries.value = f.entries.map((e) => ({ ...e }))
    owner.value = f.owner_id
  },
  { immediate: true },
)
const changed = computed(() => JSON.stringify(entries.value) !== JSON.stringify(props.flow.entries))
const add = () =>
  entries.value.push({
    id: 0,
    flow: props.flow.slug,
    site: 0,
    channel: 'chat',
    page: '',
    group: '',
    hours: '',
  })

async function keep() {
  const ok = await act(
    () =>
      call(api.PUT('/api/staff/flows/{slug}/entries', { ...path.value, body: { entries: entries.value } })),
    'Kept',
  )
  if (ok) emit('changed')
}
async function give(id: number) {
  const body = { name: props.flow.name, owner_id: id }
  if (await act(() => call(api.PUT('/api/staff/flows/{slug}/properties', { ...path.value, body })), 'Given'))
    emit('changed')
}
async function review(id: number) {
  if (
    await act(
      () => call(api.PUT('/api/staff/flows/{slug}/path', { ...path.value, body: { path: id } })),
      'Kept',
    )
  )
    emit('changed')
}
function askToEnd() {
  sure(
    'End this flow?',
    'Nobody meets it from now on. Conversations in it go on to their end.',
    'End it',
    () => end(true),
  )
}
async function end(ended: boolean) {
  if (await act(() => call(api.PUT('/api/staff/flows/{slug}/ended', { ...path.value, body: { ended } }))))
    emit('changed')
}
const hours = [
  { value: '', label: 'always' },
  { value: 'open', label: 'while we are open' },
  { value: 'closed', label: 'while we are closed' },
]
const about = (o: Schemas['Overlap']) =>
  o.same
    ? `“${o.other.flow}” meets just the same people. “${o.wins}” wins, and the other never meets anybody here.`
    : `“${o.other.flow}” meets some of the same people. They get “${o.wins}”.`
</script>

<template>
  <h2 class="first">Who meets it</h2>
  <p v-if="!entries.length" class="faded small">
    Nobody by itself. Other flows can go to it: go to flow {{ flow.slug }}.
  </p>
  <fieldset v-for="(e, i) in entries" :key="i" class="panel" :disabled="!flow.may_publish">
    <legend class="small faded">{{ i + 1 }}</legend>
    <label :for="`group-${i}`">Customers</label>
    <Choice
      :id="`group-${i}`"
      v-model="e.group"
      small
      :options="[
        { value: '', label: 'everybody' },
        ...(words?.groups ?? []).map((g) => ({ value: g.key, label: g.name })),
      ]"
    />
    <label :for="`site-${i}`">Help centre</label>
    <Choice
      :id="`site-${i}`"
      v-model="e.site"
      small
      :options="[
        { value: 0, label: 'any' },
        ...(words?.sites ?? []).map((s) => ({ value: s.id, label: s.name })),
      ]"
    />
    <label :for="`page-${i}`">Pages that begin with</label>
    <input :id="`page-${i}`" v-model="e.page" placeholder="any" maxlength="200" />
    <label :for="`hours-${i}`">Hours</label>
    <Choice :id="`hours-${i}`" v-model="e.hours" small :options="hours" />
    <button v-if="flow.may_publish" type="button" class="quiet out" @click="entries.splice(i, 1)">
      Take out
    </button>
  </fieldset>
  <p v-for="o in flow.overlaps" :key="`${o.entry.id} ${o.other.id}`" class="small" :class="{ fault: o.same }">
    {{ about(o) }}
  </p>
  <div v-if="flow.may_publish" class="row">
    <button type="button" class="quiet" @click="add">Add an entry</button>
    <Button v-if="changed" size="small" type="primary" :loading="busy" @click="keep">Keep</Button>
  </div>
  <p v-if="refused" class="fault small" role="alert">{{ refused.message }}</p>
  <h2>Owner</h2>
  <Choice
    :model-value="owner"
    small
    class="wide"
    aria-label="Owner"
    :disabled="!flow.may_write"
    :options="(words?.people ?? []).map((p) => ({ value: p.id, label: p.name }))"
    @chosen="(id) => give(Number(id))"
  />
  <template v-if="may('administer') || flow.way.path_id">
    <h2>Review</h2>
    <Choice
      :model-value="flow.way.path_id"
      small
      class="wide"
      aria-label="Review path"
      :disabled="!may('administer')"
      :options="[
        { value: 0, label: 'none: a publisher publishes it' },
        ...(words?.paths ?? []).map((p) => ({ value: p.id, label: p.name })),
      ]"
      @chosen="(id) => review(Number(id))"
    />
  </template>
  <template v-if="flow.may_publish || flow.state === 'ended'">
    <h2>Service</h2>
    <button v-if="flow.state === 'ended'" type="button" class="quiet" @click="end(false)">
      Take it back into service
    </button>
    <button v-else type="button" class="quiet" @click="askToEnd">End this flow…</button>
  </template>
</template>

<style scoped>
.first {
  margin-top: 0;
}
fieldset {
  display: grid;
  grid-template-columns: 7.5rem minmax(0, 1fr);
  gap: 0.3rem 0.5rem;
  align-items: center;
  padding: 0.4rem 0.7rem 0.6rem;
  margin: 0 0 0.6rem;
  font-size: 0.9rem;
}
input {
  font: inherit;
  padding: 0.05rem 0.45rem;
  border: 1px solid var(--rule);
  border-radius: 4px;
  min-width: 0;
}
.out {
  justify-self: start;
  grid-column: 1 / -1;
}
.wide {
  width: 100%;
}
</style>
