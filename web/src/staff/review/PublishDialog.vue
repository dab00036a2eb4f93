<script setup lang="ts">
import { Input } from 'ant-design-vue'
import { reactive } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { audienceChoices } from '../customers/audiences'
import { useAct } from '../shared/act'
import Choice from '../shared/Choice.vue'
import { useImpact, useWhen } from './publishing'
import StepDialog from './StepDialog.vue'

/** Publishes an article now or at a time, after showing what that touches. */
const props = defineProps<{ article: Schemas['Article']; note?: string }>()
const open = defineModel<boolean>('open', { required: true })
const emit = defineEmits<{ done: [] }>()
const { act, busy, refused } = useAct()
const form = reactive({ audience: props.article.audience, change: '' })
const when = useWhen(open, () => Object.assign(form, { audience: props.article.audience, change: '' }))
const impact = useImpact(
  () => props.article.reference,
  open,
  () => form.audience,
).value

async function go() {
  const now = when.when === 'now'
  const ok = await act(
    () =>
      call(
        api.POST('/api/staff/articles/{reference}/actions', {
          params: { path: { reference: props.article.reference } },
          body: {
            ...form,
            ...(now ? { action: 'publish' } : { action: 'schedule', at: when.at, second: when.second }),
            version: props.article.version,
            seen: props.article.state,
            gate: props.article.gate,
            note: props.note ?? '',
          },
        }),
      ),
    now ? 'Published' : 'The time is set',
  )
  if (!ok) return
  open.value = false
  emit('done')
}
</script>

<template>
  <StepDialog
    v-model:open="open"
    v-model:when="when"
    :title="`Publish “${article.copy.title}”`"
    :does="when.when === 'now' ? 'Publish now' : 'Set the time'"
    :impact="impact"
    :busy="busy"
    :blocked="!impact || impact.conflicts.length > 0"
    :refused="refused"
    @go="go"
  >
    <template #first>
      <label for="publish-audience">For whom</label>
      <Choice id="publish-audience" v-model="form.audience" :options="audienceChoices" />
    </template>
    <label for="publish-change">What changed, for readers and the feed</label>
    <Input
      id="publish-change"
      v-model:value="form.change"
      :maxlength="500"
      placeholder="In a sentence; may be left empty"
    />
  </StepDialog>
</template>
