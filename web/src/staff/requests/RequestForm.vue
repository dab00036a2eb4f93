<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { counted } from '../../shared/format'
import Choice from '../shared/Choice.vue'
import Failed from '../shared/Failed.vue'
import FormField from './FormField.vue'
import Frame from '../shared/Frame.vue'
import { may } from '../session'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'

/** The kinds of request that a help centre's form offers, and what each asks for. */
const props = defineProps<{ site: string }>()
const kinds = useLoad(
  () => props.site,
  () =>
    call(
      api.GET('/api/staff/sites/{site}/request-kinds', { params: { path: { site: Number(props.site) } } }),
    ),
)
const people = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/people')),
)
const { act, busy, refused } = useAct()
const editing = ref<Schemas['RequestKind']>()
const teamChoices = computed(() => [
  { value: '', label: 'everybody who answers' },
  ...[...new Set((people.value.value ?? []).map((p) => p.team).filter(Boolean))].map((t) => ({
    value: t,
    label: t,
  })),
])

function edit(k?: Schemas['RequestKind']) {
  refused.value = undefined
  editing.value = k
    ? (JSON.parse(JSON.stringify(k)) as Schemas['RequestKind'])
    : { id: 0, site_id: Number(props.site), name: '', description: '', team: '', fields: [] }
}
function add() {
  const n = (editing.value?.fields.length ?? 0) + 1
  editing.value?.fields.push({
    key: `field_${n}`,
    label: '',
    kind: 'text',
    help: '',
    required: false,
    options: [],
    pattern: '',
    when: { key: '', is: '' },
  })
}
function move(i: number, by: number) {
  const list = editing.value?.fields
  const [one] = list?.splice(i, 1) ?? []
  if (one) list?.splice(i + by, 0, one)
}
async function save() {
  const body = editing.value
  if (!body) return
  if (await act(() => call(api.PUT('/api/staff/request-kinds', { body })), 'Kept')) {
    editing.value = undefined
    await kinds.reload()
  }
}
async function retire() {
  const id = editing.value?.id ?? 0
  if (
    await act(
      () => call(api.DELETE('/api/staff/request-kinds/{id}', { params: { path: { id } } })),
      'Taken from the form',
    )
  ) {
    editing.value = undefined
    await kinds.reload()
  }
}
const fault = (name: string) => refused.value?.problem.errors?.find((e) => e.field === name)?.message
const choicesBefore = (i: number) =>
  (editing.value?.fields ?? []).slice(0, i).filter((f) => f.kind === 'choice')
</script>

<template>
  <Frame>
    <p class="small">
      <RouterLink to="/settings">Settings</RouterLink> ›
      <RouterLink to="/settings/sites">Help centres</RouterLink>
    </p>
    <h1>The request form</h1>
    <Failed v-if="kinds.error.value" :error="kinds.error.value" @retry="kinds.reload" />
    <template v-if="!editing">
      <p class="faded">
        Every request has a subject, words and an address. Each kind can ask for more, and goes to a team.
      </p>
      <ul class="plainlist panel list">
        <li v-for="k in kinds.value.value ?? []" :key="k.id" class="row spread">
          <span>
            <strong>{{ k.name }}</strong>
            <span class="faded small more"
              >{{ counted(k.fields.length, 'field') }} of its own ·
              {{ k.team || 'everybody who answers' }}</span
            >
          </span>
          <button
            v-if="may('administer')"
            type="button"
            class="quiet"
            :aria-label="`Change ${k.name}`"
            @click="edit(k)"
          >
            Change
          </button>
        </li>
        <li v-if="kinds.value.value && !kinds.value.value.length" class="faded">
          No kinds yet: the form asks for a subject, words and an address.
        </li>
      </ul>
      <Button v-if="may('administer')" type="primary" @click="edit()">New kind of request</Button>
    </template>
    <form v-else class="fields" novalidate @submit.prevent="save">
      <label for="kind-name">What customers choose</label>
      <Input id="kind-name" v-model:value="editing.name" :maxlength="80" placeholder="I am moving" />
      <p v-if="fault('name')" class="fault">{{ fault('name') }}</p>
      <label for="kind-description">What stands under it</label>
      <Input id="kind-description" v-model:value="editing.description" :maxlength="300" />
      <label for="kind-team">Goes to</label>
      <Choice id="kind-team" v-model="editing.team" :options="teamChoices" />
      <p v-if="fault('team')" class="fault">{{ fault('team') }}</p>
      <h2>Its fields</h2>
      <p v-if="fault('fields')" class="fault">{{ fault('fields') }}</p>
      <ol class="plainlist">
        <li v-for="(f, i) in editing.fields" :key="i" class="panel one">
          <FormField
            v-model="editing.fields[i]!"
            :number="i"
            :choices="choicesBefore(i)"
            :faults="refused?.problem.errors ?? []"
          />
          <p class="row small">
            <button
              type="button"
              class="quiet"
              :disabled="!i"
              :aria-label="`Up: ${f.label}`"
              @click="move(i, -1)"
            >
              Up
            </button>
            <button
              type="button"
              class="quiet"
              :disabled="i === editing.fields.length - 1"
              :aria-label="`Down: ${f.label}`"
              @click="move(i, 1)"
            >
              Down
            </button>
            <button
              type="button"
              class="quiet"
              :aria-label="`Take away ${f.label}`"
              @click="editing.fields.splice(i, 1)"
            >
              Take away
            </button>
          </p>
        </li>
      </ol>
      <p><Button @click="add">Add a field</Button></p>
      <div class="row">
        <Button type="primary" html-type="submit" :loading="busy">Keep this kind</Button>
        <Button @click="editing = undefined">Cancel</Button>
        <Button v-if="editing.id" @click="retire">Take it from the form</Button>
      </div>
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
.fields {
  max-width: 44rem;
  display: grid;
  gap: 0.4rem;
}
.one {
  padding: 0.7rem 0.9rem;
  margin-bottom: 0.6rem;
}
</style>
