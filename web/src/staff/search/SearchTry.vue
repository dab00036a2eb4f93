<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, call, type Schemas } from '../../shared/api/client'
import { percent } from '../../shared/format'
import { useAct } from '../shared/act'
import { audienceChoices } from '../customers/audiences'
import { useLoad } from '../shared/load'
import DateField from '../shared/DateField.vue'
import Choice from '../shared/Choice.vue'
import Failed from '../shared/Failed.vue'
import SearchWhy from './SearchWhy.vue'

/** Asks as somebody would, shows what they would find, and why. */
const props = defineProps<{ site: number; languages: string[]; mayChange: boolean }>()
const emit = defineEmits<{ changed: [] }>()

const route = useRoute()
const router = useRouter()
const words = ref(String(route.query.words ?? ''))
const asked = refDebounced(words, 250)
const as = ref('everyone')
const language = ref(props.languages[0] ?? 'en')
const open = ref('')

const tried = useLoad(
  () => [props.site, asked.value, as.value, language.value],
  async () => {
    if (asked.value !== (route.query.words ?? ''))
      void router.replace({ query: { ...route.query, words: asked.value || undefined } })
    return call(
      api.GET('/api/staff/sites/{site}/search', {
        params: {
          path: { site: props.site },
          query: { words: asked.value, as: as.value, language: language.value },
        },
      }),
    )
  },
)
const results = computed(() => tried.value.value?.results ?? [])

const { act, busy } = useAct()
const until = ref('')
async function pin(reference: string, bury: boolean) {
  const ok = await act(
    () =>
      call(
        api.POST('/api/staff/sites/{site}/search/pins', {
          params: { path: { site: props.site } },
          body: { words: asked.value, reference: reference.split('.')[0] ?? '', bury, until: until.value },
        }),
      ),
    bury ? 'Left out for this question' : 'Pinned for this question',
  )
  if (ok) await changed()
}
async function judge(reference: string) {
  const body = { question: asked.value, reference: reference.split('.')[0] ?? '' }
  const ok = await act(
    () =>
      call(
        api.POST('/api/staff/sites/{site}/search/judged', { params: { path: { site: props.site } }, body }),
      ),
    'Judged: this answers it',
  )
  if (ok) emit('changed')
}
async function changed() {
  emit('changed')
  await tried.reload()
}
defineExpose({ reload: tried.reload })
const named: Record<string, string> = {
  everyone: 'somebody not signed in',
  signed_in: 'a signed-in customer',
  staff: 'staff',
}
const whom = computed(() =>
  audienceChoices.value.map((a) => ({
    value: a.value,
    label: named[a.value] ?? `a customer in “${a.label}”`,
  })),
)
const bare = (r: Schemas['TriedResult']) => r.passage?.map((p) => p.text).join('') ?? ''
</script>

<template>
  <form class="row ask" role="search" @submit.prevent="tried.reload">
    <label class="hidden" for="try-words">Question</label>
    <Input id="try-words" v-model:value="words" placeholder="Ask as a customer would" :maxlength="4000" />
    <label class="hidden" for="try-as">As whom</label>
    <Choice id="try-as" v-model="as" :options="whom" />
    <label v-if="languages.length > 1" class="hidden" for="try-language">Language</label>
    <Choice
      v-if="languages.length > 1"
      id="try-language"
      v-model="language"
      :options="languages.map((l) => ({ value: l, label: l }))"
    />
  </form>
  <Failed v-if="tried.error.value" :error="tried.error.value" @retry="tried.reload" />
  <p v-if="!asked" class="empty">
    What somebody finds for a question stands here, with the reason for each place.
  </p>
  <template v-else-if="tried.value.value">
    <p v-for="i in tried.value.value.instead" :key="i.word" class="small faded">
      No article has “{{ i.word }}”; taken for “{{ i.for }}”.
    </p>
    <p v-if="tried.value.value.answer" class="panel composed small">
      <strong>An answer is composed</strong> of
      {{ tried.value.value.answer.parts.map((p) => p.reference).join(', ') }}, with a confidence of
      {{ percent(tried.value.value.answer.confidence) }}.
    </p>
    <p v-if="!results.length" class="empty">Nothing is found.</p>
    <ol class="plainlist results">
      <li v-for="(r, n) in results" :key="r.reference" class="panel">
        <div class="row spread">
          <span>
            <span class="place">{{ n + 1 }}</span>
            <RouterLink :to="`/library/${r.reference}`">{{ r.title }}</RouterLink>
            <span class="faded small more">{{ r.reference }}</span>
            <span v-if="r.pinned" class="small pinned">pinned</span>
          </span>
          <span class="small faded"
            >score {{ r.score.toFixed(2) }} · holds {{ percent(r.coverage) }} of the question</span
          >
        </div>
        <p class="small passage">{{ bare(r) }}</p>
        <p class="row small">
          <button
            type="button"
            class="quiet"
            :aria-expanded="open === r.reference"
            @click="open = open === r.reference ? '' : r.reference"
          >
            Why here?
          </button>
          <button type="button" class="quiet" :disabled="busy" @click="judge(r.reference)">
            This answers it
          </button>
          <template v-if="mayChange">
            <button type="button" class="quiet" :disabled="busy" @click="pin(r.reference, false)">
              Pin first
            </button>
            <button type="button" class="quiet" :disabled="busy" @click="pin(r.reference, true)">
              Leave out
            </button>
          </template>
        </p>
        <SearchWhy v-if="open === r.reference" :site :words="asked" :as :language :reference="r.reference" />
      </li>
    </ol>
    <p v-if="mayChange && results.length" class="row small">
      <label for="pin-until">A pin holds until</label>
      <DateField id="pin-until" v-model="until" small />
      <Button v-if="until" size="small" @click="until = ''">For ever</Button>
      <span v-else class="faded">for ever, unless a day is named</span>
    </p>
  </template>
</template>

<style scoped>
.ask {
  flex-wrap: nowrap;
  margin-bottom: 0.8rem;
}
.ask :deep(select) {
  width: auto;
}
.results li {
  padding: 0.6rem 0.9rem;
  margin-bottom: 0.5rem;
}
.place {
  display: inline-block;
  min-width: 1.4rem;
  color: var(--faded);
  font-variant-numeric: tabular-nums;
}
.more {
  margin-left: 0.5rem;
}
.pinned {
  margin-left: 0.6rem;
  color: var(--rubric);
}
.passage {
  margin: 0.2rem 0;
}
.composed {
  padding: 0.5rem 0.9rem;
}
</style>
