<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, call } from '../../shared/api/client'
import { may } from '../session'
import { useAct } from '../shared/act'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import { tab } from '../shared/hold'
import { useLoad } from '../shared/load'
import { readLine } from './scriptLines'

/** Two versions of a script, laid over each other. */
const props = defineProps<{ slug: string }>()
const route = useRoute()
const router = useRouter()
const { act, busy, refused } = useAct()
const number = (name: string) => Number(route.query[name] ?? 0) || 0
const pair = computed(() => ({ before: number('before'), after: number('after'), state: number('state') }))
const {
  value: compared,
  error,
  reload,
} = useLoad(
  () => [props.slug, pair.value],
  () =>
    call(
      api.GET('/api/staff/flows/{slug}/comparison', {
        params: { path: { slug: props.slug }, query: pair.value },
      }),
    ),
)
const called = (n: number) => (n ? `version ${n}` : 'what is being written')
const changes = computed(() => compared.value?.lines.filter((l) => l.change).length ?? 0)
const from = computed(() => (pair.value.state ? 'an earlier state' : called(pair.value.before)))

async function putBack() {
  const done = await act(async () => {
    const path = { slug: props.slug }
    const { copy_version: version } = await call(api.GET('/api/staff/flows/{slug}', { params: { path } }))
    await call(
      api.POST('/api/staff/flows/{slug}/states/{id}/again', {
        params: { path: { ...path, id: pair.value.state } },
        body: { version, tab },
      }),
    )
  }, 'It is the text again; what stood there is an earlier state now')
  if (done) await router.push(`/flows/${props.slug}`)
}
const signs: Record<string, string> = { added: '+', removed: '−' }
</script>

<template>
  <Frame>
    <p><RouterLink :to="`/flows/${slug}`">Back to the script</RouterLink></p>
    <h1>From {{ from }} to {{ called(pair.after) }}</h1>
    <Failed v-if="error" :error="error" @retry="reload" />
    <template v-else-if="compared">
      <p v-if="pair.state && may('write') && changes">
        <Button :loading="busy" @click="putBack">Make the earlier one the text again</Button>
      </p>
      <p v-if="refused" class="fault" role="alert">{{ refused.message }}</p>
      <p class="faded">{{ changes ? `${changes} lines differ.` : 'Nothing differs.' }}</p>
      <ol class="lines panel plainlist" aria-label="The script with its changes">
        <li v-for="(l, i) in compared.lines" :key="i" :class="[l.change, readLine(l.text).role]">
          <span class="sign" aria-hidden="true">{{ signs[l.change] ?? '' }}</span>
          <span class="hidden">{{ l.change }}</span>
          <span class="text" :style="{ paddingLeft: `${readLine(l.text).indent * 0.6}rem` }">{{
            l.text.trim() || ' '
          }}</span>
        </li>
      </ol>
    </template>
  </Frame>
</template>

<style scoped>
.lines {
  padding: 0.8rem 1rem 0.8rem 0;
  max-width: 54rem;
}
li {
  display: grid;
  grid-template-columns: 2rem minmax(0, 1fr);
  font: 1rem/1.55 var(--text-face);
}
.sign {
  text-align: center;
  font: 600 1rem/1.55 var(--face);
}
.option .text {
  font-style: italic;
}
.program,
.lead,
.detail,
.whenever {
  font-family: var(--face);
}
.added {
  background: #e6f0ec;
}
.removed {
  background: #f6e7e3;
}
.removed .text {
  text-decoration: line-through;
  text-decoration-color: #98301f66;
}
</style>
