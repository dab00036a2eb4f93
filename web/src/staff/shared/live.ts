import { useEventListener } from '@vueuse/core'
import { onScopeDispose } from 'vue'

/**
 * Calls `changed` whenever the server says that something changed, until the view goes. A
 * tab that nobody looks at holds no line, since a browser keeps few to one server.
 */
export function useLive(address: string, changed: () => void) {
  let line: EventSource | undefined
  let first = true
  function open() {
    if (line) return
    line = new EventSource(address)
    line.onmessage = (e) => {
      // The first word after a lost line stands for whatever was missed meanwhile.
      if (e.data === 'changed' || !first) changed()
      first = false
    }
  }
  function close() {
    line?.close()
    line = undefined
  }
  useEventListener(document, 'visibilitychange', () =>
    document.visibilityState === 'hidden' ? close() : open(),
  )
  if (document.visibilityState !== 'hidden') open()
  onScopeDispose(close)
}
