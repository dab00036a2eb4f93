import { useEventListener } from '@vueuse/core'
import { onScopeDispose, ref } from 'vue'
import { api, call, Refused, Unreachable, type Schemas } from '../../shared/api/client'
import { newKey } from '../../shared/key'
import { Saving, type Kept, type Refusal } from '../shared/saving'

/** Who delivers which script in this tab: of one only the last who began. */
const delivering = new Map<string, Saving<string>>()

/**
 * The text of a flow that saves itself: kept in the browser until the server has it. When somebody else saved in
 * between nothing is overwritten: `status` is stale, and both texts are there.
 */
export function useFlowCopy(slug: string, tab: string, saved: (version: number) => void) {
  const place = `hermeneus:flow:${slug}`
  const source = ref('')
  const status = ref<Saving<string>['status']>('saved')
  const fault = ref<Refused>()
  const savedAt = ref('')

  const saving = new Saving<string>({
    text: () => source.value,
    send: async ({ key, version, text }) => {
      fault.value = undefined
      const done = await call(
        api.PUT('/api/staff/flows/{slug}/text', {
          params: { path: { slug } },
          body: { source: text, version, tab, key },
        }),
      )
      savedAt.value = new Date().toISOString()
      saved(done.version)
      return done.version
    },
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
    changed: (now) => (status.value = now),
  })

  function judge(e: unknown): Refusal {
    if (e instanceof Unreachable) return 'again'
    if (!(e instanceof Refused)) throw e
    if (e.problem.status === 429) return 'again'
    fault.value = e
    return e.kind === 'stale-save' ? 'stale' : e.kind === 'held' ? 'held' : 'refused'
  }

  function kept(): Kept<string> | undefined {
    const raw = localStorage.getItem(place)
    if (!raw) return undefined
    const read = JSON.parse(raw) as Kept<string>
    return typeof read.version === 'number' && typeof read.text === 'string' ? read : undefined
  }

  /** Starts from what the server has, or from what was typed here and never arrived. */
  function begin(flow: Schemas['FlowView']) {
    const before = delivering.get(slug)
    if (before !== saving) before?.stop()
    delivering.set(slug, saving)
    savedAt.value = flow.written_at ?? ''
    source.value = saving.begin(flow.copy_version, flow.source, kept())
  }

  function typed(text: string) {
    source.value = text
    saving.typed()
  }

  /** Goes on with the text of the page, though somebody else's is newer; or gives it up for theirs. */
  function goOn(flow: Schemas['FlowView'], mine: boolean) {
    if (mine) {
      saving.goOn(flow.copy_version, flow.source)
      void saving.save()
      return
    }
    saving.settled()
    begin(flow)
  }

  useEventListener(window, 'beforeunload', (e) => {
    if (status.value !== 'saved') e.preventDefault()
  })
  useEventListener(window, 'online', () => saving.later(0))
  onScopeDispose(() => {
    if (['typing', 'saving', 'waiting'].includes(saving.status)) return
    saving.stop()
    if (delivering.get(slug) === saving) delivering.delete(slug)
  })

  return {
    source,
    status,
    fault,
    savedAt,
    begin,
    typed,
    goOn,
    save: () => saving.save(),
    keepNow: () => saving.version && saving.differs() && saving.keep(),
    version: () => saving.version,
  }
}
