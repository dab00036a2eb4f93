<script setup lang="ts">
import { computed } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { counted } from '../../shared/format'
import { useAct } from '../use/act'
import { tab } from '../use/hold'
import Comments from './Comments.vue'
import FeedbackNote from './FeedbackNote.vue'

/** What is said of an article: by readers, and by the staff. */
const props = defineProps<{
  article: Schemas['Article']
  comments: Schemas['Comment'][]
  feedback: Schemas['Feedback'][]
  editable: boolean
  drawn: unknown
  settle: () => Promise<void> // hands over what is typed and not saved yet
}>()
const emit = defineEmits<{ changed: [] }>()
const { act } = useAct()
const open = computed(() => props.feedback.filter((f) => ['', 'passed_on'].includes(f.answer)))
const done = computed(() => props.feedback.filter((f) => !['', 'passed_on'].includes(f.answer)))

async function accept(id: number) {
  const ok = await act(async () => {
    await props.settle()
    await call(
      api.POST('/api/staff/articles/{reference}/comments/{id}/accept', {
        params: { path: { reference: props.article.reference, id } },
        body: { version: props.article.version, tab },
      }),
    )
  }, 'The words are in the text')
  if (ok) emit('changed')
}
</script>

<template>
  <div>
    <Comments
      :reference="article.reference"
      :comments="comments"
      :feedback="open"
      aligned
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
