<script setup lang="ts">
import { Button, Input, Textarea } from 'ant-design-vue'
import { computed, reactive, ref, watch } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { may } from '../session'
import { useAct } from '../shared/act'
import { audienceChoices } from '../customers/audiences'
import { keepMedia } from '../shared/files'
import { useLoad } from '../shared/load'
import Choice from '../shared/Choice.vue'
import Dialog from '../shared/Dialog.vue'

/** Adds a category, or changes, merges and removes one. */
const props = defineProps<{
  category?: Schemas['Category']
  categories: Schemas['Category'][]
  inside: number
}>()
const open = defineModel<boolean>('open', { required: true })
const emit = defineEmits<{ choose: [id: number]; changed: [] }>()
const { act, busy, refused } = useAct()
const form = reactive({ name: '', description: '', audience: 'everyone', parent_id: 0 })
const into = ref(0)
const reviewing = reactive({ path_id: 0, steward_id: 0 })
const held = useLoad(
  () => [open.value, props.category?.id],
  async () =>
    open.value && props.category
      ? call(api.GET('/api/staff/categories/{id}/reviewing', { params: { path: { id: props.category.id } } }))
      : undefined,
)
const paths = useLoad(
  () => open.value,
  async () => (open.value ? call(api.GET('/api/staff/paths')) : []),
)
const people = useLoad(
  () => open.value,
  async () => (open.value ? call(api.GET('/api/staff/people')) : []),
)
watch(
  held.value,
  (h) =>
    h &&
    Object.assign(reviewing, {
      path_id: h.own_path ? h.path_id : 0,
      steward_id: h.own_steward ? h.steward_id : 0,
    }),
)
const picture = ref('')
const indented = (c: Schemas['Category']) => ({ value: c.id, label: '\u2003'.repeat(c.depth - 1) + c.name })

watch(open, (now) => {
  if (!now) return
  const c = props.category
  into.value = 0
  picture.value = c?.picture ?? ''
  Object.assign(form, {
    name: c?.name ?? '',
    description: c?.description ?? '',
    audience: c?.audience ?? 'everyone',
    parent_id: c ? c.parent_id : props.inside,
  })
})
const holds = computed(
  () =>
    !!props.category &&
    (props.category.articles > 0 || props.categories.some((c) => c.parent_id === props.category?.id)),
)

async function save() {
  const ok = await act(async () => {
    const id = props.category?.id ?? (await call(api.POST('/api/staff/categories', { body: { ...form } }))).id
    const path = { params: { path: { id } } }
    if (props.category) {
      await call(api.PUT('/api/staff/categories/{id}', { ...path, body: { ...form } }))
      if (form.parent_id !== props.category.parent_id)
        await call(
          api.POST('/api/staff/categories/{id}/move', {
            ...path,
            body: { parent_id: form.parent_id, before_id: 0 },
          }),
        )
    }
    const h = held.value.value
    if (
      h &&
      (reviewing.path_id !== (h.own_path ? h.path_id : 0) ||
        reviewing.steward_id !== (h.own_steward ? h.steward_id : 0))
    )
      await call(api.PUT('/api/staff/categories/{id}/reviewing', { ...path, body: { ...reviewing } }))
    if (picture.value !== (props.category?.picture ?? ''))
      await call(
        api.PUT('/api/staff/categories/{id}/picture', {
          ...path,
          body: { hash: picture.value.replace('/files/', '') },
        }),
      )
    if (!props.category) emit('choose', id)
  })
  if (ok) done()
}
async function remove() {
  const id = props.category?.id ?? 0
  const ok = await act(
    () =>
      call(
        api.DELETE('/api/staff/categories/{id}', {
          params: { path: { id }, query: { move_to: into.value || undefined } },
        }),
      ),
    into.value ? 'Merged' : 'Category removed',
  )
  if (!ok) return
  emit('choose', into.value)
  done()
}
function done() {
  open.value = false
  emit('changed')
}
async function choosePicture(e: Event) {
  const file = (e.target as HTMLInputElement).files?.[0]
  if (file) await act(async () => (picture.value = (await keepMedia(file)).path))
}
</script>

<template>
  <Dialog v-model:open="open" :title="category ? 'Change category' : 'Add category'">
    <form class="fields" @submit.prevent="save">
      <label for="category-name">Name</label>
      <Input id="category-name" v-model:value="form.name" :maxlength="80" />
      <p v-if="refused?.field('name')" class="fault">{{ refused.field('name') }}</p>
      <label for="category-description">What customers find in it</label>
      <Textarea id="category-description" v-model:value="form.description" :rows="2" :maxlength="400" />
      <label for="category-parent">Inside</label>
      <Choice
        id="category-parent"
        v-model="form.parent_id"
        :options="[
          { value: 0, label: 'The top' },
          ...categories.filter((c) => c.id !== category?.id).map(indented),
        ]"
      />
      <label for="category-audience">New articles in it are for</label>
      <Choice id="category-audience" v-model="form.audience" :options="audienceChoices" />
      <label for="category-picture">Picture in the help centre</label>
      <span class="row">
        <img v-if="picture" :src="picture" alt="The category’s picture" width="56" />
        <input
          id="category-picture"
          type="file"
          accept="image/png,image/jpeg,image/webp"
          @change="choosePicture"
        />
        <button v-if="picture" type="button" class="quiet small" @click="picture = ''">Without</button>
      </span>
      <template v-if="held.value.value && may('administer')">
        <label for="category-path">Review path</label>
        <Choice
          id="category-path"
          v-model="reviewing.path_id"
          :options="[
            {
              value: 0,
              label: held.value.value.own_path ? 'Its parent’s' : `Its parent’s: ${held.value.value.name}`,
            },
            ...(paths.value.value ?? []).map((p) => ({ value: p.id, label: p.name })),
          ]"
        />
        <label for="category-steward">Steward</label>
        <Choice
          id="category-steward"
          v-model="reviewing.steward_id"
          :options="[
            {
              value: 0,
              label: held.value.value.own_steward
                ? 'Its parent’s'
                : `Its parent’s: ${held.value.value.steward_name || 'nobody'}`,
            },
            ...(people.value.value ?? [])
              .filter((p) => !p.disabled)
              .map((p) => ({ value: p.id, label: p.name })),
          ]"
        />
      </template>
      <p v-else-if="held.value.value" class="small faded">
        Reviewed on the path “{{ held.value.value.name }}”; steward:
        {{ held.value.value.steward_name || 'nobody' }}.
      </p>
      <div class="row buttons">
        <Button type="primary" html-type="submit" :loading="busy">{{
          category ? 'Save category' : 'Add category'
        }}</Button>
      </div>
    </form>
    <form v-if="category && may('remove_categories')" class="fields remove" @submit.prevent="remove">
      <label for="category-into">{{
        holds ? 'To remove it, choose where what it holds goes' : 'It holds nothing'
      }}</label>
      <Choice
        v-if="holds"
        id="category-into"
        v-model="into"
        :options="[
          { value: 0, label: 'Choose…' },
          ...categories.filter((c) => c.id !== category?.id).map(indented),
        ]"
      />
      <div class="row">
        <Button html-type="submit" :disabled="holds && !into" :loading="busy">{{
          holds ? 'Move everything there and remove it' : 'Remove it'
        }}</Button>
      </div>
    </form>
  </Dialog>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 0.3rem;
}
label {
  margin-top: 0.5rem;
}
.buttons {
  margin-top: 1rem;
}
.remove {
  border-top: 1px solid var(--rule);
  margin-top: 1.2rem;
}
</style>
