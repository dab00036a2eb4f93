<script setup lang="ts">
import { Button, Modal } from 'ant-design-vue'
import { onKeyStroke, useIntervalFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, call } from '../../shared/api/client'
import { ago, exact } from '../../shared/format'
import { states } from '../../shared/words'
import ArticleMargin from '../parts/ArticleMargin.vue'
import Failed from '../parts/Failed.vue'
import Frame from '../parts/Frame.vue'
import TextEditor from '../parts/TextEditor.vue'
import { useAct } from '../use/act'
import { useLoad } from '../use/load'
import { useWorkingCopy } from '../use/workingCopy'

const props = defineProps<{ reference: string }>()
const router = useRouter()
const writing = useWorkingCopy(props.reference, ({ version, state, allowed }) => {
  // What may be done next follows the text; the text itself stays as it is typed.
  if (article.value) article.value = { ...article.value, version, state, allowed }
})
const { copy, status, fault, theirs, savedAt } = writing
const { act, busy } = useAct()
const now = ref(Date.now())
useIntervalFn(() => (now.value = Date.now()), 20_000)

const {
  value: article,
  error,
  reload,
} = useLoad(
  () => props.reference,
  () =>
    call(api.GET('/api/staff/articles/{reference}', { params: { path: { reference: props.reference } } })),
)
watch(article, (a, before) => {
  if (a && (!before || (a.version !== writing.version() && status.value === 'saved'))) writing.begin(a)
})

const may = (action: string) => article.value?.allowed.includes(action) ?? false
const editable = computed(() => may('edit'))
const saying = computed(() => {
  switch (status.value) {
    case 'typing':
    case 'saving':
      return 'Saving…'
    case 'waiting':
      return 'No connection: your text is kept here and saved as soon as it is back.'
    case 'stale':
      return 'Not saved: somebody saved a newer text.'
    case 'refused':
      return fault.value?.problem.detail ?? ''
  }
  return savedAt.value ? `Saved ${ago(savedAt.value, now.value)}` : ''
})

async function move(action: 'submit' | 'recall' | 'publish' | 'withdraw', done: string) {
  await writing.save()
  if (status.value !== 'saved') return
  const ok = await act(
    () =>
      call(
        api.POST('/api/staff/articles/{reference}/actions', {
          params: { path: { reference: props.reference } },
          body: { action, version: writing.version() },
        }),
      ),
    done,
  )
  if (ok) await reload()
}

function withdraw() {
  Modal.confirm({
    title: 'Withdraw this article?',
    content: 'Customers no longer find it. The text stays, and can be published again.',
    okText: 'Withdraw it',
    onOk: () => move('withdraw', 'Withdrawn'),
  })
}

/** Shows the newer text; what was typed here stays to be copied from. */
const mine = ref('')
async function loadNewer() {
  mine.value = copy.body
  writing.letGo()
  status.value = 'saved'
  await reload()
  if (article.value) writing.begin(article.value)
}

onKeyStroke('s', (e) => {
  if (!e.ctrlKey && !e.metaKey) return
  e.preventDefault()
  writing.save()
})
onKeyStroke('Enter', (e) => {
  if ((e.ctrlKey || e.metaKey) && may('submit')) move('submit', 'Sent to review')
})
onKeyStroke('Escape', (e) => {
  if (!(e.target as HTMLElement).closest('.ant-modal, form, .ant-select')) router.push('/library')
})
</script>

<template>
  <Frame margin-title="Properties and notes">
    <Failed v-if="error" :error="error" @retry="reload" />
    <template v-if="article">
      <p class="crumbs small">
        <RouterLink to="/library">Library</RouterLink> ›
        <RouterLink :to="{ path: '/library', query: { category: article.category.id } }">{{
          article.category.name
        }}</RouterLink>
        ›
        {{ article.reference }}
      </p>
      <div class="bar leaf">
        <div>
          <strong>{{ states[article.state] }}</strong>
          <span class="faded">
            · <span :title="exact(article.written_at)">{{ article.writer.name }}</span>
            <template v-if="article.live_revision"> · revision {{ article.live_revision }} is live</template>
          </span>
          <span
            class="saying"
            :class="{ fault: ['stale', 'refused', 'waiting'].includes(status) }"
            role="status"
            >{{ saying }}</span
          >
        </div>
        <div class="row">
          <Button v-if="may('withdraw')" @click="withdraw">Withdraw</Button>
          <Button v-if="may('recall')" :loading="busy" @click="move('recall', 'Taken back')"
            >Take back</Button
          >
          <Button
            v-if="may('approve') || may('send_back')"
            :type="may('publish') ? 'default' : 'primary'"
            @click="router.push(`/review/${reference}`)"
            >Review</Button
          >
          <Button v-if="may('publish')" type="primary" :loading="busy" @click="move('publish', 'Published')"
            >Publish now</Button
          >
          <Button
            v-if="may('submit')"
            type="primary"
            :loading="busy"
            @click="move('submit', 'Sent to review')"
            >Send to review</Button
          >
        </div>
      </div>
      <div v-if="theirs" class="leaf stale" role="alert">
        <p>
          {{
            fault?.problem.detail ??
            'Somebody saved a newer text while this one could not be delivered. Yours is still here.'
          }}
        </p>
        <Button size="small" @click="loadNewer">Load the newer text, keep mine beside it</Button>
      </div>
      <details v-if="mine" class="leaf stale" open>
        <summary>Your text, not saved: copy what you need from it</summary>
        <div class="prose" v-html="mine" />
        <button type="button" class="quiet" @click="mine = ''">I have what I need</button>
      </details>
      <p v-if="article.decision_note && article.state === 'sent_back'" class="leaf note">
        <strong>Sent back:</strong> {{ article.decision_note }}
      </p>
      <h1 class="hidden">{{ copy.title || 'Untitled' }}</h1>
      <label class="hidden" for="title">Title</label>
      <textarea
        id="title"
        v-model="copy.title"
        class="title"
        rows="1"
        maxlength="200"
        placeholder="Title, as a customer would ask"
        :readonly="!editable"
        @keydown.enter.prevent
      />
      <TextEditor v-model="copy.body" :editable="editable" />
    </template>
    <template v-if="article" #margin>
      <ArticleMargin :article="article" :copy="copy" :editable="editable" :fault="fault" @changed="reload" />
    </template>
  </Frame>
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
  margin-bottom: 1.1rem;
}
.saying {
  display: block;
  color: var(--faded);
  font-size: 0.9rem;
}
.saying.fault {
  color: var(--rubric);
}
.title {
  display: block;
  width: 100%;
  field-sizing: content;
  resize: none;
  font: 600 1.75rem/1.25 var(--text-face);
  color: var(--ink);
  background: none;
  border: 0;
  padding: 0;
  margin-bottom: 0.7rem;
}
.title:focus-visible {
  outline: none;
}
.stale,
.note {
  padding: 0.7rem 0.9rem;
  margin-bottom: 1rem;
  border-left: 3px solid var(--ochre);
}
</style>
