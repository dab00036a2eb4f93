<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { api, call } from '../../shared/api/client'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'
import Failed from '../shared/Failed.vue'
import SpanWords from '../shared/SpanWords.vue'

/** The source that an edition is written from, block by block, with what changed in it since. */
const props = defineProps<{ reference: string; version: number }>()
const emit = defineEmits<{ matched: [] }>()
const path = () => ({ params: { path: { reference: props.reference } } })
const {
  value: view,
  error,
  reload,
} = useLoad(
  () => [props.reference, props.version],
  () => call(api.GET('/api/staff/articles/{reference}/source', path())),
)
const { act, busy } = useAct()

async function match() {
  if (await act(() => call(api.POST('/api/staff/articles/{reference}/matched', path())), 'Noted')) {
    await reload()
    emit('matched')
  }
}
/** Shows the block of the edition that stands for a block of the source. */
function show(i: number) {
  const before = view.value?.rows.slice(0, i + 1).filter((r) => r.theirs).length ?? 0
  document
    .querySelector('.ProseMirror')
    ?.children[Math.max(0, before - 1)]?.scrollIntoView({ block: 'center' })
}
</script>

<template>
  <section aria-label="The source">
    <Failed v-if="error" :error="error" @retry="reload" />
    <template v-if="view">
      <p class="small faded">
        {{
          view.live
            ? `The source, revision ${view.live}. This edition follows ${view.says_as ? 'revision ' + view.says_as : 'none yet'}.`
            : 'The source is not live yet; this is its working copy.'
        }}
      </p>
      <div v-if="view.behind && view.since" class="behind" role="status">
        <p><strong>Behind.</strong> The source changed since:</p>
        <p v-if="view.since.title.length > 1"><SpanWords :spans="view.since.title" /></p>
        <div class="prose compared" v-html="view.since.body.html" />
        <Button size="small" :loading="busy" @click="match">It says the same now</Button>
      </div>
      <h2 class="title">{{ view.title }}</h2>
      <div v-for="(r, i) in view.rows" :key="i" class="block" :class="{ missing: r.ours && !r.theirs }">
        <div class="prose" v-html="r.ours || '<p>· only in the edition</p>'" />
        <button
          v-if="r.theirs"
          type="button"
          class="quiet small"
          :aria-label="`Show block ${i + 1} in the edition`"
          @click="show(i)"
        >
          Show
        </button>
        <span v-else class="faded small">Not in the edition yet</span>
      </div>
    </template>
  </section>
</template>

<style scoped>
.title {
  margin: 0.4rem 0;
}
.prose {
  font-size: 0.93rem;
  line-height: 1.5;
}
.block {
  border-left: 2px solid var(--rule);
  padding-left: 0.6rem;
  margin-bottom: 0.5rem;
}
.missing {
  border-color: var(--ochre);
}
.behind .prose :deep(> :not([data-change], :has([data-change]))) {
  display: none;
}
.block .prose :deep(:is(h2, h3, h4, p)) {
  margin: 0.2em 0;
}
.behind {
  border-left: 3px solid var(--ochre);
  padding-left: 0.7rem;
  margin-bottom: 0.8rem;
}
</style>
