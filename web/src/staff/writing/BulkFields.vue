<script setup lang="ts">
import { Input } from 'ant-design-vue'
import { computed } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { audienceChoices } from '../customers/audiences'
import { useLoad } from '../shared/load'
import DateField from '../shared/DateField.vue'
import Choice from '../shared/Choice.vue'

/** What is changed of many articles. */
export interface BulkForm {
  what:
    'category_id' | 'owner_id' | 'audience' | 'add_keywords' | 'remove_keywords' | 'recheck_on' | 'withdraw'
  category_id: number
  owner_id: number
  audience: string
  words: string
  recheck_on: string
}
const form = defineModel<BulkForm>({ required: true })
const props = defineProps<{ categories: Schemas['Category'][]; publisher: boolean }>()
const people = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/people')),
)
const ways = computed(() =>
  [
    { value: 'category_id' as const, label: 'Move them to a category' },
    { value: 'owner_id' as const, label: 'Give them to another owner' },
    { value: 'audience' as const, label: 'Show them to another audience' },
    { value: 'add_keywords' as const, label: 'Add keywords' },
    { value: 'remove_keywords' as const, label: 'Take keywords away' },
    { value: 'recheck_on' as const, label: 'Set the day they are looked at again' },
    { value: 'withdraw' as const, label: 'Withdraw them from customers' },
  ].filter((w) => w.value !== 'withdraw' || props.publisher),
)
</script>

<template>
  <div class="fields">
    <label for="bulk-what">What to do</label>
    <Choice id="bulk-what" v-model="form.what" :options="ways" />
    <template v-if="form.what === 'category_id'">
      <label for="bulk-category">Category</label>
      <Choice
        id="bulk-category"
        v-model="form.category_id"
        :options="categories.map((c) => ({ value: c.id, label: '\u2003'.repeat(c.depth - 1) + c.name }))"
      />
    </template>
    <template v-if="form.what === 'owner_id'">
      <label for="bulk-owner">Owner</label>
      <Choice
        id="bulk-owner"
        v-model="form.owner_id"
        :options="[
          { value: 0, label: 'Choose…' },
          ...(people.value.value ?? [])
            .filter((p) => !p.disabled)
            .map((p) => ({ value: p.id, label: p.name })),
        ]"
      />
    </template>
    <template v-if="form.what === 'audience'">
      <label for="bulk-audience">For whom</label>
      <Choice id="bulk-audience" v-model="form.audience" :options="audienceChoices" />
    </template>
    <template v-if="form.what === 'add_keywords' || form.what === 'remove_keywords'">
      <label for="bulk-words">Keywords, with commas</label>
      <Input id="bulk-words" v-model:value="form.words" :maxlength="400" />
    </template>
    <template v-if="form.what === 'recheck_on'">
      <label for="bulk-day">Day</label>
      <DateField id="bulk-day" v-model="form.recheck_on" required />
    </template>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 0.3rem;
}
label {
  margin-top: 0.4rem;
}
</style>
