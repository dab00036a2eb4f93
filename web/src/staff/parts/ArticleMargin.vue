<script setup lang="ts">
import { Input, Textarea } from 'ant-design-vue'
import { reactive, watch } from 'vue'
import { api, call, type Refused, type Schemas } from '../../shared/api/client'
import { ago, day, exact } from '../../shared/format'
import { audiences, states } from '../../shared/words'
import { articleKinds } from '../use/kinds'
import { useAct } from '../use/act'
import { useLoad } from '../use/load'
import Choice from './Choice.vue'
import KeywordField from './KeywordField.vue'
import OutcomeBar from './OutcomeBar.vue'

/** What is known of an article beside its text. */
const props = defineProps<{
  article: Schemas['Article']
  copy: Schemas['WorkingCopy']
  editable: boolean
  fault?: Refused
}>()
const emit = defineEmits<{ changed: [] }>()
const copy = props.copy // shared with the page: typing here is saved with the text
const { act } = useAct()

const categories = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/categories')),
)
const people = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/people')),
)
const revisions = useLoad(
  () => [props.article.last_revision, props.article.live_revision],
  () =>
    call(
      api.GET('/api/staff/articles/{reference}/revisions', {
        params: { path: { reference: props.article.reference } },
      }),
    ),
)

const form = reactive({ category_id: 0, owner_id: 0, kind: '', audience: '' })
watch(
  () => props.article,
  (a) =>
    Object.assign(form, {
      category_id: a.category.id,
      owner_id: a.owner.id,
      kind: a.kind,
      audience: a.audience,
    }),
  { immediate: true },
)

async function save() {
  await act(
    () =>
      call(
        api.PUT('/api/staff/articles/{reference}/properties', {
          params: { path: { reference: props.article.reference } },
          body: { ...form },
        }),
      ),
    'Changed',
  )
  emit('changed')
}
const actions: Record<string, string> = {
  begun: 'began it',
  submit: 'sent it to review',
  recall: 'took it back',
  approve: 'approved it',
  send_back: 'sent it back',
  publish: 'published it',
  withdraw: 'withdrew it',
  properties: 'changed its properties',
}
</script>

<template>
  <h2 class="hidden">Properties and notes</h2>
  <div class="fields">
    <label for="audience">For whom</label>
    <Choice
      id="audience"
      v-model="form.audience"
      :disabled="!article.may_properties"
      :options="Object.entries(audiences).map(([value, label]) => ({ value, label }))"
      @chosen="save"
    />
    <label for="category">Category</label>
    <Choice
      id="category"
      v-model="form.category_id"
      :disabled="!article.may_properties"
      :options="(categories.value.value ?? []).map((c) => ({ value: c.id, label: c.name }))"
      @chosen="save"
    />
    <label for="kind">Kind</label>
    <Choice
      id="kind"
      v-model="form.kind"
      :disabled="!article.may_properties"
      :options="articleKinds"
      @chosen="save"
    />
    <label for="owner">Owner</label>
    <Choice
      id="owner"
      v-model="form.owner_id"
      :disabled="!article.may_properties"
      :options="
        (people.value.value ?? []).map((p) => ({
          value: p.id,
          label: p.disabled ? p.name + ' (has left)' : p.name,
        }))
      "
      @chosen="save"
    />
  </div>

  <h3>Keywords, in the customers’ words</h3>
  <KeywordField v-model="copy.keywords" label="Keywords" :disabled="!editable" />
  <p v-if="fault?.field('keywords')" class="fault small">{{ fault.field('keywords') }}</p>

  <h3>In search results</h3>
  <label for="search-title" class="small faded">Title there, if it should differ</label>
  <Input
    id="search-title"
    v-model:value="copy.search_title"
    :disabled="!editable"
    :maxlength="200"
    :placeholder="copy.title"
  />
  <label for="search-description" class="small faded">Description</label>
  <Textarea
    id="search-description"
    v-model:value="copy.search_description"
    :disabled="!editable"
    :rows="3"
    :maxlength="500"
    placeholder="The beginning of the text"
  />

  <h3>How questions ended that it was the last answer to</h3>
  <OutcomeBar :counts="article.outcomes" />
  <p class="small">
    <RouterLink :to="{ path: '/outcomes', query: { article: article.reference } }">The questions</RouterLink>
  </p>

  <h3>Revisions</h3>
  <ul class="plainlist small">
    <li v-for="r in revisions.value.value ?? []" :key="r.number">
      {{ r.number }}, {{ day(r.made_at) }}, {{ r.made_by }}<strong v-if="r.live"> · live</strong>
    </li>
    <li v-if="!revisions.value.value?.length" class="faded">The first is made when it is sent to review.</li>
  </ul>

  <h3>Trail</h3>
  <ul class="plainlist small trail">
    <li v-for="(t, i) in article.trail" :key="i">
      {{ t.who }} {{ actions[t.action] ?? t.action }}
      <span class="faded" :title="exact(t.at)">{{ ago(t.at) }}</span>
      <span v-if="t.note" class="faded note">{{ t.note }}</span>
      <span v-if="t.from && t.to && t.from !== t.to" class="hidden"
        >from {{ states[t.from] }} to {{ states[t.to] }}</span
      >
    </li>
  </ul>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: 5rem minmax(0, 1fr);
  align-items: center;
  gap: 0.4rem 0.6rem;
}
.fields label {
  color: var(--faded);
}
label.small {
  display: block;
  margin-top: 0.35rem;
}
.trail li {
  margin-bottom: 0.35rem;
}
.note {
  display: block;
}
</style>
