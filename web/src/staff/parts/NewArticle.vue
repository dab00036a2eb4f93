<script setup lang="ts">
import { Button, Input, Modal } from 'ant-design-vue'
import { reactive, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, call, type Schemas } from '../../shared/api/client'
import { articleKinds } from '../use/kinds'
import { useAct } from '../use/act'
import Choice from './Choice.vue'

/** Begins an article: where it stands, what it is, what it is called. */
const props = defineProps<{ categories: Schemas['Category'][]; category: number }>()
const open = defineModel<boolean>('open', { required: true })
const router = useRouter()
const form = reactive({ title: '', category_id: 0, kind: 'how-to' })
const { act, busy, refused } = useAct()

const first = () => props.category || props.categories[0]?.id || 0
watch(open, (now) => {
  if (now) Object.assign(form, { title: '', category_id: first() })
})
// The tree may arrive after the dialog was opened.
watch(
  () => props.categories,
  () => {
    if (!form.category_id) form.category_id = first()
  },
)

async function begin() {
  await act(async () => {
    const made = await call(
      api.POST('/api/staff/articles', {
        body: {
          category_id: form.category_id,
          kind: form.kind,
          copy: { title: form.title, body: '', keywords: [], search_title: '', search_description: '' },
        },
      }),
    )
    open.value = false
    await router.push(`/library/${made.reference}`)
  })
}
</script>

<template>
  <Modal v-model:open="open" title="New article" :footer="null">
    <p v-if="!categories.length" class="empty">Add a category first: every article stands in one.</p>
    <form v-else class="fields" @submit.prevent="begin">
      <label for="new-title">Title, as a customer would ask</label>
      <Input
        id="new-title"
        v-model:value="form.title"
        :maxlength="200"
        placeholder="For example: Change the day money is taken"
      />
      <p v-if="refused?.field('title')" class="fault">{{ refused.field('title') }}</p>
      <label for="new-category">Category</label>
      <Choice
        id="new-category"
        v-model="form.category_id"
        :options="categories.map((c) => ({ value: c.id, label: '\u2003'.repeat(c.depth - 1) + c.name }))"
      />
      <label for="new-kind">Kind</label>
      <Choice id="new-kind" v-model="form.kind" :options="articleKinds" />
      <Button type="primary" html-type="submit" :loading="busy" class="go">Begin writing</Button>
    </form>
  </Modal>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 0.3rem;
}
label {
  margin-top: 0.5rem;
}
.go {
  margin-top: 1rem;
  justify-self: start;
}
</style>
