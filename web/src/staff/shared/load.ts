import { useEventListener, useIntervalFn } from '@vueuse/core'
import { ref, shallowRef, watch, type Ref } from 'vue'
import { Refused, Unreachable } from '../../shared/api/client'

/** Whether nothing would look different: then nothing is drawn again. */
const same = (a: unknown, b: unknown) => a === b || (!!a && JSON.stringify(a) === JSON.stringify(b))

/** What a view shows of something on the server: the thing, or why it is not there. */
export interface Loaded<T> {
  value: Ref<T | undefined>
  error: Ref<Error | undefined>
  busy: Ref<boolean>
  reload: () => Promise<void>
}

/** What was loaded lately, to be shown at once when somebody comes back to it. */
const lately = new Map<string, unknown>()
const Remembered = 60

function remember(key: string, value: unknown) {
  lately.delete(key)
  lately.set(key, value)
  if (lately.size > Remembered) lately.delete(lately.keys().next().value ?? '')
}

/** Forgets everything, as somebody signs out. */
export const forget = () => lately.clear()

/**
 * Loads now, and again whenever what `source` gives changes. Late answers to older
 * questions are dropped. With a name, what was loaded last for the same source stands
 * there until the fresh answer has come.
 */
export function useLoad<T>(source: () => unknown, get: () => Promise<T>, name?: string): Loaded<T> {
  const value = shallowRef<T>()
  const error = shallowRef<Error>()
  const busy = ref(false)
  let turn = 0
  let shows: string | undefined // what the value is of
  async function reload() {
    const mine = ++turn
    const of = JSON.stringify(source()) ?? ''
    const key = name && name + of
    if (key && lately.has(key)) {
      shows = of
      if (!same(value.value, lately.get(key))) value.value = lately.get(key) as T
    }
    busy.value = true
    try {
      const got = await get()
      if (key) remember(key, got)
      if (mine === turn) {
        shows = of
        error.value = undefined
        if (!same(value.value, got)) value.value = got
      }
    } catch (e) {
      if (mine === turn) {
        error.value = e as Error
        // What cannot be had is not stood in for by another thing.
        if (of !== shows) value.value = undefined
      }
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
