<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { api, call } from '../../shared/api/client'
import { counted } from '../../shared/format'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import SpanWords from '../shared/SpanWords.vue'
import { useLoad } from '../shared/load'

/** Two states of a text, compared in the flow of the page. */
const props = defineProps<{ reference: string }>()
const route = useRoute()
const before = computed(() => String(route.query.before ?? 'live'))
const after = computed(() => String(route.query.after ?? 'copy'))
const {
  value: changed,
  error,
  reload,
} = useLoad(
  () => [props.reference, before.value, after.value],
  () =>
    call(
      api.GET('/api/staff/articles/{reference}/changes', {
        params: { path: { reference: props.reference }, query: { before: before.value, after: after.value } },
      }),
    ),
)
const name = (which: string) =>
  which === 'copy'
    ? 'the working copy'
    : which === 'live'
      ? 'the live revision'
      : which.startsWith('autosave-')
        ? 'an earlier save'
        : `revision ${which}`
const counts = computed(() => {
  const b = changed.value?.body
  if (!b) return []
  return [
    b.changed && counted(b.changed, 'line') + ' changed',
    b.added && counted(b.added, 'line') + ' added',
    b.removed && counted(b.removed, 'line') + ' removed',
    b.moved && counted(b.moved, 'line') + ' moved',
    b.formatted && counted(b.formatted, 'line') + ' only formatted differently',
  ].filter(Boolean)
})
const more = computed(() =>
  changed.value
    ? [
        { name: 'Keywords', spans: changed.value.keywords },
        { name: 'Title in search results', spans: changed.value.search_title },
        { name: 'Description', spans: changed.value.search_description },
      ].filter((m) => m.spans.some((s) => s.mark !== 'same'))
    : [],
)
</script>

<template>
  <Frame margin-title="What changed">
    <p class="crumbs small">
      <RouterLink to="/library">Library</RouterLink> ›
      <RouterLink :to="`/library/${reference}`">{{ reference }}</RouterLink> › Changes
    </p>
    <Failed v-if="error" :error="error" @retry="reload" />
    <article v-if="changed">
      <h1><SpanWords :spans="changed.title" /></h1>
      <div class="prose compared" v-html="changed.body.html" />
    </article>
    <template #margin>
      <h2 class="first">What changed</h2>
      <p class="small faded">From {{ name(before) }} to {{ name(after) }}</p>
      <ul v-if="counts.length" class="plainlist">
        <li v-for="c in counts" :key="String(c)">{{ c }}</li>
      </ul>
      <p v-else-if="changed" class="small">The two texts are the same.</p>
      <template v-for="m in more" :key="m.name">
        <h3>{{ m.name }}</h3>
        <p class="small"><SpanWords :spans="m.spans" /></p>
      </template>
      <h3>How it is marked</h3>
      <ul class="plainlist small compared">
        <li><ins>came</ins></li>
        <li><del>went</del></li>
        <li><span data-change="formatted">the same words, formatted differently</span></li>
        <li><p data-change="moved">a line that stands elsewhere now</p></li>
      </ul>
      <p class="small"><RouterLink :to="`/library/${reference}`">Back to the article</RouterLink></p>
    </template>
  </Frame>
</template>

<style scoped>
.crumbs {
  margin: 0 0 0.5rem;
}
.first {
  margin-top: 0;
}
</style>
