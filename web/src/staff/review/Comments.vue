<script setup lang="ts">
import { Button, Textarea } from 'ant-design-vue'
import { computed, nextTick, onBeforeUnmount, reactive, ref, watch } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { counted } from '../../shared/format'
import { useAct } from '../shared/act'
import { useKey } from '../shared/keys'
import { lineAt, markedPassage, paintPassages, passageRange, type Marked } from '../writing/lines'
import { useAtLines } from '../writing/atLines'
import CommentNote from './CommentNote.vue'
import FeedbackNote from '../helpcentre/FeedbackNote.vue'

/** What the staff says of passages of a text, in the order of the text. */
const props = defineProps<{
  reference: string
  comments: Schemas['Comment'][]
  feedback?: Schemas['Feedback'][] // of readers, among them
  aligned?: boolean // each at the height of its line
  maySay: boolean
  mayAccept: boolean
  drawn: unknown // something that is another whenever the text was drawn again
}>()
const emit = defineEmits<{ changed: []; accept: [id: number] }>()
const { act, busy, refused } = useAct()
const open = computed(() => props.comments.filter((c) => !c.resolved_at))
/** What readers and the staff said, in the order of the text; what is of no line comes first. */
const items = computed(() =>
  [
    ...(props.feedback ?? []).map((f) => ({
      key: `f${f.id}`,
      line: f.place?.line ?? -1,
      feedback: f,
      comment: undefined,
    })),
    ...open.value.map((c) => ({
      key: `c${c.id}`,
      line: c.place?.line ?? -1,
      feedback: undefined,
      comment: c,
    })),
  ].sort((a, b) => a.line - b.line),
)
const column = ref<HTMLElement>()
useAtLines(
  column,
  () => !!props.aligned,
  () => [items.value, props.drawn],
)
const resolved = computed(() => props.comments.filter((c) => c.resolved_at))

const marked = ref<Marked>()
const missed = ref(false)
const form = reactive({ text: '', suggesting: false, suggestion: '' })
const field = ref<{ focus: () => void }>()

async function begin() {
  marked.value = markedPassage()
  missed.value = !marked.value
  if (!marked.value) return
  Object.assign(form, { text: '', suggesting: false, suggestion: marked.value.quote })
  await nextTick()
  field.value?.focus()
}
async function say() {
  const at = marked.value
  if (!at) return
  const ok = await act(() =>
    call(
      api.POST('/api/staff/articles/{reference}/comments', {
        params: { path: { reference: props.reference } },
        body: { ...at, text: form.text, ...(form.suggesting ? { suggestion: form.suggestion } : {}) },
      }),
    ),
  )
  if (!ok) return
  leave()
  emit('changed')
}

function paint() {
  void nextTick(() =>
    paintPassages(
      'commented',
      [...open.value, ...(props.feedback ?? [])].flatMap((c) =>
        c.place ? [{ line: c.place.line, quote: c.place.quote }] : [],
      ),
    ),
  )
}
watch(() => [props.comments, props.drawn], paint, { immediate: true })
onBeforeUnmount(() => paintPassages('commented', []))

function go(c: Pick<Schemas['Comment'], 'place'>) {
  if (!c.place) return
  lineAt(c.place.line)?.scrollIntoView({ block: 'center' })
  const range = passageRange(c.place.line, c.place.quote)
  const selection = getSelection()
  if (!range || !selection) return
  selection.removeAllRanges()
  selection.addRange(range)
}

// What is marked would be lost with the focus: the button must not take it.
useKey('c', (e) => {
  if (!props.maySay) return
  e.preventDefault()
  void begin()
})
// The comment that is chosen has the focus; what a letter does, it does to that one alone.
useKey(['j', 'k'], (e) => {
  const all = [...(column.value?.querySelectorAll<HTMLElement>('article[tabindex]') ?? [])]
  const here = all.indexOf(document.activeElement as HTMLElement)
  const to = here < 0 ? (e.key === 'j' ? 0 : all.length - 1) : here + (e.key === 'j' ? 1 : -1)
  all[Math.min(all.length - 1, Math.max(0, to))]?.focus()
})
/** What is typed next is meant for the page again. */
function leave() {
  marked.value = undefined
  document.querySelector<HTMLElement>('#main')?.focus({ preventScroll: true })
}
</script>

<template>
  <section aria-label="Comments">
    <form v-if="marked" class="panel new" @submit.prevent="say" @keydown.esc.stop="leave">
      <p class="quote">“{{ marked.quote }}”</p>
      <label for="comment-text" class="hidden">Comment</label>
      <Textarea
        id="comment-text"
        ref="field"
        v-model:value="form.text"
        :rows="3"
        :maxlength="4000"
        placeholder="What is right or wrong with it?"
        @keydown.ctrl.enter="say"
      />
      <label class="small"><input v-model="form.suggesting" type="checkbox" /> Suggest other words</label>
      <Textarea
        v-if="form.suggesting"
        v-model:value="form.suggestion"
        :rows="3"
        :maxlength="4000"
        aria-label="Suggested words"
      />
      <p v-if="refused" class="fault small" role="alert">
        {{ refused.problem.errors?.map((e) => e.message).join(' ') || refused.problem.detail }}
      </p>
      <div class="row">
        <Button
          size="small"
          type="primary"
          html-type="submit"
          :loading="busy"
          :disabled="!form.text.trim() && !form.suggesting"
          >Comment</Button
        >
        <button type="button" class="quiet small" @click="leave">Cancel</button>
      </div>
    </form>
    <p v-else-if="maySay" class="small faded">
      <button type="button" class="quiet" title="Key: c" @mousedown.prevent @click="begin">
        Comment on the marked words
      </button>
    </p>
    <p v-if="missed && !marked" class="small" role="status">Mark the words it is about first, in the text.</p>
    <div ref="column">
      <div v-for="i in items" :key="i.key" :data-line="i.line">
        <FeedbackNote
          v-if="i.feedback"
          :feedback="i.feedback"
          @changed="emit('changed')"
          @go="go(i.feedback)"
        />
        <CommentNote
          v-else-if="i.comment"
          :reference="reference"
          :comment="i.comment"
          :may-accept="mayAccept"
          :may-say="maySay"
          @changed="emit('changed')"
          @accept="emit('accept', i.comment.id)"
          @go="go(i.comment)"
        />
      </div>
    </div>
    <details v-if="resolved.length" class="small">
      <summary>{{ counted(resolved.length, 'resolved comment') }}</summary>
      <CommentNote
        v-for="c in resolved"
        :key="c.id"
        :reference="reference"
        :comment="c"
        :may-accept="false"
        :may-say="maySay"
        @changed="emit('changed')"
        @go="go(c)"
      />
    </details>
  </section>
</template>

<style scoped>
.new {
  padding: 0.6rem 0.7rem;
  margin-bottom: 0.7rem;
  display: grid;
  gap: 0.4rem;
}
.quote {
  margin: 0;
  font: italic 0.9rem var(--text-face);
  color: var(--faded);
}
</style>
