<script setup lang="ts">
import { Button, Textarea } from 'ant-design-vue'
import { computed, reactive, ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { ago, exact } from '../../shared/format'
import { may, who } from '../session'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'
import Choice from '../shared/Choice.vue'
import Remark from '../review/Remark.vue'

/** What a reader said of a live text, and what is done about it. */
const props = defineProps<{ feedback: Schemas['Feedback'] }>()
const emit = defineEmits<{ changed: []; go: [] }>()
const { act, busy, refused } = useAct()
const answering = ref(false)
const form = reactive({ answer: 'mended' as 'mended' | 'no_fault' | 'passed_on', note: '', for: 0 })
const people = useLoad(
  () => answering.value,
  async () => (answering.value ? call(api.GET('/api/staff/people')) : []),
)
const open = computed(() => ['', 'passed_on'].includes(props.feedback.answer))
const answered: Record<string, string> = { mended: 'Mended', no_fault: 'Not a fault', passed_on: 'Passed on' }
const answers = [
  { value: 'mended', label: 'It is mended, in the live revision' },
  { value: 'no_fault', label: 'It is not a fault' },
  { value: 'passed_on', label: 'It is somebody else’s' },
] as const

async function send() {
  const ok = await act(
    () =>
      call(
        api.POST('/api/staff/feedback/{id}/answer', {
          params: { path: { id: props.feedback.id } },
          body: { answer: form.answer, note: form.note, for: form.for },
        }),
      ),
    props.feedback.signed_in && form.answer !== 'passed_on' ? 'Answered; the reader is mailed' : 'Answered',
  )
  if (!ok) return
  answering.value = false
  emit('changed')
}
</script>

<template>
  <Remark
    :done="!open"
    :place="feedback.place ?? undefined"
    :quote="feedback.quote"
    ink
    aria-label="What a reader said"
    @go="emit('go')"
  >
    <template #who
      ><p class="small">
        <strong>A reader</strong>, {{ feedback.helped ? 'helped' : 'not helped' }},
        <span class="faded" :title="exact(feedback.at)"
          >{{ ago(feedback.at) }}, of revision {{ feedback.revision }}</span
        >
      </p></template
    >
    <p class="said">{{ feedback.text }}</p>
    <p v-if="feedback.answer" class="small faded">
      {{ answered[feedback.answer]
      }}<template v-if="feedback.mended_in"> in revision {{ feedback.mended_in }}</template
      ><template v-if="feedback.answer === 'passed_on'"> to {{ feedback.for }}</template
      >, {{ feedback.answered_by
      }}<template v-if="feedback.answer_note">: {{ feedback.answer_note }}</template>
    </p>
    <form v-if="answering" class="panel" @submit.prevent="send">
      <label :for="`answer-${feedback.id}`" class="hidden">Answer</label>
      <Choice :id="`answer-${feedback.id}`" v-model="form.answer" :options="[...answers]" />
      <template v-if="form.answer === 'passed_on'">
        <label :for="`for-${feedback.id}`" class="hidden">Whose it is</label>
        <Choice
          :id="`for-${feedback.id}`"
          v-model="form.for"
          :options="[
            { value: 0, label: 'Choose whose…' },
            ...(people.value.value ?? [])
              .filter((p) => !p.disabled && p.id !== who?.id)
              .map((p) => ({ value: p.id, label: p.name })),
          ]"
        />
      </template>
      <label :for="`note-${feedback.id}`" class="hidden">Note</label>
      <Textarea
        :id="`note-${feedback.id}`"
        v-model:value="form.note"
        :rows="3"
        :maxlength="2000"
        :placeholder="
          form.answer === 'passed_on'
            ? 'What they should know'
            : feedback.signed_in
              ? 'What the reader is told by mail'
              : 'Why (the reader did not sign in, so nobody is told)'
        "
      />
      <p v-if="refused" class="fault small" role="alert">
        {{ refused.problem.errors?.map((e) => e.message).join(' ') || refused.problem.detail }}
      </p>
      <div class="row">
        <Button size="small" type="primary" html-type="submit" :loading="busy">Answer</Button>
        <button type="button" class="quiet small" @click="answering = false">Cancel</button>
      </div>
    </form>
    <button
      v-else-if="open && may('answer_readers')"
      type="button"
      class="quiet small"
      @click="answering = true"
    >
      Answer it
    </button>
  </Remark>
</template>

<style scoped>
form {
  display: grid;
  gap: 0.4rem;
  padding: 0.5rem 0.6rem;
}
</style>
