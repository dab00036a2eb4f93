import { useEventListener, useIntervalFn } from '@vueuse/core'
import { ref, shallowRef, watch, type Ref } from 'vue'
import { Refused, Unreachable } from '../../shared/api/client'

/** What a view shows of something on the server: the thing, or why it is not there. */
export interface Loaded<T> {
  value: Ref<T | undefined>
  error: Ref<Error | undefined>
  busy: Ref<boolean>
  reload: () => Promise<void>
}

/** Loads now, and again whenever what `source` gives changes. Late answers to older questions are dropped. */
export function useLoad<T>(source: () => unknown, get: () => Promise<T>): Loaded<T> {
  const value = shallowRef<T>()
  const error = shallowRef<Error>()
  const busy = ref(false)
  let turn = 0
  async function reload() {
    const mine = ++turn
    busy.value = true
    try {
      const got = await get()
      if (mine === turn) [value.value, error.value] = [got, undefined]
    } catch (e) {
      if (mine === turn) error.value = e as Error
      if (!(e instanceof Refused || e instanceof Unreachable)) throw e
    } finally {
      if (mine === turn) busy.value = false
    }
  }
  watch(source, reload, { immediate: true })
  return { value, error, busy, reload }
}

/** Loads again every ten seconds, and whenever the window is come back to. */
export function useFresh(reload: () => Promise<void>) {
  useIntervalFn(() => document.visibilityState === 'visible' && reload(), 10_000)
  useEventListener(window, 'focus', reload)
}
