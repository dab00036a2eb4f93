<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { counted } from '../../shared/format'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'
import Failed from '../shared/Failed.vue'

/** Who is in a group: found by name or address, added by address, taken out. */
const props = defineProps<{ group: Schemas['Group'] }>()
const emit = defineEmits<{ changed: [] }>()

const words = ref('')
const looked = refDebounced(words, 250)
const from = ref(0)
const page = 50
watch(looked, () => (from.value = 0))
const members = useLoad(
  () => [props.group.key, looked.value, from.value],
  () =>
    call(
      api.GET('/api/staff/groups/{key}/members', {
        params: { path: { key: props.group.key }, query: { words: looked.value, from: from.value } },
      }),
    ),
)
const total = computed(() => members.value.value?.total ?? 0)

const { act, busy, refused } = useAct()
const email = ref('')
async function add() {
  const at = { params: { path: { key: props.group.key } }, body: { email: email.value } }
  if (!(await act(() => call(api.POST('/api/staff/groups/{key}/members', at)), 'Added'))) return
  email.value = ''
  await changed()
}
async function remove(m: Schemas['Member']) {
  const at = { params: { path: { key: props.group.key, id: m.id } } }
  if (await act(() => call(api.DELETE('/api/staff/groups/{key}/members/{id}', at)), `${m.name} is out`))
    await changed()
}
async function changed() {
  await members.reload()
  emit('changed')
}
</script>

<template>
  <section class="members" :aria-label="`Customers in ${group.name}`">
    <form class="row" @submit.prevent="add">
      <label :for="`email-${group.key}`" class="small">Mail address of a customer</label>
      <Input
        :id="`email-${group.key}`"
        v-model:value="email"
        class="email"
        type="email"
        size="small"
        :maxlength="200"
      />
      <Button html-type="submit" size="small" :loading="busy" :disabled="!email.trim()">Put in</Button>
      <span v-if="refused?.field('email')" class="fault small">{{ refused.field('email') }}</span>
    </form>
    <div v-if="group.members > 10" class="row">
      <label :for="`find-${group.key}`" class="small">Find</label>
      <Input :id="`find-${group.key}`" v-model:value="words" class="email" size="small" type="search" />
    </div>
    <Failed v-if="members.error.value" :error="members.error.value" @retry="members.reload" />
    <ul class="plainlist">
      <li v-for="m in members.value.value?.items ?? []" :key="m.id" class="row spread small">
        <span
          >{{ m.name }} <span class="faded">{{ m.email }}</span></span
        >
        <button type="button" class="quiet" :aria-label="`Take ${m.name} out`" @click="remove(m)">
          Take out
        </button>
      </li>
    </ul>
    <p v-if="members.value.value && !total" class="small faded">
      {{ looked ? 'Nobody in it is called so.' : 'Nobody is in it yet: what is for it, no customer meets.' }}
    </p>
    <p v-if="total > page" class="row small">
      <button type="button" class="quiet" :disabled="!from" @click="from -= page">Before</button>
      {{ from + 1 }} to {{ Math.min(from + page, total) }} of {{ counted(total, 'customer') }}
      <button type="button" class="quiet" :disabled="from + page >= total" @click="from += page">Next</button>
    </p>
  </section>
</template>

<style scoped>
.members {
  margin-top: 0.5rem;
  padding-top: 0.5rem;
  border-top: 1px solid var(--rule);
}
.members li {
  padding: 0.2rem 0;
}
.email {
  width: 18rem;
}
</style>
