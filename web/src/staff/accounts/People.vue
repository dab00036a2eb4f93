<script setup lang="ts">
import { Button, Input, InputPassword } from 'ant-design-vue'
import { reactive, ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import Dialog from '../shared/Dialog.vue'
import Failed from '../shared/Failed.vue'
import RoleBoxes from './RoleBoxes.vue'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'

/** Who works here, and what each may do. */
const roles = ['author', 'reviewer', 'publisher', 'agent', 'analyst', 'administrator']
const { act, busy, refused } = useAct()
const people = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/people')),
)

const adding = ref(false)
const form = reactive({ name: '', email: '', password: '', roles: ['author'], team: '' })

async function add() {
  if (
    !(await act(
      () => call(api.POST('/api/staff/people', { body: { ...form } })),
      `${form.name} can sign in now`,
    ))
  )
    return
  adding.value = false
  Object.assign(form, { name: '', email: '', password: '', roles: ['author'], team: '' })
  await people.reload()
}

async function change(p: Schemas['Person'], to: { roles?: string[]; disabled?: boolean }) {
  const body = { roles: to.roles ?? p.roles, disabled: to.disabled ?? p.disabled }
  await act(
    () => call(api.PUT('/api/staff/people/{id}', { params: { path: { id: p.id } }, body })),
    'Changed',
  )
  await people.reload()
}

async function sendLink(p: Schemas['Person']) {
  const at = { params: { path: { id: p.id } } }
  await act(
    () => call(api.POST('/api/staff/people/{id}/password-link', at)),
    `A link is on its way to ${p.email}`,
  )
}
</script>

<template>
  <section>
    <div class="row spread">
      <h2>People</h2>
      <Button type="primary" @click="adding = true">Add somebody</Button>
    </div>
    <Failed v-if="people.error.value" :error="people.error.value" @retry="people.reload" />
    <table class="panel">
      <thead>
        <tr>
          <th scope="col">Name</th>
          <th scope="col">Mail address</th>
          <th scope="col">Team</th>
          <th scope="col">Roles</th>
          <th scope="col"><span class="hidden">Actions</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="p in people.value.value ?? []" :key="p.id">
          <td>{{ p.name }}<span v-if="p.disabled" class="faded"> (has left)</span></td>
          <td>{{ p.email }}</td>
          <td>{{ p.team }}</td>
          <td>
            <RoleBoxes
              :roles="roles"
              :model-value="p.roles"
              :label="`Roles of ${p.name}`"
              @update:model-value="(v) => change(p, { roles: v })"
            />
          </td>
          <td>
            <span class="deeds">
              <button type="button" class="quiet" @click="change(p, { disabled: !p.disabled })">
                {{ p.disabled ? 'Let in again' : 'Disable' }}
              </button>
              <button
                v-if="!p.disabled"
                type="button"
                class="quiet"
                :aria-label="`Send ${p.name} a link to set a password`"
                @click="sendLink(p)"
              >
                Password link
              </button>
              <RouterLink
                :to="`/settings/people/${p.id}/hand-over`"
                :aria-label="`Hand over what ${p.name} looks after`"
                >Hand over</RouterLink
              >
            </span>
          </td>
        </tr>
      </tbody>
    </table>
    <Dialog v-model:open="adding" title="Add somebody to the staff">
      <form class="fields" novalidate @submit.prevent="add">
        <label for="person-name">Name</label>
        <Input id="person-name" v-model:value="form.name" />
        <p v-if="refused?.field('name')" class="fault">{{ refused.field('name') }}</p>
        <label for="person-email">Mail address</label>
        <Input id="person-email" v-model:value="form.email" type="email" />
        <p v-if="refused?.field('email')" class="fault">{{ refused.field('email') }}</p>
        <label for="person-password">First password</label>
        <InputPassword id="person-password" v-model:value="form.password" autocomplete="new-password" />
        <p v-if="refused?.field('password')" class="fault">{{ refused.field('password') }}</p>
        <span class="label">Roles</span>
        <RoleBoxes v-model="form.roles" :roles="roles" label="Roles" />
        <label for="person-team">Team, for agents</label>
        <Input id="person-team" v-model:value="form.team" />
        <Button type="primary" html-type="submit" :loading="busy" class="go">Add</Button>
      </form>
    </Dialog>
  </section>
</template>

<style scoped>
table {
  width: 100%;
  border-collapse: collapse;
}
th {
  text-align: left;
  font-weight: 400;
  color: var(--faded);
}
th,
td {
  padding: 0.4rem 0.8rem;
}
td {
  border-top: 1px solid var(--rule);
}
.deeds {
  display: flex;
  flex-wrap: wrap;
  gap: 0 0.8rem;
  white-space: nowrap;
}
.fields {
  display: grid;
  gap: 0.3rem;
}
.fields :is(label, .label) {
  margin-top: 0.5rem;
}
.go {
  margin-top: 1rem;
  justify-self: start;
}
</style>
