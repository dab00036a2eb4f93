<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { api, call } from '../../shared/api/client'
import { useAct } from '../shared/act'
import Dialog from '../shared/Dialog.vue'

/** Another name for a turn: all that go to it follow. */
const props = defineProps<{ source: string; turn: string }>()
const emit = defineEmits<{ close: []; renamed: [source: string] }>()
const { act, busy, refused } = useAct()
const name = ref(props.turn)
const open = computed({ get: () => true, set: (now) => !now && emit('close') })

async function rename() {
  const ok = await act(async () => {
    const body = { source: props.source, from: props.turn, to: name.value.trim() }
    emit('renamed', (await call(api.POST('/api/staff/flow-renamings', { body }))).source)
  })
  if (ok) emit('close')
}
</script>

<template>
  <Dialog v-model:open="open" :title="`Another name for “${turn}”`">
    <form class="row" @submit.prevent="rename">
      <input v-model="name" aria-label="Its new name" maxlength="40" autocomplete="off" />
      <Button type="primary" html-type="submit" :loading="busy">Rename</Button>
    </form>
    <p class="faded small">Whatever goes to it follows.</p>
    <p v-if="refused" class="fault" role="alert">{{ refused.message }}</p>
  </Dialog>
</template>

<style scoped>
input {
  flex: 1;
  font: inherit;
  padding: 0.3rem 0.6rem;
  border: 1px solid var(--rule);
  border-radius: 4px;
}
</style>
