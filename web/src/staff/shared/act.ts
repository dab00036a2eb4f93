import { message } from 'ant-design-vue'
import { h, ref } from 'vue'
import { Refused, Unreachable } from '../../shared/api/client'

const WayBack = 12 // seconds

/** Says what was done, with a way back. */
export function saidWithWayBack(done: string, takeBack: () => unknown) {
  const key = `done-${Date.now()}`
  const back = () => {
    message.destroy(key)
    takeBack()
  }
  const button = h('button', { type: 'button', class: 'quiet', onClick: back }, 'Take it back')
  message.success({ content: () => h('span', [`${done}. `, button]), key, duration: WayBack })
}

/** Runs things people do: says when they fail, and keeps from doing them twice at once. */
export function useAct() {
  const busy = ref(false)
  const refused = ref<Refused>()

  async function act(work: () => Promise<unknown>, done?: string): Promise<boolean> {
    if (busy.value) return false
    busy.value = true
    refused.value = undefined
    try {
      await work()
      if (done) message.success(done)
      return true
    } catch (e) {
      if (e instanceof Refused) refused.value = e
      if (!(e instanceof Refused || e instanceof Unreachable)) throw e
      message.error(e.message, 6)
      return false
    } finally {
      busy.value = false
    }
  }
  return { act, busy, refused }
}
