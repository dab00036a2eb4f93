<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, onScopeDispose, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, call } from '../../shared/api/client'
import { waited } from '../../shared/format'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import ConversationMargin from './ConversationMargin.vue'
import ConversationTalk from './ConversationTalk.vue'
import Presence from './Presence.vue'
import { may, who } from '../session'
import { useLoad } from '../shared/load'

const props = defineProps<{ reference?: string }>()
const now = ref(Date.now())
useIntervalFn(() => (now.value = Date.now()), 1000)

const list = useLoad(
  () => who.value?.id,
  () => call(api.GET('/api/staff/handoffs')),
)
const open = useLoad(
  () => props.reference,
  async () =>
    props.reference
      ? call(api.GET('/api/staff/handoffs/{reference}', { params: { path: { reference: props.reference } } }))
      : undefined,
)
// While another is being fetched nothing of the one before stands there.
const handoff = computed(() => {
  const h = open.value.value
  return h && h.reference === props.reference ? h : undefined
})
const offered = ref('') // an article chosen in the margin, to be put into the reply

const talk = ref<InstanceType<typeof ConversationTalk>>()

const events = new EventSource('/api/staff/handoffs-events')
events.onmessage = () => {
  list.reload()
  if (props.reference) open.reload()
}
onScopeDispose(() => events.close())

const groups = computed(() => {
  const all = list.value.value ?? []
  return [
    { name: 'Waiting', items: all.filter((h) => h.status === 'waiting') },
    { name: 'Mine', items: all.filter((h) => h.status === 'with_agent' && h.agent_id === who.value?.id) },
    {
      name: 'With others',
      items: all.filter((h) => h.status === 'with_agent' && h.agent_id !== who.value?.id),
    },
    { name: 'Closed lately', items: all.filter((h) => h.status === 'closed') },
  ].filter((g) => g.items.length || g.name === 'Waiting' || g.name === 'Mine')
})

// The longest waiting opens by itself; where nobody waits, what one has oneself.
const router = useRouter()
watch(
  () => [props.reference, list.value.value] as const,
  ([reference, all]) => {
    if (reference || !all) return
    const first = ['Waiting', 'Mine'].flatMap(
      (name) => groups.value.find((g) => g.name === name)?.items ?? [],
    )[0]
    if (first) void router.replace(`/conversations/${first.reference}`)
  },
  { immediate: true },
)
</script>

<template>
  <Frame margin-title="Brief" wide-index>
    <template #index>
      <Presence v-if="may('answer_customers')" />
      <section v-for="g in groups" :key="g.name" :aria-label="g.name">
        <h2 class="side">
          {{ g.name }} <span class="faded">{{ g.items.length }}</span>
        </h2>
        <p v-if="!g.items.length" class="faded small">
          {{ g.name === 'Waiting' ? 'Nobody waits.' : 'You have none.' }}
        </p>
        <ul class="plainlist">
          <li v-for="h in g.items" :key="h.reference">
            <RouterLink
              :to="`/conversations/${h.reference}`"
              class="entry"
              :class="{ chosen: h.reference === reference }"
            >
              <span class="row spread">
                <strong>{{ h.subject || 'No subject' }}</strong>
                <span v-if="h.status !== 'closed'" class="time">{{ waited(h.waiting_since, now) }}</span>
              </span>
              <span class="small faded"
                >{{ h.reference }} · {{ h.customer }}{{ h.team ? ` · ${h.team}` : ''
                }}{{ g.name === 'With others' ? ` · ${h.agent}` : '' }}</span
              >
            </RouterLink>
          </li>
        </ul>
      </section>
    </template>
    <Failed v-if="list.error.value" :error="list.error.value" @retry="list.reload" />
    <Failed v-else-if="open.error.value" :error="open.error.value" @retry="open.reload" />
    <ConversationTalk
      v-else-if="handoff"
      :key="handoff.reference"
      ref="talk"
      v-model:offered="offered"
      :handoff="handoff"
      @changed="open.reload"
    />
    <div v-else-if="!reference">
      <h1>Conversations</h1>
      <p class="empty">
        The longest waiting opens here by itself; the first to accept has it. What the customer did before
        stands beside it, so that nobody has to repeat themselves.
      </p>
    </div>
    <template v-if="handoff" #margin>
      <ConversationMargin
        :key="handoff.reference"
        :handoff="handoff"
        @insert="(ref) => (offered = ref)"
        @back="talk?.write()"
      />
    </template>
  </Frame>
</template>

<style scoped>
h2.side {
  font: 600 0.95rem var(--face);
  margin-top: 0.9rem;
}
.entry {
  display: block;
  color: var(--ink);
  padding: 0.45rem 0.6rem;
  border-left: 2px solid transparent;
}
.entry:hover {
  text-decoration: none;
  background: var(--leaf);
}
.entry.chosen {
  background: var(--leaf);
  border-color: var(--rubric);
}
.entry .row {
  flex-wrap: nowrap;
  align-items: baseline;
}
.entry strong {
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.time {
  white-space: nowrap;
  color: var(--ochre-text, #7d5607);
}
</style>
