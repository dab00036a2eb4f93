<script setup lang="ts">
import { Input, InputNumber, Textarea } from 'ant-design-vue'
import { computed, reactive, ref, watch } from 'vue'
import { api, call, type Refused, type Schemas } from '../../shared/api/client'
import { fullDay } from '../../shared/format'
import { states } from '../../shared/words'
import { audienceChoices } from '../customers/audiences'
import { articleKinds } from './kinds'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'
import Choice from '../shared/Choice.vue'
import InterimFields from './InterimFields.vue'
import KeywordField from './KeywordField.vue'
import OutcomeBar from '../outcomes/OutcomeBar.vue'

/** What an article is besides its text. */
const props = defineProps<{
  article: Schemas['Article']
  copy: Schemas['WorkingCopy']
  editable: boolean
  fault?: Refused
}>()
const emit = defineEmits<{ changed: [] }>()
const copy = props.copy // shared with the page: typing here is saved with the text
const { act, refused } = useAct()
const load = <T,>(get: () => Promise<T>) => useLoad(() => 0, get).value
const categories = load(() => call(api.GET('/api/staff/categories')))
const people = load(() => call(api.GET('/api/staff/people')))
const whom = load(() => call(api.GET('/api/staff/audiences')))

const form = reactive({
  category_id: 0,
  owner_id: 0,
  kind: '',
  audience: '',
  recheck_days: 180,
  recheck_by_rule: true,
  interim_until: '',
  known_problem_id: 0,
})
watch(
  () => props.article,
  (a) =>
    Object.assign(form, {
      category_id: a.category.id,
      owner_id: a.owner.id,
      kind: a.kind,
      audience: a.audience,
      recheck_days: a.recheck_days,
      recheck_by_rule: a.recheck_by_rule,
      interim_until: a.interim_until,
      known_problem_id: a.known_problem?.id ?? 0,
    }),
  { immediate: true },
)
const locked = computed(() => !props.article.may_properties)
const owner = computed(() => people.value?.find((p) => p.id === form.owner_id))
const group = computed(() => whom.value?.find((w) => w.audience === form.audience))
const result = ref(false)

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
</script>

<template>
  <section aria-label="About">
    <div class="fields">
      <label for="audience">For whom</label>
      <Choice
        id="audience"
        v-model="form.audience"
        :disabled="locked"
        :options="audienceChoices"
        @chosen="save"
      />
      <p v-if="group" class="wide small faded">
        {{ group.who }} Now {{ group.customers }} customers with an account and {{ group.staff }} staff.
      </p>
      <label for="category">Category</label>
      <Choice
        id="category"
        v-model="form.category_id"
        :disabled="locked"
        :options="
          (categories ?? []).map((c) => ({ value: c.id, label: '\u2003'.repeat(c.depth - 1) + c.name }))
        "
        @chosen="save"
      />
      <span class="label">Shown in</span>
      <span class="small">{{ article.sites.map((s) => s.name).join(', ') || 'No help centre' }}</span>
      <label for="kind">Kind</label>
      <Choice id="kind" v-model="form.kind" :disabled="locked" :options="articleKinds" @chosen="save" />
      <label for="owner">Owner</label>
      <Choice
        id="owner"
        v-model="form.owner_id"
        :disabled="locked"
        :options="
          (people ?? []).map((p) => ({ value: p.id, label: p.disabled ? p.name + ' (has left)' : p.name }))
        "
        @chosen="save"
      />
      <p v-if="owner?.disabled" class="wide small fault">The owner has left: give it to somebody else.</p>
      <label for="recheck">Recheck</label>
      <span class="small">
        <label class="rule"
          ><input v-model="form.recheck_by_rule" type="checkbox" :disabled="locked" @change="save" /> by kind
          and use,
        </label>
        every
        <InputNumber
          id="recheck"
          v-model:value="form.recheck_days"
          size="small"
          :min="1"
          :max="3660"
          :disabled="locked || form.recheck_by_rule"
          @blur="form.recheck_days !== article.recheck_days && save()"
        />
        days, next {{ fullDay(article.recheck_on)
        }}<template v-if="article.checked_on"
          >; last confirmed {{ fullDay(article.checked_on) }}</template
        ></span
      >
    </div>
    <InterimFields
      v-model:until="form.interim_until"
      v-model:problem="form.known_problem_id"
      :disabled="locked"
      @chosen="save"
    />
    <p v-if="refused" class="fault small" role="alert">{{ refused.problem.detail }}</p>

    <h2 class="sub">Keywords, in the customers’ words</h2>
    <KeywordField v-model="copy.keywords" label="Keywords" :disabled="!editable" />
    <p v-if="fault?.field('keywords')" class="fault small">{{ fault.field('keywords') }}</p>

    <h2 class="sub">
      In search results
      <button type="button" class="quiet small" :aria-pressed="result" @click="result = !result">
        Preview
      </button>
    </h2>
    <div v-if="result" class="panel result">
      <p class="name">{{ copy.search_title || copy.title }}</p>
      <p class="small">{{ copy.search_description || 'The beginning of the text stands here.' }}</p>
    </div>
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

    <h2 class="sub">How questions ended that it was the last answer to</h2>
    <OutcomeBar :counts="article.outcomes" />
    <p class="small">
      <RouterLink :to="{ path: '/outcomes', query: { article: article.reference.split('.')[0] } }"
        >The questions</RouterLink
      >
    </p>
    <h2 class="sub">Linked from</h2>
    <ul class="plainlist small">
      <li v-for="l in article.linked_from" :key="l.reference">
        <RouterLink :to="`/library/${l.reference}`">{{ l.title || 'Untitled' }}</RouterLink>
      </li>
      <li v-if="!article.linked_from.length" class="faded">No other article points here.</li>
    </ul>
    <template v-if="article.editions.length > 1">
      <h2 class="sub">Editions</h2>
      <ul class="plainlist small">
        <li v-for="e in article.editions" :key="e.reference">
          <RouterLink :to="`/library/${e.reference}`">{{ e.name }}</RouterLink>,
          {{ states[e.state]?.toLowerCase() }}<strong v-if="e.behind"> · behind</strong>
        </li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: 5rem minmax(0, 1fr);
  align-items: center;
  gap: 0.4rem 0.6rem;
}
.fields :is(label, .label) {
  color: var(--faded);
}
.wide {
  grid-column: 1 / -1;
  margin: -0.15rem 0 0.2rem;
}
.result {
  padding: 0.5rem 0.7rem;
  margin-bottom: 0.4rem;
}
.result p {
  margin: 0;
}
.result .name {
  font-family: var(--text-face);
  color: #1d5140;
  text-decoration: underline;
}
label.small {
  display: block;
  margin-top: 0.35rem;
}
</style>
