import { useEventListener, useIntervalFn } from '@vueuse/core'
import { ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { api, call, Refused, Unreachable } from '../../shared/api/client'
import { who } from '../session'

/** How many news are unread. */
export const unread = ref(0)

async function count() {
  if (!who.value || document.visibilityState === 'hidden') return
  try {
    unread.value = (await call(api.GET('/api/staff/news/unread'))).unread
  } catch (e) {
    if (!(e instanceof Refused || e instanceof Unreachable)) throw e
  }
}

/**
 * Keeps the number true while somebody is signed in. It is asked for, not listened for: a
 * browser keeps few lines to one server, and every tab would hold one.
 */
export function watchNews() {
  const route = useRoute()
  watch(() => [who.value?.id, route.fullPath], count, { immediate: true })
  useEventListener(document, 'visibilitychange', count)
  useIntervalFn(count, 20_000)
}
