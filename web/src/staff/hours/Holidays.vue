<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, reactive, ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { may } from '../session'
import { useAct } from '../shared/act'
import DataTable from '../shared/DataTable.vue'

/** The days on which it is otherwise: typed, or out of an iCalendar file. */
const props = defineProps<{ kind: string; of: number; days: Schemas['OpeningDay'][] }>()
const emit = defineEmits<{ changed: [] }>()
const { act, busy, refused } = useAct()
const query = computed(() => (props.kind ? { kind: props.kind as 'team' | 'site', id: props.of } : {}))
const mayChange = computed(() => may('publish') || may('administer'))
const file = ref<HTMLInputElement>()
const day = reactive({ name: '', begins: '', ends: '', yearly: false, open: false })

const after = (text: string) => {
  const at = new Date(text + 'T00:00Z')
  at.setUTCDate(at.getUTCDate() + 1)
  return at.toISOString().slice(0, 10)
}

async function add() {
  const ok = await act(
    () =>
      call(
        api.POST('/api/staff/opening-days', {
          params: { query: query.value },
          body: {
            uid: '',
            name: day.name,
            begins: day.begins,
            ends: after(day.ends || day.begins),
            rule: day.yearly ? 'FREQ=YEARLY' : '',
            except: [],
            also: [],
            open: day.open,
          },
        }),
      ),
    'Added',
  )
  if (!ok) return
  Object.assign(day, { name: '', begins: '', ends: '', yearly: false, open: false })
  emit('changed')
}
async function drop(id: number) {
  if (
    await act(
      () => call(api.DELETE('/api/staff/opening-days/{id}', { params: { path: { id } } })),
      'Taken out',
    )
  )
    emit('changed')
}
async function bring() {
  const chosen = file.value?.files?.[0]
  if (!chosen) return
  let brought: Schemas['Brought'] | undefined
  const text = await chosen.text()
  const ok = await act(async () => {
    brought = await call(
      api.POST('/api/staff/opening-calendar', {
        params: { query: query.value },
        body: text as never,
        bodySerializer: (b: unknown) => b as string,
        headers: { 'Content-Type': 'text/calendar' },
      }),
    )
  })
  if (file.value) file.value.value = ''
  if (ok && brought) said.value = `${brought.added} added, ${brought.changed} changed.`
  if (ok) emit('changed')
}
const said = ref('')
const address = computed(
  () => '/api/staff/opening-calendar' + (props.kind ? `?kind=${props.kind}&id=${props.of}` : ''),
)
const columns = [
  { key: 'when', label: 'When', narrow: true },
  { key: 'name', label: 'What' },
  { key: 'again', label: 'Again' },
  { key: 'out', label: 'Out', narrow: true },
]
</script>

<template>
  <p v-if="!days.length" class="empty">
    No such days yet. Bring in a calendar (.ics) of public holidays, or add one here.
  </p>
  <DataTable v-else :columns="columns" :rows="days">
    <template #when="{ row }">{{ row.when }}</template>
    <template #name="{ row }">{{ row.name }} <span v-if="row.open" class="faded small">open</span></template>
    <template #again="{ row }"
      ><span class="faded small">{{ row.again }}</span></template
    >
    <template #out="{ row }">
      <button
        v-if="mayChange"
        type="button"
        class="quiet"
        :aria-label="`Take out ${row.name}`"
        @click="drop(row.id)"
      >
        Take out
      </button>
    </template>
  </DataTable>
  <form v-if="mayChange" class="row add" @submit.prevent="add">
    <input v-model="day.name" placeholder="Name" aria-label="Name of the day" required maxlength="200" />
    <input v-model="day.begins" type="date" aria-label="First day" required />
    <input v-model="day.ends" type="date" aria-label="Last day" />
    <label><input v-model="day.yearly" type="checkbox" /> every year</label>
    <label><input v-model="day.open" type="checkbox" /> open</label>
    <Button html-type="submit" size="small" :loading="busy">Add</Button>
  </form>
  <p class="row">
    <template v-if="mayChange">
      <label class="quietlabel" for="ics">Bring in a calendar</label>
      <input id="ics" ref="file" type="file" accept=".ics,text/calendar" @change="bring" />
    </template>
    <a :href="address" download="holidays.ics">Take them out as a calendar (.ics)</a>
  </p>
  <p v-if="said" role="status">{{ said }}</p>
  <p v-if="refused" class="fault" role="alert">{{ refused.message }}</p>
</template>

<style scoped>
.add {
  margin: 0.8rem 0;
}
.add input:not([type='checkbox']) {
  font: inherit;
  padding: 0.1rem 0.5rem;
  border: 1px solid var(--rule);
  border-radius: 4px;
}
</style>
