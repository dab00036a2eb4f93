import { computed, onScopeDispose, ref, shallowRef } from 'vue'
import { api, call, Refused, Unreachable, type Schemas } from '../shared/api/client'

type View = Schemas['ChatView']
const key = 'hermeneus:chat'

/** One conversation: begun or taken up again, watched, and spoken in. */
export function useConversation() {
  const token = ref(new URLSearchParams(location.search).has('new') ? '' : (localStorage.getItem(key) ?? ''))
  const view = shallowRef<View>()
  const fault = ref('')
  const busy = ref(false)
  const lost = ref(false)
  let events: EventSource | undefined

  const path = computed(() => ({ params: { path: { token: token.value } } }))

  async function begin() {
    fault.value = ''
    events?.close()
    view.value = undefined
    try {
      token.value = (await call(api.POST('/api/chat'))).token
      localStorage.setItem(key, token.value)
      await refresh()
      watch()
    } catch (e) {
      fault.value = said(e)
    }
  }

  /** Takes up the conversation of an earlier visit, or begins one. */
  async function open() {
    if (!token.value) return begin()
    try {
      await refresh()
      watch()
    } catch (e) {
      if (e instanceof Refused) await begin()
      else fault.value = said(e)
    }
  }

  let asked = 0
  async function refresh() {
    const turn = ++asked
    const got = await call(api.GET('/api/chat/{token}', path.value))
    if (turn === asked) view.value = got
  }

  function watch() {
    events = new EventSource(`/api/chat/${token.value}/events`)
    events.onmessage = () => {
      lost.value = false
      void refresh().catch(() => undefined)
    }
    events.onerror = () => (lost.value = true)
  }

  /** Says something; true when the server has it. */
  async function say(kind: 'words' | 'choice' | 'want_person', text?: string): Promise<boolean> {
    if (busy.value) return false
    busy.value = true
    fault.value = ''
    try {
      await call(api.POST('/api/chat/{token}/messages', { ...path.value, body: { kind, text } }))
      await refresh()
      return true
    } catch (e) {
      fault.value = said(e)
      return false
    } finally {
      busy.value = false
    }
  }

  async function openArticle(reference: string): Promise<Schemas['Page'] | undefined> {
    try {
      return await call(
        api.POST('/api/chat/{token}/articles/{reference}/open', {
          params: { path: { token: token.value, reference } },
        }),
      )
    } catch (e) {
      fault.value = said(e)
      return undefined
    }
  }

  function markRead(reference: string, seconds: number) {
    void api.POST('/api/chat/{token}/articles/{reference}/read', {
      params: { path: { token: token.value, reference } },
      body: { seconds },
    })
  }

  const seen = new Set<number>() // answers of which it is said already
  function markToldRead(message: number, seconds: number) {
    if (seen.has(message)) return
    seen.add(message)
    void api.POST('/api/chat/{token}/messages/{id}/read', {
      params: { path: { token: token.value, id: message } },
      body: { seconds },
    })
  }

  function said(e: unknown): string {
    if (e instanceof Refused) return e.message
    if (e instanceof Unreachable)
      return 'The line is down. What you typed is still here; try again in a moment.'
    throw e
  }

  onScopeDispose(() => events?.close())
  return { token, view, fault, busy, lost, open, begin, say, openArticle, markRead, markToldRead }
}
