<script setup lang="ts">
import { Button, Textarea } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, call } from '../../shared/api/client'
import { ago, exact } from '../../shared/format'
import { audiences, states } from '../../shared/words'
import Failed from '../parts/Failed.vue'
import Frame from '../parts/Frame.vue'
import OutcomeBar from '../parts/OutcomeBar.vue'
import SpanWords from '../parts/SpanWords.vue'
import { useAct } from '../use/act'
import { useLoad } from '../use/load'

const props = defineProps<{ reference: string }>()
const router = useRouter()
const note = ref('')
const { act, busy, refused } = useAct()
const path = computed(() => ({ params: { path: { reference: props.reference } } }))

const {
  value: loaded,
  error,
  reload,
} = useLoad(
  () => props.reference,
  async () => {
    const [article, changes] = await Promise.all([
      call(api.GET('/api/staff/articles/{reference}', path.value)),
      call(api.GET('/api/staff/articles/{reference}/changes', path.value)),
    ])
    return { article, changes }
  },
)
const view = ref<'changes' | 'text'>()
const shown = computed(() => view.value ?? (loaded.value?.article.live_revision ? 'changes' : 'text'))
const may = (action: string) => loaded.value?.article.allowed.includes(action) ?? false
const own = computed(() => loaded.value?.article.state === 'in_review' && !may('approve') && may('send_back'))

async function decide(action: 'approve' | 'send_back' | 'publish', done: string) {
  const version = loaded.value?.article.version ?? 0
  const ok = await act(
    () =>
      call(
        api.POST('/api/staff/articles/{reference}/actions', {
          ...path.value,
          body: { action, version, note: note.value },
        }),
      ),
    done,
  )
  if (!ok) {
    if (refused.value?.kind === 'stale-save') await reload()
    return
  }
  note.value = ''
  await reload()
  if (!may('publish') && !may('approve')) await router.push('/review')
}
</script>

<template>
  <Frame margin-title="Decision">
    <Failed v-if="error" :error="error" @retry="reload" />
    <template v-if="loaded">
      <p class="crumbs small"><RouterLink to="/review">Review</RouterLink> › {{ reference }}</p>
      <div class="row spread">
        <div class="row small" role="group" aria-label="What to read">
          <button type="button" class="quiet" :aria-pressed="shown === 'changes'" @click="view = 'changes'">
            Changes marked
          </button>
          <button type="button" class="quiet" :aria-pressed="shown === 'text'" @click="view = 'text'">
            As customers read it
          </button>
        </div>
        <span class="faded small">
          {{
            loaded.article.live_revision
              ? `Against revision ${loaded.article.live_revision}, which is live`
              : 'Nothing of it is live yet: all is new'
          }}
        </span>
      </div>
      <template v-if="shown === 'changes'">
        <h1><SpanWords :spans="loaded.changes.title" /></h1>
        <div class="prose compared" v-html="loaded.changes.body.html" />
      </template>
      <template v-else>
        <h1>{{ loaded.article.copy.title }}</h1>
        <div class="prose" v-html="loaded.article.copy.body" />
      </template>
    </template>
    <template v-if="loaded" #margin>
      <h2 class="first">{{ states[loaded.article.state] }}</h2>
      <p class="small faded">
        Written by {{ loaded.article.writer.name
        }}<template v-if="loaded.article.submitted_at"
          >, sent
          <span :title="exact(loaded.article.submitted_at)">{{
            ago(loaded.article.submitted_at)
          }}</span></template
        >. For {{ audiences[loaded.article.audience]?.toLowerCase() }}, in {{ loaded.article.category.name }}.
      </p>
      <p v-if="own" class="small">You wrote or submitted this text, so somebody else approves it.</p>
      <template v-if="may('approve') || may('send_back')">
        <label for="note">Decision note</label>
        <Textarea
          id="note"
          v-model:value="note"
          :rows="5"
          :maxlength="2000"
          placeholder="What is right, or what should change. Needed to send it back."
        />
        <div class="row decide">
          <Button v-if="may('approve')" type="primary" :loading="busy" @click="decide('approve', 'Approved')"
            >Approve</Button
          >
          <Button v-if="may('publish')" type="primary" :loading="busy" @click="decide('publish', 'Published')"
            >Publish now</Button
          >
          <Button :disabled="busy" @click="decide('send_back', 'Sent back')">Send back</Button>
        </div>
        <p v-if="refused" class="fault small" role="alert">{{ refused.problem.detail }}</p>
      </template>
      <p v-else class="small">
        You can read it here. <RouterLink :to="`/library/${reference}`">Open it in the library</RouterLink>
      </p>
      <p v-if="loaded.article.decision_note" class="small">
        <strong>Last note:</strong> {{ loaded.article.decision_note }}
      </p>
      <h3>Keywords</h3>
      <p class="small">{{ loaded.article.copy.keywords.join(', ') || 'None yet' }}</p>
      <h3>How the live one is doing</h3>
      <OutcomeBar :counts="loaded.article.outcomes" />
    </template>
  </Frame>
</template>

<style scoped>
.crumbs {
  margin: 0 0 0.5rem;
}
h1 {
  margin-top: 0.8rem;
}
.first {
  margin-top: 0;
}
.decide {
  margin-top: 0.7rem;
}
button[aria-pressed='true'] {
  text-decoration: underline;
  text-underline-offset: 4px;
}
</style>
