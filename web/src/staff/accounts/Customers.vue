<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, call, type Schemas } from '../../shared/api/client'
import { counted, day } from '../../shared/format'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import { saidWithWayBack, useAct } from '../shared/act'
import { sure } from '../shared/sure'
import { useLoad } from '../shared/load'

/** Customers who can sign in to the help centre. */
const route = useRoute()
const router = useRouter()
const words = computed(() => String(route.query.words ?? ''))
const from = computed(() => Math.max(0, Number(route.query.from) || 0))
const step = 50
const customers = useLoad(
  () => [words.value, from.value],
  () =>
    call(api.GET('/api/staff/customers', { params: { query: { words: words.value, from: from.value } } })),
)
const { act, busy } = useAct()

const typed = ref('')
watch(words, (w) => (typed.value = w), { immediate: true })
function search() {
  const asked = typed.value.trim()
  void router.push({ query: asked ? { words: asked } : {} })
}
function turnTo(first: number) {
  void router.push({ query: { ...route.query, from: first || undefined } })
}
async function set(c: Schemas['CustomerLine'], disabled: boolean) {
  const at = { params: { path: { id: c.id } }, body: { disabled } }
  const done = await act(() => call(api.PUT('/api/staff/customers/{id}', at)))
  await customers.reload()
  return done
}
async function change(c: Schemas['CustomerLine']) {
  if (!(await set(c, !c.disabled))) return
  const said = c.disabled ? `${c.name} can sign in again` : `${c.name} can no longer sign in`
  saidWithWayBack(said, () => set(c, c.disabled))
}
async function link(c: Schemas['CustomerLine']) {
  const at = { params: { path: { id: c.id } } }
  await act(
    () => call(api.POST('/api/staff/customers/{id}/password-link', at)),
    `A link is on its way to ${c.email}`,
  )
}
function forget(c: Schemas['CustomerLine']) {
  sure(
    `Forget ${c.name}?`,
    'Words, name, address and account go for good, with the requests and their files; what is open is closed. Figures stay as they are. This cannot be taken back.',
    'Forget for good',
    async () => {
      await act(
        () => call(api.DELETE('/api/staff/customers/{id}', { params: { path: { id: c.id } } })),
        'Forgotten',
      )
      await customers.reload()
    },
  )
}
</script>

<template>
  <Frame>
    <p class="small"><RouterLink to="/settings">Settings</RouterLink> › Customers</p>
    <h1>Customers</h1>
    <p class="faded">Those who can sign in to the help centre. Who is disabled is signed out at once.</p>
    <form class="row" role="search" aria-label="Search customers" @submit.prevent="search">
      <label class="hidden" for="customer-words">Name or mail address</label>
      <Input
        id="customer-words"
        v-model:value="typed"
        class="words"
        placeholder="Name or mail address"
        :maxlength="200"
      />
      <Button html-type="submit">Find</Button>
      <span v-if="customers.value.value" class="faded" role="status">{{
        counted(customers.value.value.total, 'customer')
      }}</span>
    </form>
    <Failed v-if="customers.error.value" :error="customers.error.value" @retry="customers.reload" />
    <table v-if="customers.value.value?.items.length" class="panel">
      <caption class="hidden">
        Customers
      </caption>
      <thead>
        <tr>
          <th scope="col">Name</th>
          <th scope="col">Mail address</th>
          <th scope="col">Since</th>
          <th scope="col"><span class="hidden">Actions</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in customers.value.value.items" :key="c.id">
          <td>{{ c.name }}<span v-if="c.disabled" class="faded"> (disabled)</span></td>
          <td>{{ c.email }}</td>
          <td>{{ day(c.since) }}</td>
          <td>
            <span class="row">
              <button
                type="button"
                class="quiet"
                :disabled="busy"
                :aria-label="`${c.disabled ? 'Let in again' : 'Disable'}: ${c.name}`"
                @click="change(c)"
              >
                {{ c.disabled ? 'Let in again' : 'Disable' }}
              </button>
              <button
                v-if="!c.disabled"
                type="button"
                class="quiet"
                :disabled="busy"
                :aria-label="`Send ${c.name} a link to set a password`"
                @click="link(c)"
              >
                Send a password link
              </button>
              <button
                type="button"
                class="quiet"
                :disabled="busy"
                :aria-label="`Forget ${c.name}`"
                @click="forget(c)"
              >
                Forget…
              </button>
            </span>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="customers.value.value" class="faded">
      {{ words ? 'No customer has such a name or address.' : 'No customer can sign in yet.' }}
    </p>
    <p v-if="customers.value.value && customers.value.value.total > step" class="row">
      <Button :disabled="!from" @click="turnTo(from - step)">Earlier names</Button>
      <Button :disabled="from + step >= customers.value.value.total" @click="turnTo(from + step)"
        >Later names</Button
      >
    </p>
  </Frame>
</template>

<style scoped>
.words {
  width: 18rem;
}
table {
  width: 100%;
  border-collapse: collapse;
  margin: 1rem 0;
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
</style>
