<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { ago, day, exact } from '../../shared/format'
import { states } from '../../shared/words'
import { deed } from '../shared/actions'
import { tab } from '../shared/hold'
import { useAct } from '../shared/act'
import { sure } from '../shared/sure'
import { useLoad } from '../shared/load'

/** An edition's past: its revisions, its autosaves, and who did what. */
const props = defineProps<{ article: Schemas['Article']; editable: boolean }>()
const emit = defineEmits<{ changed: [] }>()
const { act, busy } = useAct()
const path = computed(() => ({ params: { path: { reference: props.article.reference } } }))
const revisions = useLoad(
  () => [props.article.reference, props.article.last_revision, props.article.live_revision],
  () => call(api.GET('/api/staff/articles/{reference}/revisions', path.value)),
)
const autosaves = useLoad(
  () => [props.article.reference, props.article.version],
  () => call(api.GET('/api/staff/articles/{reference}/autosaves', path.value)),
)
const older = ref('')
const newer = ref('copy')
const compare = (before: string, after: string) => ({
  path: `/library/${props.article.reference}/changes`,
  query: { before, after },
})

function restore(which: string, name: string) {
  sure(
    `Make ${name} the working copy?`,
    'What is there now stays among the autosaves. What customers read stays as it is.',
    'Restore it',
    async () => {
      const ok = await act(
        () =>
          call(
            api.POST('/api/staff/articles/{reference}/restore', {
              ...path.value,
              body: { which, version: props.article.version, tab },
            }),
          ),
        'Restored',
      )
      if (ok) emit('changed')
    },
  )
}
</script>

<template>
  <section aria-label="History">
    <h2 class="sub first">Revisions</h2>
    <p class="small faded">Choose two to compare.</p>
    <table class="small">
      <thead>
        <tr>
          <th scope="col"><span class="hidden">Older</span></th>
          <th scope="col"><span class="hidden">Newer</span></th>
          <th scope="col"><span class="hidden">What</span></th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <td></td>
          <td>
            <input v-model="newer" type="radio" value="copy" aria-label="Compare with the working copy" />
          </td>
          <td>The working copy</td>
        </tr>
        <tr v-for="r in revisions.value.value ?? []" :key="r.number">
          <td>
            <input
              v-model="older"
              type="radio"
              :value="String(r.number)"
              :aria-label="`From revision ${r.number}`"
            />
          </td>
          <td>
            <input
              v-model="newer"
              type="radio"
              :value="String(r.number)"
              :aria-label="`To revision ${r.number}`"
            />
          </td>
          <td>
            <strong>{{ r.number }}</strong>, <span :title="exact(r.made_at)">{{ day(r.made_at) }}</span>,
            {{ r.made_by }}<strong v-if="r.live"> · live</strong>
            <span v-if="r.note" class="faded"> · {{ r.note }}</span>
            <button
              v-if="editable"
              type="button"
              class="quiet"
              :aria-label="`Restore revision ${r.number}`"
              @click="restore(String(r.number), `revision ${r.number}`)"
            >
              Restore
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="!revisions.value.value?.length" class="small faded">
      The first is made when it is sent to review.
    </p>
    <RouterLink v-if="older" v-slot="{ navigate }" :to="compare(older, newer)" custom>
      <Button size="small" :loading="busy" @click="navigate">Compare them</Button>
    </RouterLink>

    <h2 class="sub">Saved by itself</h2>
    <ul class="plainlist small scroll">
      <li v-for="v in autosaves.value.value ?? []" :key="v.id">
        <span :title="exact(v.at)">{{ ago(v.at) }}</span>, {{ v.who }}
        <RouterLink
          :to="compare(`autosave-${v.id}`, 'copy')"
          :aria-label="`What changed since ${exact(v.at)}`"
          >Compare</RouterLink
        >
        <button
          v-if="editable"
          type="button"
          class="quiet"
          :aria-label="`Restore the text of ${exact(v.at)}`"
          @click="restore(`autosave-${v.id}`, `the text of ${exact(v.at)}`)"
        >
          Restore
        </button>
      </li>
      <li v-if="!autosaves.value.value?.length" class="faded">Earlier states are kept here for 30 days.</li>
    </ul>

    <h2 class="sub">
      Trail
      <RouterLink class="small" :to="{ path: '/trail', query: { article: article.reference } }"
        >All of it</RouterLink
      >
    </h2>
    <ul class="plainlist small trail">
      <li v-for="(t, i) in article.trail" :key="i">
        {{ t.who }} {{ deed(t.action) }}
        <span class="faded" :title="exact(t.at)">{{ ago(t.at) }}</span>
        <span v-if="t.note" class="faded said">{{ t.note }}</span>
        <span v-if="t.from && t.to && t.from !== t.to" class="hidden"
          >from {{ states[t.from] }} to {{ states[t.to] }}</span
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
.first {
  margin-top: 0;
}
td {
  padding: 0.1rem 0.3rem 0.1rem 0;
  vertical-align: top;
}
.trail li {
  margin-bottom: 0.35rem;
}
.said {
  display: block;
}
.scroll {
  max-height: 14rem;
  overflow-y: auto;
}
:is(li, td) > :is(a, button) {
  margin-left: 0.4rem;
}
</style>
