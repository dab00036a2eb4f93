<script setup lang="ts">
import { Button, Input, InputNumber } from 'ant-design-vue'
import { reactive } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'
import Choice from '../shared/Choice.vue'
import Dialog from '../shared/Dialog.vue'
import RoleBoxes from '../accounts/RoleBoxes.vue'

/** Makes or changes a review path. */
const props = defineProps<{ path?: Schemas['ReviewPath'] | undefined }>()
const emit = defineEmits<{ done: []; cancel: [] }>()
const { act, busy, refused } = useAct()
const roles = ['author', 'reviewer', 'publisher', 'agent', 'analyst', 'administrator']
const people = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/people')),
)
const gate = (): Schemas['Gate'] => ({
  name: '',
  roles: ['reviewer'],
  team: '',
  people: [],
  steward: false,
  own: false,
  other: false,
  note: false,
  overdue_hours: 48,
})
const form = reactive({
  name: props.path?.name ?? '',
  standard: props.path?.standard ?? false,
  gates: (props.path?.gates ?? [{ ...gate(), name: 'Review' }]).map((g) => ({
    ...g,
    roles: [...g.roles],
    people: [...g.people],
  })),
})
const teams = () => [...new Set((people.value.value ?? []).map((p) => p.team).filter(Boolean))]
const add = (g: Schemas['Gate'], id: number) => id && !g.people.includes(id) && g.people.push(id)
const name = (id: number) => people.value.value?.find((p) => p.id === id)?.name ?? '…'

function move(i: number, by: number) {
  const [g] = form.gates.splice(i, 1)
  if (g) form.gates.splice(i + by, 0, g)
}
async function save() {
  const body = { name: form.name, standard: form.standard, gates: form.gates }
  const ok = await act(
    () =>
      props.path
        ? call(api.PUT('/api/staff/paths/{id}', { params: { path: { id: props.path.id } }, body }))
        : call(api.POST('/api/staff/paths', { body })),
    'Kept',
  )
  if (ok) emit('done')
}
</script>

<template>
  <Dialog
    :open="true"
    :title="path ? 'Change the path' : 'New path'"
    :width="680"
    @update:open="emit('cancel')"
  >
    <form @submit.prevent="save">
      <label for="path-name">Name</label>
      <Input id="path-name" v-model:value="form.name" :maxlength="80" />
      <p v-if="refused?.problem.errors?.some((e) => e.field === 'name')" class="fault small">
        {{ refused.problem.errors.find((e) => e.field === 'name')?.message }}
      </p>
      <label class="small"
        ><input v-model="form.standard" type="checkbox" :disabled="path?.standard" /> Of every category that
        names none</label
      >
      <fieldset v-for="(g, i) in form.gates" :key="i" class="gate">
        <legend>Gate {{ i + 1 }}</legend>
        <div class="row spread">
          <Input
            v-model:value="g.name"
            :aria-label="`Name of gate ${i + 1}`"
            :maxlength="60"
            class="name"
            placeholder="What is done here"
          />
          <span class="row small">
            <button v-if="i" type="button" class="quiet" @click="move(i, -1)">Earlier</button>
            <button v-if="i < form.gates.length - 1" type="button" class="quiet" @click="move(i, 1)">
              Later
            </button>
            <button v-if="form.gates.length > 1" type="button" class="quiet" @click="form.gates.splice(i, 1)">
              Without it
            </button>
          </span>
        </div>
        <div class="row small">
          <span>Passed by</span>
          <RoleBoxes v-model="g.roles" :roles="roles" :label="`Roles for gate ${i + 1}`" />
          <Choice
            v-model="g.team"
            small
            :aria-label="`Team for gate ${i + 1}`"
            :options="[
              { value: '', label: 'of any team' },
              ...teams().map((t) => ({ value: t, label: `in the team ${t}` })),
            ]"
          />
        </div>
        <div class="row small">
          <span>or by</span>
          <span v-for="id in g.people" :key="id" class="person">
            {{ name(id) }}
            <button
              type="button"
              class="quiet"
              :aria-label="`Not ${name(id)}`"
              @click="g.people = g.people.filter((p) => p !== id)"
            >
              ×
            </button>
          </span>
          <Choice
            :model-value="0"
            small
            :aria-label="`Person for gate ${i + 1}`"
            :options="[
              { value: 0, label: 'somebody by name…' },
              ...(people.value.value ?? [])
                .filter((p) => !p.disabled && !g.people.includes(p.id))
                .map((p) => ({ value: p.id, label: p.name })),
            ]"
            @chosen="(id) => add(g, id)"
          />
          <label><input v-model="g.steward" type="checkbox" /> the category’s steward</label>
        </div>
        <div class="row small">
          <label><input v-model="g.own" type="checkbox" /> Authors may pass their own</label>
          <label><input v-model="g.other" type="checkbox" /> Not who passed an earlier gate</label>
          <label><input v-model="g.note" type="checkbox" /> A note is required</label>
          <label
            >Overdue after
            <InputNumber v-model:value="g.overdue_hours" size="small" :min="0" :max="8760" /> hours</label
          >
        </div>
        <p
          v-for="e in refused?.problem.errors?.filter((x) => x.field.startsWith(`gates[${i}]`)) ?? []"
          :key="e.field"
          class="fault small"
        >
          {{ e.message }}
        </p>
      </fieldset>
      <p v-if="refused" class="fault" role="alert">{{ refused.problem.detail }}</p>
      <div class="row">
        <Button type="primary" html-type="submit" :loading="busy">Keep the path</Button>
        <Button @click="form.gates.push(gate())">Add a gate</Button>
      </div>
    </form>
  </Dialog>
</template>

<style scoped>
.gate {
  border: 1px solid var(--rule);
  border-radius: 4px;
  margin: 0.7rem 0;
  padding: 0.5rem 0.8rem;
  display: grid;
  gap: 0.45rem;
}
legend {
  padding: 0 0.3rem;
  color: var(--faded);
  font-size: 0.9rem;
}
.name {
  max-width: 18rem;
}
.person {
  border: 1px solid var(--rule);
  border-radius: 4px;
  padding: 0 0.4rem;
}
</style>
