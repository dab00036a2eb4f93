<script setup lang="ts">
import { Input } from 'ant-design-vue'
import { ref, watch } from 'vue'
import { api, call } from '../../shared/api/client'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'
import Choice from '../shared/Choice.vue'
import DateField from '../shared/DateField.vue'

/** Whether an article stands, or holds only until a day or until a known problem is solved. */
defineProps<{ disabled: boolean }>()
const until = defineModel<string>('until', { required: true })
const problem = defineModel<number>('problem', { required: true })
const emit = defineEmits<{ chosen: [] }>()
const { act } = useAct()
const problems = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/known-problems')),
)
type Way = 'standing' | 'day' | 'problem'
const way = ref<Way>('standing')
const naming = ref('')
watch(
  [until, problem],
  () => {
    if (problem.value) way.value = 'problem'
    else if (until.value) way.value = 'day'
  },
  { immediate: true },
)

function choose(now: Way) {
  if (now !== 'standing') return
  until.value = ''
  problem.value = 0
  emit('chosen')
}
async function open() {
  await act(async () => {
    const made = await call(api.POST('/api/staff/known-problems', { body: { name: naming.value } }))
    naming.value = ''
    await problems.reload()
    problem.value = made.id
    emit('chosen')
  })
}
async function solve() {
  await act(
    () => call(api.POST('/api/staff/known-problems/{id}/solve', { params: { path: { id: problem.value } } })),
    'Solved: the articles that waited for it are due now',
  )
  await problems.reload()
  emit('chosen')
}
</script>

<template>
  <div class="fields">
    <label for="interim">Holds</label>
    <Choice
      id="interim"
      v-model="way"
      :disabled="disabled"
      :options="[
        { value: 'standing', label: 'Until it is changed' },
        { value: 'day', label: 'Until a day' },
        { value: 'problem', label: 'Until a known problem is solved' },
      ]"
      @chosen="choose"
    />
    <template v-if="way === 'day'">
      <label for="interim-day">Day</label>
      <DateField id="interim-day" v-model="until" :disabled="disabled" @chosen="emit('chosen')" />
    </template>
    <template v-if="way === 'problem'">
      <label for="interim-problem">Problem</label>
      <Choice
        id="interim-problem"
        v-model="problem"
        :disabled="disabled"
        :options="[
          { value: 0, label: 'Choose…' },
          ...(problems.value.value ?? []).map((p) => ({
            value: p.id,
            label: p.name + (p.solved_at ? ' (solved)' : ''),
          })),
        ]"
        @chosen="emit('chosen')"
      />
      <form v-if="!disabled" class="row wide" @submit.prevent="open">
        <Input
          v-model:value="naming"
          size="small"
          :maxlength="120"
          aria-label="A new known problem"
          placeholder="Or a new one…"
        />
        <button type="submit" class="quiet small" :disabled="!naming.trim()">Open it</button>
        <button v-if="problem" type="button" class="quiet small" @click="solve">It is solved</button>
      </form>
    </template>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: 5rem minmax(0, 1fr);
  align-items: center;
  gap: 0.4rem 0.6rem;
  margin-top: 0.4rem;
}
label {
  color: var(--faded);
}
.wide {
  grid-column: 1 / -1;
  flex-wrap: nowrap;
}
input[type='date'] {
  font: inherit;
  border: 1px solid #cfc6b4;
  border-radius: 4px;
  height: 30px;
  padding: 0 0.4rem;
}
button {
  white-space: nowrap;
}
</style>
