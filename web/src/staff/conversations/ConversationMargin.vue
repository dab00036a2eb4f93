<script setup lang="ts">
import { computed, ref } from 'vue'
import { refDebounced } from '@vueuse/core'
import { api, call, type Schemas } from '../../shared/api/client'
import { shownDay } from '../../shared/days'
import { exact, kilobytes } from '../../shared/format'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'
import Choice from '../shared/Choice.vue'

/** The brief, so that the customer never repeats themselves; then articles that fit. */
const props = defineProps<{ handoff: Schemas['Handoff'] }>()
const emit = defineEmits<{ insert: [reference: string]; back: [] }>()
const words = ref('')
const asked = refDebounced(words, 200)

const last = computed(() => props.handoff.messages.filter((m) => m.speaker === 'customer').at(-1)?.id)
const suggestions = useLoad(
  () => [props.handoff.reference, last.value, asked.value],
  () =>
    call(
      api.GET('/api/staff/handoffs/{reference}/suggestions', {
        params: { path: { reference: props.handoff.reference }, query: { words: asked.value || undefined } },
      }),
    ),
)
const { act, busy } = useAct()
const categories = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/categories')),
)
const category = ref(0)
const made = ref('')
const replied = computed(() => props.handoff.messages.some((m) => m.speaker === 'agent'))
async function makeArticle() {
  await act(async () => {
    const begun = await call(
      api.POST('/api/staff/handoffs/{reference}/article', {
        params: { path: { reference: props.handoff.reference } },
        body: { category_id: category.value || (categories.value.value?.[0]?.id ?? 0) },
      }),
    )
    made.value = begun.reference
  }, 'Begun as a draft')
}
const path = computed(() => props.handoff.brief.path.filter((s) => s.said))
// A request of the form has no conversation with the bot.
const form = computed(() => props.handoff.kind === 'request' && !props.handoff.brief.path.length)
const looks: Record<string, string> = {
  asked: 'Searched',
  offered: 'Was offered',
  opened: 'Opened',
  read: 'Read',
  told: 'Was told, out of',
  helped: 'Said it helped',
  not_helped: 'Said it did not help',
}
const verdicts: Record<string, string> = { helped: 'said it helped', not_helped: 'said it did not help' }
</script>

<template>
  <template v-if="handoff.files.length">
    <h2 class="first">Files</h2>
    <ul class="plainlist small">
      <li v-for="f in handoff.files" :key="f.id">
        <a :href="`/api/staff/handoffs/${handoff.reference}/files/${f.id}`" download>{{ f.name }}</a>
        <span class="faded size">{{ kilobytes(f.size) }}</span>
      </li>
    </ul>
  </template>
  <h2 :class="{ first: !handoff.files.length }">{{ form ? handoff.kind_name || 'Request' : 'Brief' }}</h2>
  <dl v-if="handoff.answers.length" class="answers small">
    <template v-for="a in handoff.answers" :key="a.key">
      <dt>{{ a.label }}</dt>
      <dd>{{ shownDay(a.value, false) || a.value }}</dd>
    </template>
  </dl>
  <p v-if="form" class="small">
    Sent from the form by {{ handoff.address }}, who reads your answer on the page of the request.
  </p>
  <template v-if="handoff.brief.before.length || form">
    <h3>Before, in the help centre</h3>
    <ol class="path small">
      <li v-for="(b, i) in handoff.brief.before" :key="i">
        <span class="faded" :title="exact(b.at)">{{ looks[b.kind] }}</span>
        <span v-if="b.text" class="said">{{ b.text }}</span>
        <span v-for="a in b.articles" :key="a.reference" class="title">
          <RouterLink :to="`/library/${a.reference}`">{{ a.title }}</RouterLink>
        </span>
      </li>
      <li v-if="!handoff.brief.before.length" class="faded">Nothing was searched or read.</li>
    </ol>
  </template>
  <template v-if="!form">
    <template v-if="handoff.brief.note || handoff.brief.facts.length">
      <h3>What the bot was told</h3>
      <p v-if="handoff.brief.note" class="small">{{ handoff.brief.note }}</p>
      <dl class="small">
        <template v-for="f in handoff.brief.facts" :key="f.name">
          <dt class="faded">{{ f.name }}</dt>
          <dd>{{ f.value }}</dd>
        </template>
      </dl>
    </template>
    <h3 v-if="handoff.brief.before.length">With the bot</h3>
    <ol class="path small">
      <li v-for="(s, i) in path" :key="i">
        <span class="faded">{{ s.bot }}</span> <span class="said">{{ s.said }}</span>
      </li>
      <li v-if="!path.length" class="faded">The customer asked for a person at once.</li>
    </ol>
    <h3>Articles shown</h3>
    <ul class="plainlist small">
      <li v-for="s in handoff.brief.shown" :key="s.card.revision">
        {{ s.card.title }}
        <span class="faded">{{
          [s.opened ? 'opened' : 'not opened', verdicts[s.verdict ?? '']].filter(Boolean).join(', ')
        }}</span>
      </li>
      <li v-if="!handoff.brief.shown.length" class="faded">None.</li>
    </ul>
  </template>
  <h3>Articles for the reply</h3>
  <label for="words" class="hidden">Find an article for this customer</label>
  <input id="words" v-model="words" class="find" placeholder="Other words…" maxlength="400" />
  <ul class="plainlist" @keydown.esc.stop="emit('back')">
    <li v-for="s in suggestions.value.value ?? []" :key="s.reference" class="suggestion">
      <button
        type="button"
        class="panel"
        :title="`Put ${s.reference} into the reply`"
        @click="emit('insert', s.reference)"
      >
        <strong>{{ s.title }}</strong>
        <span class="small faded">{{ s.passage.map((r) => r.text).join('') }}</span>
      </button>
    </li>
    <li v-if="suggestions.value.value?.length === 0" class="faded small">
      No article that this customer may see fits.
    </li>
  </ul>
  <form v-if="replied" class="small" @submit.prevent="makeArticle">
    <h3>Next time</h3>
    <label for="reply-category">Make an article of the last reply, in</label>
    <span class="row">
      <Choice
        id="reply-category"
        v-model="category"
        small
        :options="(categories.value.value ?? []).map((c) => ({ value: c.id, label: c.name }))"
      />
      <button type="submit" class="quiet" :disabled="busy">Begin it</button>
    </span>
    <p v-if="made">
      <RouterLink :to="`/library/${made}`">The draft</RouterLink> is with its owner, who is told. You can read
      it and comment on it.
    </p>
  </form>
</template>

<style scoped>
.first {
  margin-top: 0;
}
.path {
  padding-left: 1.1rem;
  margin: 0;
}
.said {
  display: block;
  font-weight: 600;
}
.title {
  display: block;
}
.size {
  margin-left: 0.4rem;
}
.find {
  width: 100%;
  font: inherit;
  padding: 0.25rem 0.6rem;
  border: 1px solid var(--rule);
  border-radius: 4px;
  margin-bottom: 0.5rem;
}
.suggestion button {
  display: grid;
  width: 100%;
  text-align: left;
  font: inherit;
  color: inherit;
  padding: 0.45rem 0.6rem;
  margin-bottom: 0.4rem;
  cursor: pointer;
}
.suggestion button:hover {
  border-color: var(--rubric);
}
.suggestion strong {
  font-family: var(--text-face);
  font-weight: 600;
}
.suggestion span {
  display: -webkit-box;
  -webkit-line-clamp: 2;
  -webkit-box-orient: vertical;
  overflow: hidden;
}
</style>
