import { useEventListener } from '@vueuse/core'
import { Refused, Unreachable } from '../../shared/api/client'

const Renew = 15_000 // ms; the server lets go after two minutes of silence

/** This tab's name among all tabs of all people. */
export const tab = `${Date.now().toString(36)}-${Math.random().toString(36).slice(2, 12)}`

/** How the hold of one thing is asked for. */
export interface HoldPorts {
  hold: () => Promise<unknown>
  takeOver: () => Promise<unknown>
  letGo: string // the address that ends it
}

/**
 * Says that somebody is writing here, as long as they are. It ends when they leave,
 * close the tab, or are silent for two minutes. `refused` is called when somebody
 * else is writing.
 */
export function useHold(ports: HoldPorts, refused: () => void) {
  let last = 0
  let held = false

  /** Call at every sign of writing. */
  async function touch() {
    if (Date.now() - last < Renew) return
    last = Date.now()
    try {
      await ports.hold()
      held = true
    } catch (e) {
      last = 0
      if (e instanceof Refused) refused()
      else if (!(e instanceof Unreachable)) throw e
    }
  }

  async function takeOver() {
    await ports.takeOver()
    held = true
    last = Date.now()
  }

  function letGo() {
    if (!held) return
    held = false
    last = 0
    // As the tab closes there is no time to wait for the answer.
    void fetch(ports.letGo, {
      method: 'POST',
      keepalive: true,
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ tab }),
    }).catch(() => undefined)
  }
  useEventListener(window, 'pagehide', letGo)
  return { touch, takeOver, letGo }
}
