<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, call, type Refused, type Schemas } from '../../shared/api/client'
import { ago, exact, fullDay, time } from '../../shared/format'
import { states } from '../../shared/words'
import { may as mayDo } from '../session'
import { useAct } from '../shared/act'
import { useSaying } from '../shared/delivery'
import { useKey } from '../shared/keys'
import { useStillTrue } from '../review/stillTrue'
import EditionChooser from '../library/EditionChooser.vue'
import PublishDialog from '../review/PublishDialog.vue'
import WithdrawDialog from '../review/WithdrawDialog.vue'

/** Above the text: its state, who is writing, saved when, and the one next step. */
const props = defineProps<{
  article: Schemas['Article']
  other?: Schemas['Holder']
  status: string
  savedAt: string
  fault?: Refused
  busy: boolean
}>()
type Step = 'submit' | 'recall'
const emit = defineEmits<{ move: [action: Step, done: string]; takeOver: []; changed: [] }>()
const router = useRouter()
const { act } = useAct()
const path = computed(() => ({ params: { path: { reference: props.article.reference } } }))
const now = ref(Date.now())
useIntervalFn(() => (now.value = Date.now()), 20_000)
const may = (action: string) => props.article.allowed.includes(action)
const saying = useSaying(props, now)

const publishing = ref(false)
const withdrawing = ref(false)
const mayConfirm = computed(() => props.article.live_revision > 0 && mayDo('confirm_articles'))

const stillTrue = useStillTrue(() => emit('changed'))
async function follow() {
  const ok = await act(
    () =>
      call(
        api.PUT('/api/staff/articles/{reference}/following', {
          ...path.value,
          body: { follow: !props.article.following },
        }),
      ),
    props.article.following ? 'You follow it no more' : 'You are told of what happens to it',
  )
  if (ok) emit('changed')
}
async function keepLive() {
  const ok = await act(
    () => call(api.DELETE('/api/staff/articles/{reference}/end', path.value)),
    'It stays live',
  )
  if (ok) emit('changed')
}
/** The first `t` chooses what the second does, so that a stray letter changes nothing. */
const confirm = ref<{ $el: HTMLElement }>()
useKey('t', (e) => {
  if (!mayConfirm.value) return
  e.preventDefault()
  const button = confirm.value?.$el
  if (document.activeElement === button) void stillTrue(props.article.reference)
  else button?.focus()
})
</script>

<template>
  <div class="row spread crumbs small">
    <span>
      <RouterLink to="/library">Library</RouterLink> ›
      <RouterLink :to="{ path: '/library', query: { category: article.category.id } }">{{
        article.category.name
      }}</RouterLink>
      ›
      {{ article.reference }}
    </span>
    <span class="row">
      <button type="button" class="quiet" :aria-pressed="article.following" @click="follow">
        {{ article.following ? 'Following' : 'Follow' }}
      </button>
      <EditionChooser :article="article" @changed="emit('changed')" />
    </span>
  </div>
  <div class="bar panel">
    <div>
      <strong>{{ states[article.state] }}</strong>
      <span class="faded">
        · <span :title="exact(article.written_at)">{{ article.writer.name }}</span>
        <template v-if="article.gate"> · at “{{ article.gate }}”</template>
        <template v-if="article.live_revision"> · revision {{ article.live_revision }} is live</template>
        <strong v-if="article.overdue" class="due">
          · recheck was due {{ fullDay(article.recheck_on) }}</strong
        >
        <template v-if="article.goes">
          · goes live <span :title="exact(article.goes.at)">{{ ago(article.goes.at, now) }}</span></template
        >
        <template v-if="article.ends">
          · ends <span :title="exact(article.ends.at)">{{ ago(article.ends.at, now) }}</span>
          <button v-if="mayDo('publish')" type="button" class="quiet" @click="keepLive">
            keep it
          </button></template
        >
        <template v-if="article.conversation && mayDo('answer_customers')">
          · made of a reply in
          <RouterLink :to="`/conversations/${article.conversation}`">{{
            article.conversation
          }}</RouterLink></template
        >
        <template v-if="article.withdrawn_to">
          · withdrawn, readers go to
          <RouterLink :to="`/library/${article.withdrawn_to}`">{{
            article.withdrawn_to
          }}</RouterLink></template
        >
      </span>
      <span
        class="saying"
        :class="{ fault: ['stale', 'refused', 'waiting', 'held'].includes(status) }"
        role="status"
        >{{ saying }}</span
      >
    </div>
    <div class="row">
      <Button
        v-if="mayConfirm"
        ref="confirm"
        :type="article.overdue ? 'primary' : 'default'"
        title="Key: t, and t again"
        @click="stillTrue(article.reference)"
        >Still true</Button
      >
      <Button v-if="may('withdraw')" @click="withdrawing = true">Withdraw</Button>
      <Button v-if="may('recall')" :loading="busy" @click="emit('move', 'recall', 'Taken back')"
        >Take back</Button
      >
      <Button
        v-if="may('approve') || may('send_back')"
        :type="may('publish') ? 'default' : 'primary'"
        @click="router.push(`/review/${article.reference}`)"
        >Review</Button
      >
      <Button v-if="may('publish') && article.state !== 'in_review'" type="primary" @click="publishing = true"
        >Publish…</Button
      >
      <Button
        v-if="may('submit') && !other && status !== 'stale'"
        type="primary"
        :loading="busy"
        @click="emit('move', 'submit', 'Sent to review')"
        >Send to review</Button
      >
    </div>
  </div>
  <PublishDialog v-model:open="publishing" :article="article" @done="emit('changed')" />
  <WithdrawDialog v-model:open="withdrawing" :article="article" @done="emit('changed')" />
  <div v-if="other" class="panel held row spread" role="status">
    <span>
      <strong>{{ other.name }}</strong> has been writing this since
      <span :title="exact(other.since)">{{ time(other.since) }}</span>. You read along as they save.
    </span>
    <Button v-if="mayDo('publish') && may('edit')" size="small" :loading="busy" @click="emit('takeOver')"
      >Take over</Button
    >
  </div>
</template>

<style scoped>
.crumbs {
  margin: 0 0 0.5rem;
}
.bar {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 1rem;
  padding: 0.55rem 0.9rem;
  margin-bottom: 0.8rem;
}
.saying {
  display: block;
  color: var(--faded);
  font-size: 0.9rem;
}
.saying.fault {
  color: var(--rubric);
}
.due {
  color: #7d560a;
}
.held {
  padding: 0.5rem 0.9rem;
  margin-bottom: 0.9rem;
  border-left: 3px solid var(--ochre);
}
</style>
