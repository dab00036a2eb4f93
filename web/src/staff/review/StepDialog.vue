<script setup lang="ts">
import { Button } from 'ant-design-vue'
import type { Refused, Schemas } from '../../shared/api/client'
import Dialog from '../shared/Dialog.vue'
import TimeField from '../shared/TimeField.vue'
import ImpactList from './ImpactList.vue'
import type { When } from './publishing'

/** A step with what is live, now or at a time, after showing what that touches. */
defineProps<{
  title: string
  does: string // what the button says
  impact?: Schemas['Impact'] // nothing until it is known
  away?: boolean // the step takes the article away
  busy: boolean
  blocked?: boolean
  refused?: Refused
  shownBy?: string[] // fields whose faults are shown where they stand
}>()
const open = defineModel<boolean>('open', { required: true })
const when = defineModel<When>('when', { required: true })
const emit = defineEmits<{ go: [] }>()
</script>

<template>
  <Dialog v-model:open="open" :title="title">
    <form class="fields" @submit.prevent="emit('go')">
      <slot name="first" />
      <div class="row" role="radiogroup" aria-label="When">
        <label><input v-model="when.when" type="radio" value="now" /> Now</label>
        <label><input v-model="when.when" type="radio" value="later" /> At a time</label>
      </div>
      <TimeField
        v-if="when.when === 'later' && impact"
        v-model:at="when.at"
        v-model:second="when.second"
        :zone="impact.zone"
        :fault="refused?.field('at')"
      />
      <slot />
      <ImpactList v-if="impact" :impact="impact" :away="away" />
      <p
        v-if="refused && !['at', ...(shownBy ?? [])].some((f) => refused?.field(f))"
        class="fault"
        role="alert"
      >
        {{ refused.problem.detail }}
      </p>
      <div class="row">
        <Button type="primary" html-type="submit" :loading="busy" :disabled="blocked">{{ does }}</Button>
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
