<script setup lang="ts">
import { Button, Input, Textarea } from 'ant-design-vue'
import { reactive, watch } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'
import Dialog from '../shared/Dialog.vue'
import TimeField from '../shared/TimeField.vue'
import ImpactList from './ImpactList.vue'

/** Takes an article away from customers, now or at a time, and says what they meet. */
const props = defineProps<{ article: Schemas['Article'] }>()
const open = defineModel<boolean>('open', { required: true })
const emit = defineEmits<{ done: [] }>()
const { act, busy, refused } = useAct()
const form = reactive({ to: '', notice: '', note: '', when: 'now', at: '', second: false })
watch(
  open,
  (now) => now && Object.assign(form, { to: '', notice: '', note: '', when: 'now', at: '', second: false }),
)
const touches = useLoad(
  () => [open.value, props.article.reference],
  async () =>
    open.value
      ? call(
          api.GET('/api/staff/articles/{reference}/touches', {
            params: { path: { reference: props.article.reference } },
          }),
        )
      : undefined,
)
async function go() {
  const later = form.when === 'later'
  const ok = await act(
    () =>
      call(
        api.POST('/api/staff/articles/{reference}/actions', {
          params: { path: { reference: props.article.reference } },
          body: {
            action: 'withdraw',
            note: form.note,
            notice: form.notice,
            ...(later ? { at: form.at, second: form.second } : { to: form.to.trim().toUpperCase() }),
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
  <Dialog v-model:open="open" :title="`Withdraw “${article.copy.title}”`">
    <form class="fields" @submit.prevent="go">
      <p class="small">Customers no longer find it. The text stays, and can be published again.</p>
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
      <template v-else>
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
        form.when === 'later' ? 'Tell its readers then' : 'Or tell them'
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
      <ImpactList v-if="touches.value.value" :touches="touches.value.value" away />
      <p v-if="refused && !refused.problem.errors?.length" class="fault" role="alert">
        {{ refused.problem.detail }}
      </p>
      <div class="row">
        <Button type="primary" html-type="submit" :loading="busy">{{
          form.when === 'later' ? 'Set its end' : 'Withdraw it'
        }}</Button>
        <Button @click="open = false">Cancel</Button>
      </div>
    </form>
  </Dialog>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 0.4rem;
}
</style>
