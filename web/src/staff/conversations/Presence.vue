<script setup lang="ts">
import { api, call } from '../../shared/api/client'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'

/** Whether one takes conversations now: the bot promises a person only when somebody is here. */
const { act, busy } = useAct()
const mine = useLoad(
  () => 'presence',
  () => call(api.GET('/api/staff/presence')),
)
async function set(here: boolean) {
  const body = { here, chats: mine.value.value?.chats ?? 0 }
  const self = { params: { path: { id: 0 } }, body }
  if (await act(() => call(api.PUT('/api/staff/presence/{id}', self)))) await mine.reload()
}
</script>

<template>
  <p v-if="mine.value.value" class="small presence">
    {{ mine.value.value.here ? 'You are here' : 'You are away' }}
    <button type="button" class="quiet" :disabled="busy" @click="set(!mine.value.value.here)">
      {{ mine.value.value.here ? 'Go away' : 'Be here' }}
    </button>
  </p>
</template>

<style scoped>
.presence {
  margin: 0 0 0.6rem;
}
</style>
