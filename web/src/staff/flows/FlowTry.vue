<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { computed, nextTick, ref, shallowRef, watch } from 'vue'
import { api, call, Refused, Unreachable, type Schemas } from '../../shared/api/client'
import FlowRehearsals from './FlowRehearsals.vue'
import TryWorld from './TryWorld.vue'

/** A conversation with the script as it is being written: as anybody, at any hour. It counts nothing. */
const props = defineProps<{
  slug: string
  source: string
  words?: Schemas['FlowWords']
  turns: Schemas['Begins'][]
  line: number
  example?: Schemas['CounterExample']
  kept: Schemas['RehearsalLine'][]
  mayWrite: boolean
}>()
const emit = defineEmits<{ go: [line: number]; kept: [] }>()

type World = Schemas['ExampleWorld']
const nobody: World = {
  groups: [],
  signed_in: false,
  customer: '',
  language: '',
  channel: 'chat',
  page: '',
  at: '',
  site: 0,
  closed: false,
  teams: {},
}
const world = ref<World>({ ...nobody })
const inputs = ref<Schemas['ExampleStep'][]>([])
const from = ref('')
const tried = shallowRef<Schemas['TrialState']>()
const fault = ref('')
const text = ref('')
const end = ref<HTMLElement>()

const trial = computed(() => ({
  source: props.source,
  slug: props.slug,
  from: from.value,
  world: world.value,
  inputs: inputs.value,
}))
let asked = 0
async function play() {
  const mine = ++asked
  fault.value = ''
  try {
    const got = await call(
      api.POST('/api/staff/flow-trials', {
        body: trial.value,
      }),
    )
    if (mine !== asked) return
    tried.value = got
    if (got.refused) inputs.value = inputs.value.slice(0, got.taken)
    await nextTick()
    end.value?.scrollIntoView({ block: 'nearest' })
  } catch (e) {
    if (e instanceof Refused) fault.value = e.field('customer') ?? e.field('at') ?? e.message
    else if (e instanceof Unreachable) fault.value = e.message
    else throw e
  }
}
function load(e: Schemas['CounterExample'], at = '') {
  world.value = { ...nobody, ...e.world }
  from.value = at
  inputs.value = [...e.inputs]
  void play()
}
watchDebounced(() => props.source, play, { debounce: 600 })
watch(world, play)
watch(
  () => props.example,
  (e) => {
    if (!e) return void play()
    load(e)
  },
  { immediate: true },
)

function take(step: Schemas['ExampleStep']) {
  inputs.value = [...inputs.value, step]
  void play()
}
function say() {
  const words = text.value.trim()
  if (!words) return
  text.value = ''
  take({ kind: 'words', text: words })
}
function choose(label: string) {
  take({ kind: 'choice', text: label })
}
function again(at = '') {
  from.value = at
  inputs.value = []
  void play()
}
function back() {
  inputs.value = inputs.value.slice(0, -1)
  void play()
}

const choices = computed(() => tried.value?.lines.filter((l) => l.speaker === 'bot').at(-1)?.choices ?? [])
const over = computed(() => ['nothing', 'person'].includes(tried.value?.waiting ?? ''))
const here = computed(() => [...props.turns].reverse().find((t) => t.line <= props.line))
</script>

<template>
  <div class="row small actions">
    <button type="button" class="quiet" @click="again()">From the beginning</button>
    <button v-if="here" type="button" class="quiet" @click="again(here.turn)">From where I write</button>
    <button v-if="inputs.length" type="button" class="quiet" @click="back">One step back</button>
  </div>
  <TryWorld v-model="world" :words="words" />
  <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
  <ol v-if="tried" class="talk plainlist" aria-live="polite" aria-label="The conversation" tabindex="0">
    <li v-for="(l, i) in tried.lines" :key="i" :class="l.speaker">
      <p class="text">{{ l.text }}</p>
      <blockquote v-for="p in l.told" :key="p.reference" class="passage">
        <p v-for="(b, n) in p.blocks" :key="n">{{ b.text }}</p>
        <footer class="faded small">{{ p.title }}</footer>
      </blockquote>
      <ul v-if="l.cards.length" class="plainlist cards">
        <li v-for="c in l.cards" :key="c.reference">
          {{ c.title }} <span class="faded small">{{ c.reference }}</span>
        </li>
      </ul>
      <span v-if="l.link" class="faded small">{{ l.link }}</span>
      <span v-if="l.why" class="small faded">{{ l.turn }} · {{ l.why }}</span>
    </li>
  </ol>
  <p v-if="tried?.refused" class="fault small" role="alert">{{ tried.refused }}</p>
  <div v-if="tried && !over">
    <div v-if="choices.length" class="choices">
      <button v-for="c in choices" :key="c" type="button" @click="choose(c)">{{ c }}</button>
    </div>
    <form class="row" @submit.prevent="say">
      <input
        v-model="text"
        aria-label="What the customer types"
        placeholder="Type as a customer"
        maxlength="4000"
      />
    </form>
  </div>
  <p v-if="tried" ref="end" class="faded small stands">
    Waits for {{ tried.waiting === 'nothing' ? 'nothing more' : tried.waiting }}.
    <button v-if="tried.line" type="button" class="quiet" @click="emit('go', tried.line)">
      Go to its turn
    </button>
    <template v-if="Object.keys(tried.facts).length">
      Knows:
      {{
        Object.entries(tried.facts)
          .map(([k, v]) => `${k} = ${v}`)
          .join('; ')
      }}.
    </template>
  </p>
  <FlowRehearsals
    :slug="slug"
    :trial="trial"
    :kept="kept"
    :may-write="mayWrite"
    @changed="emit('kept')"
    @play="(l) => load({ world: l.who, inputs: l.inputs }, l.from)"
  />
</template>

<style scoped>
.actions {
  gap: 0.9rem;
  margin-bottom: 0.5rem;
}
.talk {
  display: grid;
  gap: 0.6rem;
  max-height: calc(100vh - 430px);
  min-height: 8rem;
  overflow-y: auto;
}
.bot {
  border-left: 2px solid var(--rule);
  padding-left: 0.7rem;
}
.bot .text {
  font: 1rem/1.5 var(--text-face);
}
.text {
  margin: 0;
  white-space: pre-line;
}
.customer {
  justify-self: end;
  font-style: italic;
  background: #f3ecdc;
  border-radius: 4px;
  padding: 0.2rem 0.7rem;
}
.notice {
  color: var(--faded);
}
.passage {
  margin: 0.3rem 0;
  padding-left: 0.7rem;
  border-left: 1px solid var(--rule);
  font: 0.95rem/1.45 var(--text-face);
}
.passage p {
  margin: 0 0 0.2rem;
}
.cards li {
  text-decoration: underline;
  text-decoration-color: var(--rule);
}
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 0.35rem;
  margin: 0.6rem 0;
}
.choices button {
  font: inherit;
  font-style: italic;
  background: var(--leaf);
  border: 1px solid var(--rule);
  border-radius: 4px;
  padding: 0.15rem 0.6rem;
  cursor: pointer;
}
form input {
  flex: 1;
  font: inherit;
  padding: 0.3rem 0.6rem;
  border: 1px solid var(--rule);
  border-radius: 4px;
}
.stands {
  margin: 0.5rem 0 0;
}
</style>
