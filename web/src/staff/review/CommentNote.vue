<script setup lang="ts">
import { Button, Textarea } from 'ant-design-vue'
import { ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { ago, exact } from '../../shared/format'
import { useAct } from '../shared/act'
import Remark from './Remark.vue'

/** What somebody on the staff said of a passage, with its replies. */
const props = defineProps<{
  reference: string
  comment: Schemas['Comment']
  mayAccept: boolean
  maySay: boolean
}>()
const emit = defineEmits<{ changed: []; accept: []; go: [] }>()
const { act, busy } = useAct()
const answering = ref(false)
const answer = ref('')
const path = { params: { path: { reference: props.reference, id: props.comment.id } } }

async function reply() {
  const ok = await act(() =>
    call(
      api.POST('/api/staff/articles/{reference}/comments/{id}/replies', {
        ...path,
        body: { text: answer.value },
      }),
    ),
  )
  if (!ok) return
  answer.value = ''
  answering.value = false
  emit('changed')
}
async function resolve(resolved: boolean) {
  const ok = await act(() =>
    call(api.PUT('/api/staff/articles/{reference}/comments/{id}/resolved', { ...path, body: { resolved } })),
  )
  if (ok) emit('changed')
}
</script>

<template>
  <Remark
    :done="!!comment.resolved_at"
    :place="comment.place ?? undefined"
    :quote="comment.quote"
    tabindex="0"
    :aria-label="`Comment of ${comment.who.name}`"
    @keydown.a.exact.self="mayAccept && comment.suggestion != null && !comment.resolved_at && emit('accept')"
    @go="emit('go')"
  >
    <template #who
      ><p class="head small">
        <strong>{{ comment.who.name }}</strong>
        <span class="faded" :title="exact(comment.at)">{{ ago(comment.at) }}</span>
      </p></template
    >
    <p v-if="comment.text" class="said">{{ comment.text }}</p>
    <p v-if="comment.suggestion != null" class="said suggestion">
      <span class="hidden">Suggested words:</span>
      <ins>{{ comment.suggestion || '(nothing: leave it out)' }}</ins>
      <span v-if="comment.accepted_at" class="faded small"> taken</span>
    </p>
    <p v-for="r in comment.replies" :key="r.id" class="said reply">
      <strong>{{ r.who.name }}</strong> {{ r.text }}
      <span class="faded small" :title="exact(r.at)">{{ ago(r.at) }}</span>
    </p>
    <p v-if="comment.resolved_at" class="small faded">Resolved by {{ comment.resolved_by }}</p>
    <form v-if="answering" @submit.prevent="reply">
      <Textarea
        v-model:value="answer"
        :rows="2"
        :maxlength="4000"
        aria-label="Answer"
        @keydown.ctrl.enter="reply"
      />
      <div class="row">
        <Button size="small" type="primary" html-type="submit" :loading="busy" :disabled="!answer.trim()"
          >Answer</Button
        >
        <button type="button" class="quiet small" @click="answering = false">Cancel</button>
      </div>
    </form>
    <p v-else-if="maySay" class="row small">
      <button
        v-if="
          mayAccept &&
          comment.suggestion != null &&
          !comment.resolved_at &&
          comment.place &&
          !comment.place.changed
        "
        type="button"
        class="quiet"
        title="Key: a"
        @click="emit('accept')"
      >
        Take these words
      </button>
      <button type="button" class="quiet" @click="answering = true">Answer</button>
      <button type="button" class="quiet" @click="resolve(!comment.resolved_at)">
        {{ comment.resolved_at ? 'Open again' : 'Resolve' }}
      </button>
    </p>
  </Remark>
</template>

<style scoped>
.faded {
  margin-left: 0.4rem;
}
.suggestion ins {
  background: #e3efe9;
  text-decoration: none;
}
.reply {
  padding-left: 0.6rem;
  border-left: 1px solid var(--rule);
}
form .row {
  margin-top: 0.3rem;
}
</style>
