import { ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { useDelivery } from '../shared/delivery'

/** The text of a flow that saves itself. */
export function useFlowCopy(slug: string, tab: string, saved: (version: number) => void) {
  const source = ref('')
  const path = { params: { path: { slug } } }
  const delivery = useDelivery<string>({
    place: `hermeneus:flow:${slug}`,
    text: () => source.value,
    fits: (kept) => typeof kept.version === 'number' && typeof kept.text === 'string',
    send: async ({ key, version, text }) => {
      const done = await call(
        api.PUT('/api/staff/flows/{slug}/text', { ...path, body: { source: text, version, tab, key } }),
      )
      saved(done.version)
      return done.version
    },
  })
  const { saving, status, fault, savedAt, save, keepNow, version } = delivery

  function begin(flow: Schemas['FlowView']) {
    source.value = delivery.begin(flow.copy_version, flow.source, flow.written_at ?? '')
  }

  function typed(text: string) {
    source.value = text
    saving.typed()
  }

  /** Goes on with the text of the page, though somebody else's is newer; or with theirs, one's own kept aside. */
  async function goOn(flow: Schemas['FlowView'], mine: boolean) {
    if (mine) {
      saving.goOn(flow.copy_version, flow.source)
      await saving.save()
      return
    }
    await call(api.POST('/api/staff/flows/{slug}/states', { ...path, body: { source: source.value } }))
    saving.settled()
    begin(flow)
  }

  return { source, status, fault, savedAt, begin, typed, goOn, save, keepNow, version }
}
