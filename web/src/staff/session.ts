import { ref } from 'vue'
import { api, call, Refused, type Schemas } from '../shared/api/client'
import { forget } from './shared/load'

/** Who is signed in; undefined until it is known, null for nobody. */
export const who = ref<Schemas['Me'] | null>()

export async function loadSession() {
  try {
    who.value = await call(api.GET('/api/staff/session'))
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    who.value = null
  }
}

export async function signIn(email: string, password: string) {
  who.value = await call(api.POST('/api/staff/session', { body: { email, password } }))
}

export async function signOut() {
  await call(api.DELETE('/api/staff/session'))
  forget()
  who.value = null
}

/** Whether the server lets who is signed in do something. */
export const may = (deed: Schemas['Me']['may'][number]) => who.value?.may.includes(deed) ?? false
