import { watchDebounced } from '@vueuse/core'
import { shallowRef, type Ref } from 'vue'
import { api, call, Refused, Unreachable, type Schemas } from '../../shared/api/client'

/** What the checks say of a script, a moment after the last key. A late answer to an older text is dropped. */
export function useChecks(slug: string, source: Ref<string>) {
  const checked = shallowRef<Schemas['Checked']>()
  let asked = 0
  async function check() {
    const mine = ++asked
    try {
      const got = await call(api.POST('/api/staff/flow-checks', { body: { source: source.value, slug } }))
      if (mine === asked) checked.value = got
    } catch (e) {
      if (!(e instanceof Refused || e instanceof Unreachable)) throw e
    }
  }
  watchDebounced(source, check, { debounce: 350, maxWait: 2000 })
  return { checked, again: check }
}
