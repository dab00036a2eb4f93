<script setup lang="ts">
import { computed, ref } from 'vue'
import { onBeforeRouteLeave, useRouter } from 'vue-router'
import { api, call } from '../../shared/api/client'
import { ago, counted, exact, percent } from '../../shared/format'
import { states } from '../../shared/words'
import Comments from './Comments.vue'
import DecisionBox from './DecisionBox.vue'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import OutcomeBar from '../outcomes/OutcomeBar.vue'
import SpanWords from '../shared/SpanWords.vue'
import ImpactList from './ImpactList.vue'
import { audienceWords } from '../customers/audiences'
import { useLive } from '../shared/live'
import { useLoad } from '../shared/load'

const props = defineProps<{ reference: string }>()
const router = useRouter()
const path = computed(() => ({ params: { path: { reference: props.reference } } }))

const {
  value: loaded,
  error,
  reload,
} = useLoad(
  () => props.reference,
  async () => {
    const [article, changes, round, comments] = await Promise.all([
      call(api.GET('/api/staff/articles/{reference}', path.value)),
      call(api.GET('/api/staff/articles/{reference}/changes', path.value)),
      call(api.GET('/api/staff/articles/{reference}/round', path.value)),
      call(api.GET('/api/staff/articles/{reference}/comments', path.value)),
    ])
    return { article, changes, round, comments }
  },
)
// What stands around the text is not needed to begin reading it.
const around = useLoad(
  () => props.reference,
  async () => {
    const [checks, impact, figures] = await Promise.all([
      call(api.GET('/api/staff/articles/{reference}/advice', path.value)),
      call(api.GET('/api/staff/articles/{reference}/touches', path.value)),
      call(api.GET('/api/staff/articles/{reference}/doing', path.value)),
    ])
    return { checks, impact, figures }
  },
)
useLive(`/api/staff/articles/${props.reference}/events`, () => void reload())
const view = ref<'changes' | 'text' | 'beside'>()
const shown = computed(() => view.value ?? (loaded.value?.article.live_revision ? 'changes' : 'text'))
const views = [
  { value: 'changes', label: 'Changes marked' },
  { value: 'text', label: 'As customers read it' },
  { value: 'beside', label: 'Beside the live one' },
] as const
const live = useLoad(
  () => [props.reference, shown.value, loaded.value?.article.live_revision],
  async () =>
    shown.value === 'beside' && loaded.value?.article.live_revision
      ? call(
          api.GET('/api/staff/articles/{reference}/texts/{which}', {
            params: { path: { reference: props.reference, which: 'live' } },
          }),
        )
      : undefined,
)

/** Callouts of the text beside are no landmarks of the page: the text itself has them. */
const quiet = (body: string) => body.replaceAll('<aside ', '<aside role="note" ')

// Whoever has gone elsewhere meanwhile is not fetched back.
let here = true
onBeforeRouteLeave(() => void (here = false))
async function decided() {
  // Asked for anew, since a load that was under way may show the state before.
  const a = await call(api.GET('/api/staff/articles/{reference}', path.value))
  if (a.allowed.includes('publish') || a.allowed.includes('approve')) await reload()
  else if (here) await router.push('/review')
}
</script>

