<script setup lang="ts">
import { Button, InputPassword } from 'ant-design-vue'
import { reactive } from 'vue'
import { api, call } from '../../shared/api/client'
import Frame from '../shared/Frame.vue'
import { who } from '../session'
import { useAct } from '../shared/act'

/** One's own sign-in. */
const { act, busy, refused } = useAct()
const form = reactive({ present: '', next: '' })
async function change() {
  const body = { ...form }
  if (
    !(await act(
      () => call(api.POST('/api/staff/password', { body })),
      'Your new password holds from now on; everywhere else you are signed out',
    ))
  )
    return
  Object.assign(form, { present: '', next: '' })
}
</script>

<template>
  <Frame>
    <h1>Your sign-in</h1>
    <p class="faded">{{ who?.name }} · {{ who?.email }} · {{ who?.roles.join(', ') }}</p>
    <h2>Change your password</h2>
    <form class="fields narrow" novalidate @submit.prevent="change">
      <input type="hidden" :value="who?.email" autocomplete="username" />
      <label for="present">Your present password</label>
      <InputPassword id="present" v-model:value="form.present" autocomplete="current-password" />
      <p v-if="refused?.field('present')" class="fault" role="alert">{{ refused.field('present') }}</p>
      <label for="next">The new password</label>
      <InputPassword id="next" v-model:value="form.next" autocomplete="new-password" />
      <p class="small faded">At least 10 characters.</p>
      <p v-if="refused?.field('next')" class="fault" role="alert">{{ refused.field('next') }}</p>
      <Button type="primary" html-type="submit" :loading="busy" class="go">Change the password</Button>
    </form>
  </Frame>
</template>

<style scoped>
.narrow {
  max-width: 26rem;
}
</style>
