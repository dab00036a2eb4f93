<script setup lang="ts">
import { Input } from 'ant-design-vue'
import { computed } from 'vue'
import type { Schemas } from '../../shared/api/client'
import Choice from '../shared/Choice.vue'

/** One field of a request form, as it is set. */
const props = defineProps<{
  number: number
  choices: Schemas['Field'][] // that it may depend on
  faults: { field: string; message: string }[]
}>()
const field = defineModel<Schemas['Field']>({ required: true })

const kinds = [
  { value: 'text', label: 'a line of text' },
  { value: 'long_text', label: 'a longer text' },
  { value: 'choice', label: 'a choice' },
  { value: 'date', label: 'a day' },
  { value: 'reference', label: 'a number or code' },
  { value: 'file', label: 'a file' },
]
const id = (name: string) => `field-${props.number}-${name}`
const fault = (name: string) =>
  props.faults.find((f) => f.field === `fields[${props.number}].${name}`)?.message
const whens = computed(() => [
  { value: '', label: 'always' },
  ...props.choices.flatMap((c) =>
    c.options.map((o) => ({ value: `${c.key}\n${o}`, label: `only if “${c.label}” is “${o}”` })),
  ),
])
const when = computed({
  get: () => (field.value.when.key ? `${field.value.when.key}\n${field.value.when.is}` : ''),
  set: (v: string) => {
    const [key = '', is = ''] = v.split('\n')
    field.value.when = { key, is }
  },
})
const options = computed({
  get: () => field.value.options.join('\n'),
  set: (v: string) => (field.value.options = v.split('\n')),
})
</script>

<template>
  <div class="grid">
    <label :for="id('label')">Asks</label>
    <Input :id="id('label')" v-model:value="field.label" :maxlength="120" />
    <p v-if="fault('label')" class="fault">{{ fault('label') }}</p>
    <label :for="id('kind')">Takes</label>
    <Choice :id="id('kind')" v-model="field.kind" :options="kinds" />
    <template v-if="field.kind === 'choice'">
      <label :for="id('options')">Options, one a line</label>
      <textarea :id="id('options')" v-model="options" rows="3" />
      <p v-if="fault('options')" class="fault">{{ fault('options') }}</p>
    </template>
    <template v-if="field.kind === 'reference'">
      <label :for="id('pattern')">Looks like</label>
      <Input
        :id="id('pattern')"
        v-model:value="field.pattern"
        :maxlength="60"
        placeholder="A00 00000: A for a letter, 0 for a digit"
      />
    </template>
    <label :for="id('when')">Asked for</label>
    <Choice :id="id('when')" v-model="when" :options="whens" />
    <p v-if="fault('when')" class="fault">{{ fault('when') }}</p>
    <label :for="id('help')">Helps with</label>
    <Input :id="id('help')" v-model:value="field.help" :maxlength="300" />
    <label :for="id('key')">Key in exports</label>
    <Input :id="id('key')" v-model:value="field.key" :maxlength="40" />
    <p v-if="fault('key')" class="fault">{{ fault('key') }}</p>
    <span />
    <label class="tick"><input v-model="field.required" type="checkbox" /> Must be filled in</label>
  </div>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 9rem minmax(0, 1fr);
  gap: 0.3rem 0.8rem;
  align-items: center;
}
.fault {
  grid-column: 2;
  margin: 0;
}
textarea {
  font: inherit;
  border: 1px solid #cfc6b4;
  border-radius: 4px;
  padding: 0.2rem 0.5rem;
}
</style>
