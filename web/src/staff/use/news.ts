import { ref, watch } from 'vue'
import { api, call, Refused, Unreachable } from '../../shared/api/client'
import { who } from '../session'

/** How many news are unread. */
export const unread = ref(0)

let line: EventSource | undefined

async function count() {
  try {
    unread.value = (await call(api.GET('/api/staff/news/unread'))).unread
  } catch (e) {
    if (!(e instanceof Refused || e instanceof Unreachable)) throw e
  }
}

/** Keeps the number true while somebody is signed in. */
export function watchNews() {
  watch(
    () => who.value?.id,
    (id) => {
      line?.close()
      line = undefined
      unread.value = 0
      if (!id) return
      void count()
      line = new EventSource('/api/staff/news/events')
      line.onmessage = () => void count()
    },
    { immediate: true },
  )
}
