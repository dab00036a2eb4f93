<script setup lang="ts">
import { message } from 'ant-design-vue'
import { useEventListener, useIntervalFn } from '@vueuse/core'
import { computed, nextTick, onBeforeUnmount, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, call } from '../../shared/api/client'
import ArticleBar from './ArticleBar.vue'
import ArticleMargin from './ArticleMargin.vue'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import MergeTexts from './MergeTexts.vue'
import SourceColumn from './SourceColumn.vue'
import TextEditor from './TextEditor.vue'
import TitleField from './TitleField.vue'
import { who } from '../session'
import { useAct } from '../shared/act'
import { useArticleHold } from './articleHold'
import { tab } from '../shared/hold'
import { typing, useKey } from '../shared/keys'
import { useLive } from '../shared/live'
import { useLoad } from '../shared/load'
import { useRemarks } from '../review/remarks'
import { useWorkingCopy } from './workingCopy'

const props = defineProps<{ reference: string }>()
const router = useRouter()
const { act, busy } = useAct()
const path = { params: { path: { reference: props.reference } } }

const writing = useWorkingCopy(props.reference, tab, ({ version, state, allowed }) => {
  // What may be done next follows the text; the text itself stays as it is typed.
  const known = article.value
  // An answer that was lost and came again may be older than what somebody saved since.
  if (known && version < known.version) void reload()
  else if (known) article.value = { ...known, version, state, allowed }
  void checks.reload()
})
const { copy, status, fault, theirs, savedAt } = writing
const {
  value: article,
  error,
  reload,
} = useLoad(
  () => props.reference,
  () => call(api.GET('/api/staff/articles/{reference}', path)),
)
const checks = useLoad(
  () => props.reference,
  () => call(api.GET('/api/staff/articles/{reference}/advice', path)),
)
const hold = useArticleHold(props.reference, reload)
const editor = ref<InstanceType<typeof TextEditor>>()
const drawn = ref(0)
const { remarks, unanswered } = useRemarks(() => props.reference)
const may = (action: string) => article.value?.allowed.includes(action) ?? false
const other = computed(() => {
  const h = article.value?.holder
  return h && h.id !== who.value?.id ? h : undefined
})
const editable = computed(() => may('edit') && !other.value)
const edition = computed(() => props.reference.includes('.'))

watch(article, async (a, before) => {
  if (!a) return
  if (!before && a.version === 1 && a.writer.id === who.value?.id) void nextTick(beginWriting)
  if (other.value && before && writing.dirty()) await displaced()
  if (!before || (a.version > writing.version() && status.value === 'saved')) {
    writing.begin(a)
    if (before) await checks.reload()
  }
})

/** A text that was only just begun is written at once: in its title, or its first empty line. */
function beginWriting() {
  if (!editable.value) return
  if (!copy.title) document.querySelector<HTMLElement>('#title')?.focus()
  else editor.value?.begin()
}

/** Somebody took over: what had not arrived is kept as a revision, and the page follows them. */
async function displaced() {
  const ok = await act(async () => {
    const number = await writing.keepAsRevision()
    if (number)
      message.info(`${other.value?.name} took over. Your unsaved text is kept as revision ${number}.`, 10)
  })
  if (ok && article.value) writing.begin(article.value)
}

useLive(`/api/staff/articles/${props.reference}/events`, () => {
  void remarks.reload()
  // Between a key and its save the answer would be older than what is on the page.
  if (other.value || (status.value !== 'typing' && status.value !== 'saving')) void reload()
})
// A hold that ends in silence rings no bell.
useIntervalFn(() => other.value && reload(), 20_000)
watch(status, (now) => (now === 'held' || now === 'stale') && reload())

async function takeOver() {
  if (await act(hold.takeOver)) await reload()
}

