<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { api, call } from '../../shared/api/client'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import { useLoad } from '../shared/load'
import { readLine } from './scriptLines'

/** Two versions of a script, laid over each other. */
const props = defineProps<{ slug: string }>()
const route = useRoute()
const number = (name: string) => Number(route.query[name] ?? 0) || 0
const pair = computed(() => ({ before: number('before'), after: number('after') }))
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
const signs: Record<string, string> = { added: '+', removed: '−' }
</script>

<template>
  <Frame>
    <p><RouterLink :to="`/flows/${slug}`">Back to the script</RouterLink></p>
    <h1>From {{ called(pair.before) }} to {{ called(pair.after) }}</h1>
    <Failed v-if="error" :error="error" @retry="reload" />
    <template v-else-if="compared">
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
  padding: 0.8rem 0;
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
