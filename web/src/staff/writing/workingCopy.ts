import { useEventListener } from '@vueuse/core'
import { onScopeDispose, reactive, ref, watch } from 'vue'
import { api, call, Refused, Unreachable, type Schemas } from '../../shared/api/client'
import { newKey } from '../../shared/key'
import { Saving, type Kept, type Refusal, type Save } from '../shared/saving'

type Copy = Schemas['WorkingCopy']

/** Who delivers which text in this tab: of one text only the last who began. */
const delivering = new Map<string, Saving<Copy>>()

/**
 * A working copy that saves itself. Every change is kept in the browser until the
 * server has it, so that neither a lost line nor a closed tab loses a word. When
 * somebody else saved in between, nothing is overwritten: `theirs` asks what to do.
 */
export function useWorkingCopy(reference: string, tab: string, saved: (s: Schemas['Saved']) => void) {
  const place = `hermeneus:copy:${reference}`
  const copy = reactive<Copy>({ title: '', body: '', keywords: [], search_title: '', search_description: '' })
  const status = ref<Saving<Copy>['status']>('saved')
  const fault = ref<Refused>()
  const theirs = ref(false)
  const savedAt = ref('')
  const plain = (): Copy => ({ ...copy, keywords: [...copy.keywords] })
  const take = (c: Copy) => Object.assign(copy, { ...c, keywords: [...c.keywords] })

  const saving = new Saving<Copy>({
    text: plain,
    send: (save) => send(save),
    judge,
    keep: (kept) => {
      try {
        localStorage.setItem(place, JSON.stringify(kept))
      } catch {
        // The browser's room is full or closed to us: what is typed stays in the page.
      }
    },
    forget: () => localStorage.removeItem(place),
    wait: (work, ms) => {
      const timer = setTimeout(work, ms)
      return () => clearTimeout(timer)
    },
    key: newKey,
    now: () => new Date().toISOString(),
    changed: (now) => {
      status.value = now
      theirs.value = now === 'stale'
    },
  })

  async function send({ key, version, text }: Save<Copy>): Promise<number> {
    fault.value = undefined
    const done = await call(
      api.PUT('/api/staff/articles/{reference}', {
        params: { path: { reference } },
        body: { copy: text, version, tab, key },
      }),
    )
    savedAt.value = new Date().toISOString()
    saved(done)
    return done.version
  }

  function judge(e: unknown): Refusal {
    if (e instanceof Unreachable) return 'again'
    if (!(e instanceof Refused)) throw e
    if (e.problem.status === 429) return 'again'
    fault.value = e
    return e.kind === 'stale-save' ? 'stale' : e.kind === 'held' ? 'held' : 'refused'
  }

  function kept(): Kept<Copy> | undefined {
    const raw = localStorage.getItem(place)
    return raw ? (JSON.parse(raw) as Kept<Copy>) : undefined
  }

  /** Starts from what the server has, or from what was typed here and never arrived. */
  function begin(article: Schemas['Article']) {
    const before = delivering.get(reference)
    if (before !== saving) before?.stop()
    delivering.set(reference, saving)
    savedAt.value = article.written_at
    take(saving.begin(article.version, article.copy, kept()))
  }

  /** Keeps a text that somebody else's hold keeps from being saved, as a revision. */
  async function keepAsRevision(): Promise<number> {
    const done = await call(
      api.POST('/api/staff/articles/{reference}/unsaved', { params: { path: { reference } }, body: plain() }),
    )
    saving.settled()
    return done.revision
  }

  /** Goes on from a text merged of one's own and the newer one. */
  async function merged(body: string, title: string, newer: Schemas['Article']) {
    const theirCopy = newer.copy
    Object.assign(copy, {
      body,
      title,
      keywords: [...new Set([...theirCopy.keywords, ...copy.keywords])],
      search_title: copy.search_title || theirCopy.search_title,
      search_description: copy.search_description || theirCopy.search_description,
    })
    saving.goOn(newer.version, theirCopy)
    await saving.save()
  }

  // Runs once after everything that changed together, never on half a copy.
  watch(copy, () => saving.typed())
  useEventListener(window, 'beforeunload', (e) => {
    if (status.value !== 'saved') e.preventDefault()
  })
  useEventListener(window, 'online', () => saving.later(0))
  // A text that is still waiting goes on being delivered, whatever view is shown.
  onScopeDispose(() => {
    if (['typing', 'saving', 'waiting'].includes(saving.status)) return
    saving.stop()
    if (delivering.get(reference) === saving) delivering.delete(reference)
  })

  return {
    copy,
    status,
    fault,
    theirs,
    savedAt,
    begin,
    save: () => saving.save(),
    keepAsRevision,
    /** Keeps what is on the page now, as the page may be gone in a moment. */
    keepNow: () => saving.version && saving.differs() && saving.keep(),
    merged,
    dirty: () => saving.dirty(),
    version: () => saving.version,
  }
}
