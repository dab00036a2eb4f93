<script setup lang="ts">
import { Button, Input, InputPassword } from 'ant-design-vue'
import { ref } from 'vue'
import { api, call } from '../../shared/api/client'
import Failed from '../shared/Failed.vue'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'

/** For who cannot sign in: asks for a link to set a password, or sets one by it. */
const props = defineProps<{ link?: string }>()
const at = { params: { path: { key: props.link ?? '' } } }
const whose = useLoad(
  () => props.link,
  async () => (props.link ? call(api.GET('/api/staff/password-links/{key}', at)) : undefined),
)
const { act, busy, refused } = useAct()
const email = ref('')
const password = ref('')
const done = ref(false)

async function ask() {
  const body = { email: email.value.trim() }
  done.value = await act(() => call(api.POST('/api/staff/password-links', { body })))
}
async function set() {
  const body = { password: password.value }
  done.value = await act(() => call(api.POST('/api/staff/password-links/{key}', { ...at, body })))
}
</script>

<template>
  <main id="main" class="signin">
    <div class="page panel">
      <h1>Set a new password</h1>
      <Failed v-if="whose.error.value" :error="whose.error.value" @retry="whose.reload" />
      <p v-else-if="done && link" role="status">Your new password holds from now on. Sign in with it.</p>
      <p v-else-if="done" role="status">
        If somebody signs in with this address, a link is on its way. It works for two hours.
      </p>
      <form v-else-if="!link" novalidate @submit.prevent="ask">
        <p class="faded">Write the mail address that you sign in with. We send you a link.</p>
        <label for="email">Mail address</label>
        <Input id="email" v-model:value="email" type="email" autocomplete="username" autofocus />
        <p v-if="refused?.field('email')" class="fault" role="alert">{{ refused.field('email') }}</p>
        <Button type="primary" html-type="submit" :loading="busy">Send me a link</Button>
      </form>
      <form v-else-if="whose.value.value" novalidate @submit.prevent="set">
        <p class="faded">For {{ whose.value.value.email }}</p>
        <label for="password">The new password</label>
        <InputPassword id="password" v-model:value="password" autocomplete="new-password" autofocus />
        <p class="small faded">At least 10 characters.</p>
        <p v-if="refused?.field('password')" class="fault" role="alert">{{ refused.field('password') }}</p>
        <Button type="primary" html-type="submit" :loading="busy">Set the password</Button>
      </form>
      <p class="small back"><RouterLink to="/sign-in">Back to signing in</RouterLink></p>
    </div>
  </main>
</template>

<style scoped src="./signIn.css"></style>
