import { computed, reactive, watch } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { useDelivery } from '../shared/delivery'

type Copy = Schemas['WorkingCopy']

/** A working copy that saves itself. `theirs` says that somebody else saved in between. */
export function useWorkingCopy(reference: string, tab: string, saved: (s: Schemas['Saved']) => void) {
  const copy = reactive<Copy>({ title: '', body: '', keywords: [], search_title: '', search_description: '' })
  const plain = (): Copy => ({ ...copy, keywords: [...copy.keywords] })
  const take = (c: Copy) => Object.assign(copy, { ...c, keywords: [...c.keywords] })
  const delivery = useDelivery<Copy>({
    place: `hermeneus:copy:${reference}`,
    text: plain,
    fits: () => true,
    send: async ({ key, version, text }) => {
      const done = await call(
        api.PUT('/api/staff/articles/{reference}', {
          params: { path: { reference } },
          body: { copy: text, version, tab, key },
        }),
      )
      saved(done)
      return done.version
    },
  })
  const { saving, status, fault, savedAt, save, keepNow, version } = delivery

  function begin(article: Schemas['Article']) {
    take(delivery.begin(article.version, article.copy, article.written_at))
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

  return {
    copy,
    status,
    fault,
    theirs: computed(() => status.value === 'stale'),
    savedAt,
    begin,
    save,
    keepAsRevision,
    keepNow,
    merged,
    dirty: () => saving.dirty(),
    version,
  }
}
