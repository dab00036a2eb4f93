<script setup lang="ts">
import { Button, Input, InputNumber } from 'ant-design-vue'
import { ref, watch } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'
import Failed from '../shared/Failed.vue'
import SearchMoved from './SearchMoved.vue'

/** Synonyms, pins and weights of a help centre's search; each can be tried before it is kept. */
const props = defineProps<{ site: number; mayChange: boolean }>()
const emit = defineEmits<{ changed: [] }>()

const rules = useLoad(
  () => props.site,
  () => call(api.GET('/api/staff/sites/{site}/search/rules', { params: { path: { site: props.site } } })),
)
const { act, busy, refused } = useAct()
const rule = ref('')
const weights = ref<number[]>([])
const trial = ref<Schemas['SearchQuality']>()
const tried = ref('')
watch(rules.value, (r) => (weights.value = [...(r?.weights ?? [])]))

const path = () => ({ params: { path: { site: props.site } } })
async function changed() {
  trial.value = undefined
  await rules.reload()
  emit('changed')
}
async function add() {
  if (
    await act(
      () =>
        call(api.POST('/api/staff/sites/{site}/search/synonyms', { ...path(), body: { rule: rule.value } })),
      'Added',
    )
  ) {
    rule.value = ''
    await changed()
  }
}
async function drop(kind: 'synonyms' | 'pins', id: number) {
  const at = { params: { path: { id } } }
  const work =
    kind === 'pins'
      ? () => call(api.DELETE('/api/staff/search/pins/{id}', at))
      : () => call(api.DELETE('/api/staff/search/synonyms/{id}', at))
  if (await act(work, 'Taken away')) await changed()
}
async function tryOut(what: string, body: { synonyms?: string[]; weights?: number[] }) {
  await act(async () => {
    trial.value = await call(api.POST('/api/staff/sites/{site}/search/trials', { ...path(), body }))
    tried.value = what
  })
}
async function weigh(list: number[]) {
  const body = { weights: list }
  if (await act(() => call(api.PUT('/api/staff/sites/{site}/search/weights', { ...path(), body })), 'Kept'))
    await changed()
}
defineExpose({ reload: rules.reload })
const fields = ['Title', 'Keywords', 'Headings', 'Text']
</script>

<template>
  <Failed v-if="rules.error.value" :error="rules.error.value" @retry="rules.reload" />
  <template v-if="rules.value.value">
    <section v-if="trial" class="panel trial" aria-label="What it would change" role="status">
      <div class="row spread">
        <h3>With {{ tried }}</h3>
        <button type="button" class="quiet" @click="trial = undefined">Close</button>
      </div>
      <SearchMoved :quality="trial" trial />
    </section>
    <h2 class="first">Synonyms</h2>
    <ul class="plainlist small list">
      <li v-for="s in rules.value.value.synonyms" :key="s.id" class="row spread">
        <span>{{ s.rule }}</span>
        <button
          v-if="mayChange"
          type="button"
          class="quiet"
          :aria-label="`Take away ${s.rule}`"
          @click="drop('synonyms', s.id)"
        >
          Take away
        </button>
      </li>
      <li v-if="!rules.value.value.synonyms.length" class="faded">None yet.</li>
    </ul>
    <form v-if="mayChange" @submit.prevent="add">
      <label for="rule" class="small">Words that mean the same</label>
      <Input
        id="rule"
        v-model:value="rule"
        :maxlength="300"
        placeholder="night rate, off-peak"
        aria-describedby="rule-help"
      />
      <p id="rule-help" class="small faded">
        A comma works both ways; “app => member app” only from left to right.
      </p>
      <p v-if="refused?.field('rule') || refused?.field('synonyms')" class="fault small">
        {{ refused?.field('rule') ?? refused?.field('synonyms') }}
      </p>
      <div class="row">
        <Button html-type="submit" size="small" type="primary" :disabled="!rule.trim()" :loading="busy"
          >Add</Button
        >
        <Button size="small" :disabled="!rule.trim()" @click="tryOut('these synonyms', { synonyms: [rule] })"
          >Try first</Button
        >
      </div>
    </form>
    <h2>Pins</h2>
    <ul class="plainlist small list">
      <li v-for="p in rules.value.value.pins" :key="p.id">
        <span class="row spread">
          <span
            >“{{ p.words }}” {{ p.bury ? 'leaves out' : 'shows first' }}
            <RouterLink :to="`/library/${p.reference}`">{{ p.title || p.reference }}</RouterLink></span
          >
          <button
            v-if="mayChange"
            type="button"
            class="quiet"
            :aria-label="`Take away the pin for ${p.words}`"
            @click="drop('pins', p.id)"
          >
            Take away
          </button>
        </span>
        <span v-if="p.until" :class="p.over ? 'fault' : 'faded'"
          >{{ p.over ? 'over since' : 'until' }} {{ p.until }}</span
        >
      </li>
      <li v-if="!rules.value.value.pins.length" class="faded">
        None. Pin a result from a question that you try.
      </li>
    </ul>
    <h2>Weights</h2>
    <p class="small faded">
      How much a word tells, by where it stands.{{
        rules.value.value.standard ? ' These are the standard ones.' : ''
      }}
    </p>
    <div class="weights">
      <template v-for="(name, i) in fields" :key="name">
        <label :for="`weight-${i}`" class="small">{{ name }}</label>
        <InputNumber
          :id="`weight-${i}`"
          v-model:value="weights[i]"
          :min="0"
          :max="20"
          :step="0.5"
          size="small"
          :disabled="!mayChange"
        />
      </template>
    </div>
    <p v-if="refused?.field('weights')" class="fault small">{{ refused.field('weights') }}</p>
    <div v-if="mayChange" class="row">
      <Button size="small" type="primary" :loading="busy" @click="weigh(weights)">Keep weights</Button>
      <Button size="small" @click="tryOut('these weights', { weights })">Try first</Button>
      <Button v-if="!rules.value.value.standard" size="small" @click="weigh([])">Standard</Button>
    </div>
  </template>
</template>

<style scoped>
.first {
  margin-top: 0;
}
.list li {
  padding: 0.2rem 0;
  border-bottom: 1px solid var(--rule);
}
.list button {
  white-space: nowrap;
}
.list .row {
  flex-wrap: nowrap;
  align-items: baseline;
}
.weights {
  display: grid;
  grid-template-columns: 1fr 6rem;
  gap: 0.3rem;
  align-items: center;
  margin-bottom: 0.5rem;
}
.trial {
  padding: 0.6rem 0.8rem;
  margin-bottom: 1rem;
}
.trial h3 {
  margin: 0;
}
</style>