async function move(action: 'submit' | 'recall', done: string) {
  await saveAll()
  if (status.value !== 'saved') return
  const ok = await act(
    () =>
      call(
        api.POST('/api/staff/articles/{reference}/actions', {
          ...path,
          body: { action, version: writing.version() },
        }),
      ),
    done,
  )
  if (ok) await reload()
}

/** Takes the last words out of the editor, which waits for a pause in long texts. */
function settle() {
  editor.value?.flush()
  writing.keepNow()
}
useEventListener(window, 'pagehide', settle)
// The last save would renew the hold: it comes first, then the hold ends.
onBeforeUnmount(async () => {
  settle()
  await writing.save()
  hold.letGo()
})

async function merged(body: string, title: string) {
  const newer = await call(api.GET('/api/staff/articles/{reference}', path))
  await writing.merged(body, title, newer)
  await reload()
}

async function saveAll() {
  editor.value?.flush()
  await writing.save()
}

/** Whether a key was meant for the text, and not for a field of the margin. */
const inText = (e: KeyboardEvent) => !!(e.target as HTMLElement).closest('#title, .ProseMirror')

useKey(
  's',
  (e) => {
    e.preventDefault()
    void saveAll()
  },
  { ctrl: true, typing: true },
)
useKey(
  'Enter',
  (e) => {
    if (may('submit') && (inText(e) || !typing(e))) void move('submit', 'Sent to review')
  },
  { ctrl: true, typing: true },
)
// Out of the text first, and then out of the article.
useKey(
  'Escape',
  (e) => {
    const at = e.target as HTMLElement
    if (inText(e)) document.querySelector<HTMLElement>('#main')?.focus({ preventScroll: true })
    else if (!at.closest('form, [role=toolbar], aside') && !typing(e)) void router.push('/library')
  },
  { typing: true },
)
</script>

<template>
  <Frame margin-title="Notes on the article" together :wide-index="edition">
    <template v-if="edition && article" #index>
      <SourceColumn :reference="reference" :version="article.version" @matched="reload" />
    </template>
    <Failed v-if="error" :error="error" @retry="reload" />
    <template v-if="article">
      <ArticleBar
        :article="article"
        :other="other"
        :status="status"
        :saved-at="savedAt"
        :fault="fault"
        :busy="busy"
        @move="move"
        @take-over="takeOver"
        @changed="reload"
      />
      <h1 class="hidden">{{ copy.title || 'Untitled' }}</h1>
      <MergeTexts
        v-if="theirs"
        :reference="reference"
        :mine="copy.body"
        :title="copy.title"
        :newer-title="article.copy.title"
        :who="article.writer.name"
        @merged="merged"
      />
      <p v-if="article.state === 'in_review' && editable" class="panel note small">
        It waits at the gate “{{ article.gate }}”. A change to the text clears what was passed before it.
        <RouterLink :to="`/review/${reference}`">The review</RouterLink>
      </p>
      <p v-if="article.decision_note && article.state === 'sent_back'" class="panel note">
        <strong>Sent back:</strong> {{ article.decision_note }}
      </p>
      <template v-if="!theirs">
        <TitleField
          v-model="copy.title"
          :editable="editable"
          :fault="fault?.field('title')"
          @writing="hold.touch()"
        />
        <TextEditor
          ref="editor"
          v-model="copy.body"
          :editable="editable"
          :sections="article.sections"
          :language="article.language"
          @writing="editable && hold.touch()"
          @drawn="drawn++"
        />
      </template>
    </template>
    <template v-if="article" #margin>
      <ArticleMargin
        :article="article"
        :copy="copy"
        :checks="checks.value.value"
        :remarks="remarks.value.value"
        :unanswered="unanswered"
        :editable="editable"
        :fault="fault"
        :drawn="drawn"
        :settle="saveAll"
        @changed="(reload(), remarks.reload())"
        @checked="checks.reload"
      />
    </template>
  </Frame>
</template>

<style scoped>
.note {
  padding: 0.7rem 0.9rem;
  margin-bottom: 1rem;
  border-left: 3px solid var(--ochre);
}
</style>
