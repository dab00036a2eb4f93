<script setup lang="ts">
import { message } from 'ant-design-vue'
import { computed, nextTick } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { counted } from '../../shared/format'
import { saidWithWayBack, useAct } from '../shared/act'
import { tab } from '../shared/hold'
import Comments from './Comments.vue'
import FeedbackNote from '../helpcentre/FeedbackNote.vue'

/** What is said of an article: by readers, and by the staff. */
const props = defineProps<{
  article: Schemas['Article']
  comments: Schemas['Comment'][]
  feedback: Schemas['Feedback'][]
  copy: Schemas['WorkingCopy'] // shared with the page: what is changed here is saved with the text
  editable: boolean
  drawn: unknown
  settle: () => Promise<void> // hands over what is typed and not saved yet
}>()
const emit = defineEmits<{ changed: [] }>()
const copy = props.copy
const { act } = useAct()
const open = computed(() => props.feedback.filter((f) => ['', 'passed_on'].includes(f.answer)))
const done = computed(() => props.feedback.filter((f) => !['', 'passed_on'].includes(f.answer)))

const at = (id: number) => ({ params: { path: { reference: props.article.reference, id } } })

async function accept(id: number) {
  await props.settle()
  const before = copy.body
  let made = 0
  const ok = await act(async () => {
    const saved = await call(
      api.POST('/api/staff/articles/{reference}/comments/{id}/accept', {
        ...at(id),
        body: { version: props.article.version, tab },
      }),
    )
    made = saved.version
  })
  if (!ok) return
  saidWithWayBack('The words are in the text', () => takeBack(id, before, made))
  emit('changed')
  await nextTick()
  document.querySelector<HTMLElement>('.comment[tabindex]:not(.done)')?.focus()
}
async function takeBack(id: number, before: string, made: number) {
  await props.settle()
  if (props.article.version !== made) {
    message.info('The text changed since. Take the words out by hand, or restore an earlier text.', 6)
    return
  }
  copy.body = before
  await props.settle()
  await act(
    () =>
      call(
        api.PUT('/api/staff/articles/{reference}/comments/{id}/resolved', {
          ...at(id),
          body: { resolved: false },
        }),
      ),
    'Taken back',
  )
  emit('changed')
}
</script>

<template>
  <div>
    <Comments
      :reference="article.reference"
      :comments="comments"
      :feedback="open"
      aligned
      :may-say="article.may_comment"
      :may-accept="editable"
      :drawn="drawn"
      @changed="emit('changed')"
      @accept="accept"
    />
    <details v-if="done.length" class="small">
      <summary>{{ counted(done.length, 'answered reader') }}</summary>
      <FeedbackNote v-for="f in done" :key="f.id" :feedback="f" @changed="emit('changed')" />
    </details>
  </div>
</template>
