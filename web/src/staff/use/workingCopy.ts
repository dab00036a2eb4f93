import { onScopeDispose, reactive, ref, watch } from 'vue'
import { useEventListener } from '@vueuse/core'
import { api, call, Refused, Unreachable, type Schemas } from '../../shared/api/client'

type Copy = Schemas['WorkingCopy']

interface Buffered {
  version: number
  copy: Copy
  at: string
}

const SaveAfter = 900 // ms after the last key
const RetryAfter = 3000

/**
 * A working copy that saves itself. Every change is kept in the browser until the
 * server has it, so that neither a lost line nor a closed tab loses a word. When
 * somebody else saved in between, nothing is overwritten: `theirs` asks what to do.
 */
export function useWorkingCopy(reference: string, tab: string, saved: (s: Schemas['Saved']) => void) {
  const key = `hermeneus:copy:${reference}`
  const copy = reactive<Copy>({ title: '', body: '', keywords: [], search_title: '', search_description: '' })
  const status = ref<'saved' | 'typing' | 'saving' | 'waiting' | 'stale' | 'held' | 'refused'>('saved')
  const fault = ref<Refused>()
  const theirs = ref(false)
  const savedAt = ref('')
  let version = 0
  let known = ''
  let timer: ReturnType<typeof setTimeout> | undefined
  let running: Promise<void> | undefined

  const plain = (): Copy => ({ ...copy, keywords: [...copy.keywords] })
  const take = (c: Copy) => Object.assign(copy, { ...c, keywords: [...c.keywords] })

  /** Starts from what the server has, or from what was typed here and never arrived. */
  function begin(article: Schemas['Article']) {
    version = article.version
    savedAt.value = article.written_at
    known = JSON.stringify(article.copy)
    take(article.copy)
    status.value = 'saved'
    theirs.value = false
    const raw = localStorage.getItem(key)
    if (!raw) return
    const kept = JSON.parse(raw) as Buffered
    if (JSON.stringify(kept.copy) === known) {
      localStorage.removeItem(key)
      return
    }
    take(kept.copy)
    if (kept.version === article.version) later(0)
    else {
      status.value = 'stale'
      theirs.value = true
    }
  }

  function later(after = SaveAfter) {
    clearTimeout(timer)
    timer = setTimeout(save, after)
  }

  /** Saves now what is not saved yet. */
  async function save(): Promise<void> {
    clearTimeout(timer)
    if (running) await running
    const sent = plain()
    const text = JSON.stringify(sent)
    if (text === known || theirs.value || !version) return
    keep()
    running = send(sent, text)
    await running
    running = undefined
    if (JSON.stringify(plain()) !== known && status.value === 'saved') later()
  }

  async function send(sent: Copy, text: string) {
    status.value = 'saving'
    fault.value = undefined
    try {
      const done = await call(
        api.PUT('/api/staff/articles/{reference}', {
          params: { path: { reference } },
          body: { copy: sent, version, tab },
        }),
      )
      version = done.version
      saved(done)
      known = text
      savedAt.value = new Date().toISOString()
      status.value = 'saved'
      if (JSON.stringify(plain()) === text) localStorage.removeItem(key)
      else keep()
    } catch (e) {
      if (e instanceof Unreachable) {
        status.value = 'waiting'
        later(RetryAfter)
      } else if (e instanceof Refused) {
        fault.value = e
        theirs.value = e.kind === 'stale-save'
        status.value = theirs.value ? 'stale' : e.kind === 'held' ? 'held' : 'refused'
      } else throw e
    }
  }

  function keep() {
    try {
      localStorage.setItem(
        key,
        JSON.stringify({ version, copy: plain(), at: new Date().toISOString() } satisfies Buffered),
      )
    } catch {
      // The browser's room is full or closed to us: what is typed stays in the page.
    }
  }

  /** Keeps a text that somebody else's hold keeps from being saved, as a revision. */
  async function keepAsRevision(): Promise<number> {
    const done = await call(
      api.POST('/api/staff/articles/{reference}/unsaved', { params: { path: { reference } }, body: plain() }),
    )
    localStorage.removeItem(key)
    status.value = 'saved'
    return done.revision
  }

  /** Goes on from a text merged of one's own and the newer one. */
  async function merged(body: string, title: string, newer: Schemas['Article']) {
    localStorage.removeItem(key)
    theirs.value = false
    version = newer.version
    known = JSON.stringify(newer.copy)
    const theirCopy = newer.copy
    Object.assign(copy, {
      body,
      title,
      keywords: [...new Set([...theirCopy.keywords, ...copy.keywords])],
      search_title: copy.search_title || theirCopy.search_title,
      search_description: copy.search_description || theirCopy.search_description,
    })
    status.value = 'typing'
    keep()
    await save()
  }

  /** Keeps what is on the page now, as the page may be gone in a moment. */
  function keepNow() {
    if (version && JSON.stringify(plain()) !== known) keep()
  }

  const dirty = () => status.value !== 'saved' || JSON.stringify(plain()) !== known

  // Runs once after everything that changed together, never on half a copy.
  watch(copy, () => {
    if (!version) return
    if (JSON.stringify(plain()) === known) {
      if (status.value === 'typing') {
        clearTimeout(timer)
        localStorage.removeItem(key)
        status.value = 'saved'
      }
      return
    }
    keep()
    if (theirs.value) return
    if (status.value !== 'waiting') status.value = 'typing'
    later()
  })
  useEventListener(window, 'beforeunload', (e) => {
    if (status.value !== 'saved') e.preventDefault()
  })
  useEventListener(window, 'online', () => later(0))
  // A text that is still waiting goes on being delivered, whatever view is shown.
  onScopeDispose(() => status.value !== 'waiting' && clearTimeout(timer))

  return {
    copy,
    status,
    fault,
    theirs,
    savedAt,
    begin,
    save,
    keepAsRevision,
    keepNow,
    merged,
    dirty,
    version: () => version,
  }
}
