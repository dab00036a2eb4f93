<script setup lang="ts">
import { Input, Textarea } from 'ant-design-vue'
import { reactive } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { useAct } from '../shared/act'
import { useImpact, useWhen } from './publishing'
import StepDialog from './StepDialog.vue'

/** Takes an article away from customers, now or at a time, and says what they meet. */
const props = defineProps<{ article: Schemas['Article'] }>()
const open = defineModel<boolean>('open', { required: true })
const emit = defineEmits<{ done: [] }>()
const { act, busy, refused } = useAct()
const form = reactive({ to: '', notice: '', note: '' })
const when = useWhen(open, () => Object.assign(form, { to: '', notice: '', note: '' }))
const impact = useImpact(() => props.article.reference, open).value

async function go() {
  const later = when.when === 'later'
  const ok = await act(
    () =>
      call(
        api.POST('/api/staff/articles/{reference}/actions', {
          params: { path: { reference: props.article.reference } },
          body: {
            action: 'withdraw',
            note: form.note,
            notice: form.notice,
            ...(later ? { at: when.at, second: when.second } : { to: form.to.trim().toUpperCase() }),
          },
        }),
      ),
    later ? 'The end is set' : 'Withdrawn',
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
    :title="`Withdraw “${article.copy.title}”`"
    :does="when.when === 'later' ? 'Set its end' : 'Withdraw it'"
    :impact="impact"
    away
    :busy="busy"
    :refused="refused"
    :shown-by="['to']"
    @go="go"
  >
    <template #first>
      <p class="small">Customers no longer find it. The text stays, and can be published again.</p>
    </template>
    <template v-if="when.when === 'now'">
      <label for="withdraw-to">Send its readers to</label>
      <Input
        id="withdraw-to"
        v-model:value="form.to"
        placeholder="A reference such as A-0042, or nothing"
        :maxlength="12"
      />
      <p v-if="refused?.field('to')" class="fault small">{{ refused.field('to') }}</p>
    </template>
    <label for="withdraw-notice">{{
      when.when === 'later' ? 'Tell its readers then' : 'Or tell them'
    }}</label>
    <Textarea
      id="withdraw-notice"
      v-model:value="form.notice"
      :rows="2"
      :maxlength="1000"
      placeholder="What they should know instead"
    />
    <label for="withdraw-note">Why, for the trail</label>
    <Input id="withdraw-note" v-model:value="form.note" :maxlength="500" />
  </StepDialog>
</template>
