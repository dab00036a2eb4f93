<script setup lang="ts">
import { Button, Input, InputNumber, InputPassword } from 'ant-design-vue'
import { reactive, ref, watch } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import Dialog from '../shared/Dialog.vue'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import RoleBoxes from './RoleBoxes.vue'
import { has } from '../session'
import { articleKinds } from '../library/kinds'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'

const roles = ['author', 'reviewer', 'publisher', 'agent', 'analyst', 'administrator']
const { act, busy, refused } = useAct()
const people = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/people')),
)
const settings = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/settings')),
)
const hours = ref(72)
watch(settings.value, (s) => (hours.value = s?.return_window_hours ?? 72))

const rule = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/recheck-rule')),
)
const days = reactive<Record<string, number>>({})
watch(rule.value, (r) => r && Object.assign(days, r))
async function saveRule() {
  await act(
    () => call(api.PUT('/api/staff/recheck-rule', { body: { ...days } })),
    'Changed; the dates follow',
  )
}

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

const keeping = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/keeping')),
)
const kept = reactive({ mails: 30, news: 180, jobs: 90, reports: 730 })
const keepingOf = [
  { key: 'mails', label: 'Mails' },
  { key: 'news', label: 'News' },
  { key: 'jobs', label: 'Changes to many, imports, exports' },
  { key: 'reports', label: 'Search reports' },
] as const
watch(keeping.value, (k) => k && Object.assign(kept, k))
async function saveKeeping() {
  await act(
    () => call(api.PUT('/api/staff/keeping', { body: { ...kept } })),
    'Changed; what is older ends within the hour',
  )
}

async function saveHours() {
  await act(
    () => call(api.PUT('/api/staff/settings', { body: { return_window_hours: hours.value } })),
    'Changed; every figure is computed anew',
  )
}
</script>

<template>
  <Frame>
    <h1>Settings</h1>
    <p class="row">
      <RouterLink to="/settings/sites">Help centres</RouterLink>
      <RouterLink to="/settings/groups">Groups of customers</RouterLink>
      <RouterLink to="/settings/customers">Customers</RouterLink>
      <RouterLink to="/settings/problems">Known problems</RouterLink>
      <RouterLink to="/settings/templates">Templates</RouterLink>
      <RouterLink to="/settings/paths">Review paths</RouterLink>
      <RouterLink to="/trail">The trail</RouterLink>
    </p>
    <p v-if="!has('administrator')" class="empty">
      Only administrators change settings. Ask one if something here should be different.
    </p>
    <template v-else>
      <section>
        <div class="row spread">
          <h2>People</h2>
          <Button type="primary" @click="adding = true">Add somebody</Button>
        </div>
        <Failed v-if="people.error.value" :error="people.error.value" @retry="people.reload" />
        <table class="leaf">
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
      </section>
      <section v-if="rule.value.value">
        <h2>Rechecks</h2>
        <p class="faded">
          After how many days the owner of a live article must confirm it, by its kind. What is read most, and
          makes up half of all reading, is due in half the time; what nobody read for 90 days, in half as long
          again.
        </p>
        <form class="row" @submit.prevent="saveRule">
          <template v-for="k in articleKinds" :key="k.value">
            <label :for="`rule-${k.value}`">{{ k.label }}</label>
            <InputNumber :id="`rule-${k.value}`" v-model:value="days[k.value]" :min="1" :max="3660" />
          </template>
          <Button html-type="submit" :loading="busy">Save days</Button>
        </form>
      </section>
      <section v-if="keeping.value.value">
        <h2>How long things are kept</h2>
        <p class="faded">
          In days. Texts, their revisions, the trail, conversations and evidence do not end by this. Until its
          days are over, a change to many articles can be taken back, and an export fetched.
        </p>
        <form class="row" @submit.prevent="saveKeeping">
          <template v-for="k in keepingOf" :key="k.key">
            <label :for="`keep-${k.key}`">{{ k.label }}</label>
            <InputNumber :id="`keep-${k.key}`" v-model:value="kept[k.key]" :min="1" :max="3660" />
          </template>
          <Button html-type="submit" :loading="busy">Save days kept</Button>
        </form>
      </section>
      <section>
        <h2>Return window</h2>
        <p class="faded">
          How long after a question closed a contact still counts as coming back with it. It takes effect on
          every figure, past ones too.
        </p>
        <form class="row" @submit.prevent="saveHours">
          <label for="hours">Hours</label>
          <InputNumber id="hours" v-model:value="hours" :min="1" :max="720" />
          <Button html-type="submit" :loading="busy">Save window</Button>
        </form>
      </section>
    </template>
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
  </Frame>
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
