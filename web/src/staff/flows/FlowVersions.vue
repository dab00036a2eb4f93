<script setup lang="ts">
import { ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { ago, exact } from '../../shared/format'
import { useAct } from '../shared/act'
import { sure } from '../shared/sure'
import { useLoad } from '../shared/load'

const props = defineProps<{ flow: Schemas['FlowView'] }>()
const emit = defineEmits<{ changed: [] }>()
const { act } = useAct()
const shown = ref(false) // all earlier states
const path = { params: { path: { slug: props.flow.slug } } }
const versions = useLoad(
  () => [props.flow.slug, props.flow.version],
  () => call(api.GET('/api/staff/flows/{slug}/versions', path)),
)
const states = useLoad(
  () => [props.flow.slug, props.flow.copy_version],
  () => call(api.GET('/api/staff/flows/{slug}/states', path)),
)

function ask(number: number) {
  const about = 'It becomes a version of its own. What is being written stays.'
  sure(`Make version ${number} live again?`, about, 'Make it live', () => again(number))
}
async function again(number: number) {
  const ok = await act(
    () =>
      call(
        api.POST('/api/staff/flows/{slug}/versions/{number}/again', {
          params: { path: { slug: props.flow.slug, number } },
          body: { note: '' },
        }),
      ),
    `Version ${number} is live again`,
  )
  if (ok) emit('changed')
}
</script>

<template>
  <p v-if="versions.value.value && !versions.value.value.length" class="faded">Nothing was published yet.</p>
  <ol class="plainlist">
    <li v-if="flow.changed && flow.version" class="row spread">
      <strong>Being written</strong>
      <RouterLink :to="`/flows/${flow.slug}/changes?before=${flow.version}`">What changed</RouterLink>
    </li>
    <li v-for="(v, i) in versions.value.value ?? []" :key="v.number">
      <div class="row spread">
        <strong>Version {{ v.number }}</strong>
        <span class="faded small">{{ v.live ? 'live' : '' }}</span>
      </div>
      <p class="faded small">
        {{ v.published_by }}, <span :title="exact(v.published_at)">{{ ago(v.published_at) }}</span>
        <template v-if="v.running">; {{ v.running }} go on in it</template>
      </p>
      <p v-if="v.note">{{ v.note }}</p>
      <span class="row small">
        <RouterLink
          v-if="versions.value.value?.[i + 1]"
          :to="`/flows/${flow.slug}/changes?before=${versions.value.value[i + 1]?.number}&after=${v.number}`"
          >What changed</RouterLink
        >
        <button v-if="flow.may_publish && !v.live" type="button" class="quiet" @click="ask(v.number)">
          Make it live again
        </button>
      </span>
    </li>
  </ol>
  <template v-if="states.value.value?.length">
    <h2>Earlier states</h2>
    <ul class="plainlist">
      <li
        v-for="s in shown ? states.value.value : states.value.value.slice(0, 20)"
        :key="s.id"
        class="row small"
      >
        <RouterLink :to="`/flows/${flow.slug}/changes?state=${s.id}`" :title="exact(s.at)">{{
          ago(s.at)
        }}</RouterLink>
        <span class="faded">{{ s.writer }}, {{ s.lines }} lines</span>
      </li>
    </ul>
    <button
      v-if="!shown && states.value.value.length > 20"
      type="button"
      class="quiet small"
      @click="shown = true"
    >
      All {{ states.value.value.length }}
    </button>
  </template>
</template>

<style scoped>
li {
  padding: 0.5rem 0;
  border-bottom: 1px solid var(--rule);
}
p {
  margin: 0;
}
</style>
