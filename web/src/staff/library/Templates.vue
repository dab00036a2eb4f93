<script setup lang="ts">
import { Button, Input, Textarea } from 'ant-design-vue'
import { watchDebounced } from '@vueuse/core'
import { reactive, ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import Choice from '../shared/Choice.vue'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import { may } from '../session'
import { articleKinds } from './kinds'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'

/** What articles begin from. Changing a template never changes an article. */
const { act, busy, refused } = useAct()
const templates = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/templates')),
)
const id = ref<number>()
const form = reactive({
  name: '',
  kind: 'how-to',
  purpose: '',
  retired: false,
  sections: [] as Schemas['Section'][],
})
const preview = ref('')

function edit(t?: Schemas['Template']) {
  id.value = t?.id ?? 0
  Object.assign(form, {
    name: t?.name ?? '',
    kind: t?.kind ?? 'how-to',
    purpose: t?.purpose ?? '',
    retired: t?.retired ?? false,
    sections: (t?.sections ?? [{ heading: '', prompt: '', required: true, steps: false }]).map((s) => ({
      ...s,
    })),
  })
}
watchDebounced(
  form,
  async () => {
    if (id.value === undefined) return
    preview.value = (await call(api.POST('/api/staff/template-previews', { body: { ...form } }))).body
  },
  { debounce: 200 },
)
const fault = (field: string) => refused.value?.problem.errors?.find((e) => e.field === field)?.message

async function save() {
  const body = { ...form }
  const ok = await act(
    () =>
      id.value
        ? call(api.PUT('/api/staff/templates/{id}', { params: { path: { id: id.value } }, body }))
        : call(api.POST('/api/staff/templates', { body })),
    'Template kept. Articles begun with it stay as they are.',
  )
  if (!ok) return
  id.value = undefined
  await templates.reload()
}
function shift(i: number, by: number) {
  const [s] = form.sections.splice(i, 1)
  if (s) form.sections.splice(i + by, 0, s)
}
const add = () => form.sections.push({ heading: '', prompt: '', required: false, steps: false })
</script>

<template>
  <Frame margin-title="Preview">
    <p class="small"><RouterLink to="/library">Library</RouterLink> › Templates</p>
    <h1>Templates</h1>
    <Failed v-if="templates.error.value" :error="templates.error.value" @retry="templates.reload" />
    <template v-if="id === undefined">
      <p class="faded">What articles begin from: named sections, with what belongs in each.</p>
      <ul class="plainlist panel list">
        <li v-for="t in templates.value.value ?? []" :key="t.id" class="row spread">
          <span>
            <strong>{{ t.name }}</strong> <span v-if="t.retired" class="faded">(not offered)</span>
            <span class="faded small purpose">{{ t.purpose }}</span>
          </span>
          <button
            v-if="may('administer')"
            type="button"
            class="quiet"
            :aria-label="`Change ${t.name}`"
            @click="edit(t)"
          >
            Change
          </button>
        </li>
      </ul>
      <Button v-if="may('administer')" type="primary" @click="edit()">New template</Button>
      <p v-else class="small faded">Administrators make and change templates.</p>
    </template>
    <form v-else class="fields" @submit.prevent="save">
      <label for="template-name">Name</label>
      <Input id="template-name" v-model:value="form.name" :maxlength="60" />
      <p v-if="fault('name')" class="fault">{{ fault('name') }}</p>
      <label for="template-purpose">When to use it</label>
      <Textarea id="template-purpose" v-model:value="form.purpose" :rows="2" :maxlength="300" />
      <label for="template-kind">Kind of article</label>
      <Choice id="template-kind" v-model="form.kind" :options="articleKinds" />
      <fieldset v-for="(s, i) in form.sections" :key="i" class="panel">
        <legend class="small">Section {{ i + 1 }}</legend>
        <label :for="`heading-${i}`">Heading{{ i ? '' : ' (the first can go without)' }}</label>
        <Input :id="`heading-${i}`" v-model:value="s.heading" :maxlength="80" />
        <p v-if="fault(`sections.${i}.heading`)" class="fault">{{ fault(`sections.${i}.heading`) }}</p>
        <label :for="`prompt-${i}`">What belongs there</label>
        <Input :id="`prompt-${i}`" v-model:value="s.prompt" :maxlength="300" />
        <div class="row small">
          <label><input v-model="s.required" type="checkbox" /> Required</label>
          <label><input v-model="s.steps" type="checkbox" /> Begins as steps</label>
          <button type="button" class="quiet" :disabled="!i" @click="shift(i, -1)">Up</button>
          <button type="button" class="quiet" :disabled="i === form.sections.length - 1" @click="shift(i, 1)">
            Down
          </button>
          <button type="button" class="quiet" @click="form.sections.splice(i, 1)">Remove</button>
        </div>
      </fieldset>
      <p v-if="fault('sections')" class="fault">{{ fault('sections') }}</p>
      <p><button type="button" class="quiet" @click="add">Add a section</button></p>
      <label class="small"
        ><input v-model="form.retired" type="checkbox" /> No longer offered for new articles</label
      >
      <div class="row">
        <Button type="primary" html-type="submit" :loading="busy">Keep template</Button>
        <Button @click="id = undefined">Cancel</Button>
      </div>
    </form>
    <template v-if="id !== undefined" #margin>
      <h2 class="first">Preview</h2>
      <p class="small faded">What an article begins with; the prompts show in the empty lines.</p>
      <div class="prose panel sheet" v-html="preview" />
    </template>
  </Frame>
</template>

<style scoped>
.list {
  margin-bottom: 1rem;
}
.list li {
  padding: 0.5rem 0.9rem;
  flex-wrap: nowrap;
}
.list li + li {
  border-top: 1px solid var(--rule);
}
.purpose {
  display: block;
}
.fields {
  display: grid;
  gap: 0.3rem;
  max-width: 42rem;
}
.fields > label {
  margin-top: 0.5rem;
}
fieldset {
  padding: 0.4rem 0.9rem 0.7rem;
  display: grid;
  gap: 0.25rem;
}
.sheet {
  font-size: 0.9rem;
  padding: 0.6rem 0.8rem;
}
.first {
  margin-top: 0;
}
</style>
