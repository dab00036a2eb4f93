import { useEventListener } from '@vueuse/core'
import { computed, onScopeDispose, ref } from 'vue'
import { Refused, Unreachable } from '../../shared/api/client'
import { ago } from '../../shared/format'
import { newKey } from '../../shared/key'
import { Saving, type Kept, type Refusal, type Save, type Status } from './saving'

/** Who delivers which text in this tab: of one text only the last who began. */
const delivering = new Map<string, { stop: () => void }>()

/** What a text is, and how it is sent. */
export interface Delivered<T> {
  place: string // by which the browser keeps it
  text: () => T // as it stands on the page
  fits: (kept: Kept<T>) => boolean // what an older version of the program kept may not
  send: (save: Save<T>) => Promise<number>
}

/**
 * A text that saves itself. Every change is kept in the browser until the server has it, so that neither a lost line nor
 * a closed tab loses a word. When somebody else saved in between, nothing is overwritten: `status` is stale, and both
 * texts are there.
 */
export function useDelivery<T>(of: Delivered<T>) {
  const status = ref<Status>('saved')
  const fault = ref<Refused>()
  const savedAt = ref('')

  const saving = new Saving<T>({
    text: of.text,
    send: async (save) => {
      fault.value = undefined
      const version = await of.send(save)
      savedAt.value = new Date().toISOString()
      return version
    },
    judge,
    keep: (kept) => {
      try {
        localStorage.setItem(of.place, JSON.stringify(kept))
      } catch {
        // The browser's room is full or closed to us: what is typed stays in the page.
      }
    },
    forget: () => localStorage.removeItem(of.place),
    wait: (work, ms) => {
      const timer = setTimeout(work, ms)
      return () => clearTimeout(timer)
    },
    key: newKey,
    now: () => new Date().toISOString(),
    changed: (now) => (status.value = now),
  })

  function judge(e: unknown): Refusal {
    if (e instanceof Unreachable) return 'again'
    if (!(e instanceof Refused)) throw e
    if (e.problem.status === 429) return 'again'
    fault.value = e
    return e.kind === 'stale-save' ? 'stale' : e.kind === 'held' ? 'held' : 'refused'
  }

  function kept(): Kept<T> | undefined {
    const raw = localStorage.getItem(of.place)
    if (!raw) return undefined
    const read = JSON.parse(raw) as Kept<T>
    return of.fits(read) ? read : undefined
  }

  /** Starts from what the server has, and gives the text to show: it, or what was typed here and never arrived. */
  function begin(version: number, text: T, at: string): T {
    const before = delivering.get(of.place)
    if (before !== saving) before?.stop()
    delivering.set(of.place, saving)
    savedAt.value = at
    return saving.begin(version, text, kept())
  }

  useEventListener(window, 'beforeunload', (e) => {
    if (status.value !== 'saved') e.preventDefault()
  })
  useEventListener(window, 'online', () => saving.later(0))
  // A text that is still waiting goes on being delivered, whatever view is shown.
  onScopeDispose(() => {
    if (['typing', 'saving', 'waiting'].includes(saving.status)) return
    saving.stop()
    if (delivering.get(of.place) === saving) delivering.delete(of.place)
  })

  return {
    saving,
    status,
    fault,
    savedAt,
    begin,
    save: () => saving.save(),
    /** Keeps what is on the page now, as the page may be gone in a moment. */
    keepNow: () => saving.version && saving.differs() && saving.keep(),
    version: () => saving.version,
  }
}

/** How the state of a text that saves itself is said above it. */
export function useSaying(of: { status: string; savedAt: string; fault?: Refused }, now = ref(Date.now())) {
  return computed(() => {
    switch (of.status) {
      case 'typing':
      case 'saving':
        return 'Saving…'
      case 'waiting':
        return 'No connection: your text is kept here and saved as soon as it is back.'
      case 'stale':
        return 'Not saved: somebody saved a newer text.'
      case 'held':
      case 'refused':
        return of.fault?.problem.detail ?? ''
    }
    return of.savedAt ? `Saved ${ago(of.savedAt, now.value)}` : ''
  })
}
