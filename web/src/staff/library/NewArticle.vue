<script setup lang="ts">
import { Button, Input, message } from 'ant-design-vue'
import { computed, reactive, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, call, type Schemas } from '../../shared/api/client'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'
import Choice from '../shared/Choice.vue'
import Dialog from '../shared/Dialog.vue'

/** Begins an article: what it is called, where it stands, what it begins from. */
const props = defineProps<{ categories: Schemas['Category'][]; category: number }>()
const open = defineModel<boolean>('open', { required: true })
const router = useRouter()
const form = reactive({ title: '', category_id: 0, template_id: 0 })
const mail = ref<File>()
const { act, busy, refused } = useAct()
const templates = useLoad(
  () => open.value,
  async () => (open.value ? call(api.GET('/api/staff/templates')) : undefined),
)
const offered = computed(() => (templates.value.value ?? []).filter((t) => !t.retired))
const template = computed(() => offered.value.find((t) => t.id === form.template_id))

const first = () => props.category || props.categories[0]?.id || 0
watch(open, (now) => {
  if (!now) return
  mail.value = undefined
  Object.assign(form, { title: '', category_id: first(), template_id: 0 })
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
    const made = mail.value ? await fromMail(mail.value) : await fromTemplate()
    open.value = false
    await router.push(`/library/${made.reference}`)
  })
}
const fromTemplate = () =>
  call(
    api.POST('/api/staff/articles', {
      body: {
        category_id: form.category_id,
        template_id: form.template_id,
        copy: { title: form.title, body: '', keywords: [], search_title: '', search_description: '' },
      },
    }),
  )
async function fromMail(file: File) {
  const made = await call(
    api.POST('/api/staff/articles-from-mail', {
      params: { query: { category: form.category_id } },
      body: '' as never,
      bodySerializer: () => file,
      headers: { 'Content-Type': 'message/rfc822' },
    }),
  )
  const told = [
    made.left.length ? `Left out: ${made.left.join(', ')}.` : '',
    made.personal.length ? `Look for personal data: ${made.personal.join(' · ')}` : '',
  ].join(' ')
  if (told.trim()) message.info(told, 10)
  return made
}
</script>

<template>
  <Dialog v-model:open="open" title="New article" :width="620">
    <p v-if="!categories.length" class="empty">Add a category first: every article stands in one.</p>
    <form v-else class="fields" @submit.prevent="begin">
      <template v-if="!mail">
        <label for="new-title">Title, as a customer would ask</label>
        <Input
          id="new-title"
          v-model:value="form.title"
          :maxlength="200"
          placeholder="For example: Change the day money is taken"
        />
        <p v-if="refused?.field('title')" class="fault">{{ refused.field('title') }}</p>
      </template>
      <label for="new-category">Category</label>
      <Choice
        id="new-category"
        v-model="form.category_id"
        :options="categories.map((c) => ({ value: c.id, label: '\u2003'.repeat(c.depth - 1) + c.name }))"
      />
      <template v-if="!mail">
        <label for="new-template">Begin with</label>
        <Choice
          id="new-template"
          v-model="form.template_id"
          :options="[
            { value: 0, label: 'An empty page' },
            ...offered.map((t) => ({ value: t.id, label: t.name })),
          ]"
        />
        <div v-if="template" class="panel preview">
          <p class="small faded">{{ template.purpose }}</p>
          <ul class="plainlist small">
            <li v-for="s in template.sections" :key="s.heading">
              <strong>{{ s.heading || 'First' }}</strong> <span class="faded">{{ s.prompt }}</span>
            </li>
          </ul>
        </div>
      </template>
      <p class="small">
        <label class="mail"
          >Or take the answer out of a mail (.eml)
          <input
            type="file"
            accept=".eml,message/rfc822"
            @change="(e) => (mail = (e.target as HTMLInputElement).files?.[0])"
        /></label>
      </p>
      <Button type="primary" html-type="submit" :loading="busy" class="go">Begin writing</Button>
    </form>
  </Dialog>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 0.3rem;
}
label {
  margin-top: 0.5rem;
}
.preview {
  padding: 0.5rem 0.8rem;
}
.preview p {
  margin: 0 0 0.3rem;
}
.mail {
  color: var(--faded);
}
.go {
  margin-top: 0.6rem;
  justify-self: start;
}
</style>
