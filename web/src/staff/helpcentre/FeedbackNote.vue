<script setup lang="ts">
import { Button, Textarea } from 'ant-design-vue'
import { computed, reactive, ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { ago, exact } from '../../shared/format'
import { may, who } from '../session'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'
import Choice from '../shared/Choice.vue'

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
  <article class="feedback" :class="{ done: !open }" aria-label="What a reader said">
    <p class="small">
      <strong>A reader</strong>, {{ feedback.helped ? 'helped' : 'not helped' }},
      <span class="faded" :title="exact(feedback.at)"
        >{{ ago(feedback.at) }}, of revision {{ feedback.revision }}</span
      >
    </p>
    <button v-if="feedback.place" type="button" class="quote" @click="emit('go')">
      “{{ feedback.place.quote }}”
    </button>
    <p v-else-if="feedback.quote" class="quote">“{{ feedback.quote }}” is not in the text any more</p>
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
  </article>
</template>

<style scoped>
.feedback {
  padding: 0.1rem 0 0.2rem 0.6rem;
  margin-bottom: 0.7rem;
  border-left: 2px solid var(--ink);
  line-height: 1.4;
}
.feedback.done {
  border-color: var(--rule);
}
.feedback p {
  margin: 0.15rem 0;
}
.quote {
  font: italic 0.9rem var(--text-face);
  color: var(--faded);
  text-align: left;
  background: none;
  border: 0;
  padding: 0;
}
button.quote {
  cursor: pointer;
}
.said {
  overflow-wrap: anywhere;
  white-space: pre-line;
}
form {
  display: grid;
  gap: 0.4rem;
  padding: 0.5rem 0.6rem;
}
</style>
