import { onScopeDispose } from 'vue'

/** Calls `changed` whenever the server says that something changed, until the view goes. */
export function useLive(address: string, changed: () => void) {
  const line = new EventSource(address)
  let first = true
  line.onmessage = (e) => {
    // The first word after a lost line stands for whatever was missed meanwhile.
    if (e.data === 'changed' || !first) changed()
    first = false
  }
  onScopeDispose(() => line.close())
}
