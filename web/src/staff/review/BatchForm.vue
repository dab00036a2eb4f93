<script setup lang="ts">
import { Button, Input, Textarea } from 'ant-design-vue'
import { reactive, watch } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { useAct } from '../shared/act'

/** What an open batch is called, what readers are told, and what is put into it. */
const props = defineProps<{ batch: Schemas['Batch'] }>()
const emit = defineEmits<{ changed: []; giveUp: [] }>()
const { act, busy, refused } = useAct()
const form = reactive({ name: '', note: '', add: '' })
watch(
  () => props.batch,
  (b) => Object.assign(form, { name: b.name, note: b.note, add: '' }),
  { immediate: true },
)

async function save() {
  const ok = await act(
    () =>
      call(
        api.PUT('/api/staff/batches/{id}', {
          params: { path: { id: props.batch.id } },
          body: {
            name: form.name,
            note: form.note,
            add: form.add
              .toUpperCase()
              .split(/[\s,]+/)
              .filter(Boolean),
          },
        }),
      ),
    'Kept',
  )
  if (ok) emit('changed')
}
</script>

<template>
  <form class="fields" @submit.prevent="save">
    <h2 class="sub">The batch</h2>
    <label for="batch-name" class="small">Name</label>
    <Input id="batch-name" v-model:value="form.name" :maxlength="120" />
    <label for="batch-note" class="small">What changed, for readers and the feed</label>
    <Textarea id="batch-note" v-model:value="form.note" :rows="2" :maxlength="500" />
    <label for="batch-add" class="small">Add, by reference</label>
    <Input id="batch-add" v-model:value="form.add" placeholder="A-0042 A-0043" />
    <p v-if="refused" class="fault small" role="alert">
      {{ refused.problem.errors?.map((e) => e.message).join(' ') || refused.problem.detail }}
    </p>
    <div class="row">
      <Button html-type="submit" :loading="busy">Save</Button>
      <button type="button" class="quiet small" @click="emit('giveUp')">Give it up</button>
    </div>
  </form>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 0.35rem;
}
</style>
