<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { useAct } from '../shared/act'
import { audienceChoices } from '../customers/audiences'
import { usePublishing } from './publishing'
import Choice from '../shared/Choice.vue'
import Dialog from '../shared/Dialog.vue'
import TimeField from '../shared/TimeField.vue'
import ImpactList from './ImpactList.vue'

/** Publishes an article now or at a time, after showing what that touches. */
const props = defineProps<{ article: Schemas['Article']; note?: string }>()
const open = defineModel<boolean>('open', { required: true })
const emit = defineEmits<{ done: [] }>()
const { act, busy, refused } = useAct()
const { form, touches, step } = usePublishing(
  () => props.article.reference,
  open,
  () => props.article.audience,
)

async function go() {
  const ok = await act(
    () =>
      call(
        api.POST('/api/staff/articles/{reference}/actions', {
          params: { path: { reference: props.article.reference } },
          body: {
            ...step.value,
            version: props.article.version,
            seen: props.article.state,
            gate: props.article.gate,
            note: props.note ?? '',
          },
        }),
      ),
    form.when === 'now' ? 'Published' : 'The time is set',
  )
  if (!ok) return
  open.value = false
  emit('done')
}
</script>

<template>
  <Dialog v-model:open="open" :title="`Publish “${article.copy.title}”`">
    <form class="fields" @submit.prevent="go">
      <label for="publish-audience">For whom</label>
      <Choice id="publish-audience" v-model="form.audience" :options="audienceChoices" />
      <div class="row" role="radiogroup" aria-label="When">
        <label><input v-model="form.when" type="radio" value="now" /> Now</label>
        <label><input v-model="form.when" type="radio" value="later" /> At a time</label>
      </div>
      <TimeField
        v-if="form.when === 'later' && touches.value.value"
        v-model:at="form.at"
        v-model:second="form.second"
        :zone="touches.value.value.zone"
        :fault="refused?.field('at')"
      />
      <label for="publish-change">What changed, for readers and the feed</label>
      <Input
        id="publish-change"
        v-model:value="form.change"
        :maxlength="500"
        placeholder="In a sentence; may be left empty"
      />
      <ImpactList v-if="touches.value.value" :touches="touches.value.value" />
      <p v-if="refused && !refused.field('at')" class="fault" role="alert">{{ refused.problem.detail }}</p>
      <div class="row">
        <Button
          type="primary"
          html-type="submit"
          :loading="busy"
          :disabled="!touches.value.value || touches.value.value.conflicts.length > 0"
          >{{ form.when === 'now' ? 'Publish now' : 'Set the time' }}</Button
        >
        <Button @click="open = false">Cancel</Button>
      </div>
    </form>
  </Dialog>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 0.45rem;
}
</style>