<template>
  <Frame margin-title="Decision">
    <Failed v-if="error" :error="error" @retry="reload" />
    <template v-if="loaded">
      <p class="crumbs small">
        <RouterLink to="/review">Review</RouterLink> ›
        <RouterLink :to="`/library/${reference}`">{{ reference }}</RouterLink>
      </p>
      <div class="row spread">
        <div class="row small" role="group" aria-label="What to read">
          <button
            v-for="v in views.filter((v) => v.value !== 'beside' || loaded?.article.live_revision)"
            :key="v.value"
            type="button"
            class="quiet"
            :aria-pressed="shown === v.value"
            @click="view = v.value"
          >
            {{ v.label }}
          </button>
        </div>
        <span class="faded small">
          {{
            loaded.article.live_revision
              ? `Against revision ${loaded.article.live_revision}, which is live`
              : 'Nothing of it is live yet: all is new'
          }}
        </span>
      </div>
      <template v-if="shown === 'changes'">
        <h1><SpanWords :spans="loaded.changes.title" /></h1>
        <div class="prose compared" data-text v-html="loaded.changes.body.html" />
      </template>
      <div v-else :class="{ columns: shown === 'beside' }">
        <div v-if="shown === 'beside' && live.value.value">
          <p class="small faded">Live now</p>
          <h2 class="title">{{ live.value.value.title }}</h2>
          <div class="prose" v-html="quiet(live.value.value.body)" />
        </div>
        <div>
          <p v-if="shown === 'beside'" class="small faded">In review</p>
          <h1>{{ loaded.article.copy.title }}</h1>
          <div class="prose" data-text v-html="loaded.article.copy.body" />
        </div>
      </div>
    </template>
    <template v-if="loaded" #margin>
      <h2 class="first">{{ states[loaded.article.state] }}</h2>
      <p class="small faded">
        Written by {{ loaded.article.writer.name
        }}<template v-if="loaded.article.submitted_at"
          >, sent
          <span :title="exact(loaded.article.submitted_at)">{{
            ago(loaded.article.submitted_at)
          }}</span></template
        >. For {{ audienceWords(loaded.article.audience) }}, in {{ loaded.article.category.name }}.
      </p>
      <DecisionBox :article="loaded.article" :round="loaded.round" @changed="reload" @decided="decided" />
      <h2 class="sub">Comments</h2>
      <Comments
        :reference="reference"
        :comments="loaded.comments"
        :may-say="loaded.article.may_comment"
        :may-accept="false"
        :drawn="[loaded.article.version, shown]"
        @changed="reload"
      />
      <template v-if="around.value.value">
        <details open>
          <summary class="sub">
            {{ counted(around.value.value.checks.checks.length, 'note') }} on the text
          </summary>
          <ul class="plainlist small">
            <li v-for="c in around.value.value.checks.checks" :key="c.key">{{ c.message }}</li>
            <li v-if="!around.value.value.checks.checks.length" class="faded">Nothing to mend.</li>
          </ul>
        </details>
        <ImpactList :impact="around.value.value.impact" title="Where it appears" />
        <p v-if="loaded.article.known_problem" class="small">
          Interim, until “{{ loaded.article.known_problem.name }}” is solved.
        </p>
        <h2 class="sub">How the live one is doing</h2>
        <p class="small">
          In 90 days opened {{ around.value.value.figures.opened }} times and read
          {{ around.value.value.figures.read }}.
          <template v-if="around.value.value.figures.helpful.of">
            Helped {{ around.value.value.figures.helpful.count }} of
            {{ around.value.value.figures.helpful.of }} who said ({{
              percent(around.value.value.figures.helpful.low)
            }}
            to {{ percent(around.value.value.figures.helpful.high) }}).</template
          >
          <template v-if="around.value.value.figures.contact.of">
            A contact after reading: {{ around.value.value.figures.contact.count }} of
            {{ counted(around.value.value.figures.contact.of, 'question') }}.</template
          >
        </p>
        <OutcomeBar :counts="loaded.article.outcomes" />
        <p class="small">
          <RouterLink :to="{ path: '/outcomes', query: { article: reference.split('.')[0] } }"
            >The questions</RouterLink
          >
        </p>
      </template>
      <p class="small faded">Keywords: {{ loaded.article.copy.keywords.join(', ') || 'none yet' }}</p>
    </template>
  </Frame>
</template>

<style scoped>
.crumbs {
  margin: 0 0 0.5rem;
}
h1,
.title {
  margin-top: 0.8rem;
}
.title {
  font-size: 1.6rem;
}
.first {
  margin-top: 0;
}
button[aria-pressed='true'] {
  text-decoration: underline;
  text-underline-offset: 4px;
}
.columns {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 2rem;
}
summary.sub {
  font: 600 0.95rem var(--face);
  margin: 1.3rem 0 0.35rem;
  cursor: pointer;
}
</style>
