<script setup lang="ts">
import { Button, Input, InputPassword } from 'ant-design-vue'
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { signIn } from '../session'
import { Refused, Unreachable } from '../../shared/api/client'

const route = useRoute()
const router = useRouter()
const email = ref('')
const password = ref('')
const fault = ref('')
const busy = ref(false)

async function enter() {
  busy.value = true
  fault.value = ''
  try {
    await signIn(email.value.trim(), password.value)
    const back = String(route.query.back ?? '/today')
    await router.push(back.startsWith('/') && !back.startsWith('//') ? back : '/today')
  } catch (e) {
    if (!(e instanceof Refused || e instanceof Unreachable)) throw e
    fault.value = e.message
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <main id="main" class="signin">
    <div class="page panel">
      <h1>Hermeneus</h1>
      <p class="faded">How many questions were answered before a person had to step in?</p>
      <form novalidate @submit.prevent="enter">
        <label for="email">Mail address</label>
        <Input id="email" v-model:value="email" type="email" autocomplete="username" autofocus />
        <label for="password">Password</label>
        <InputPassword id="password" v-model:value="password" autocomplete="current-password" />
        <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
        <Button type="primary" html-type="submit" :loading="busy">Sign in</Button>
      </form>
      <p class="small back"><RouterLink to="/forgotten">Forgot your password?</RouterLink></p>
    </div>
  </main>
</template>

<style scoped src="./signIn.css"></style>
