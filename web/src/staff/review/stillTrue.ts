import { api, call } from '../../shared/api/client'
import { saidWithWayBack, useAct } from '../shared/act'

/** Confirms that articles are still true, and offers to take that back. */
export function useStillTrue(changed: () => unknown) {
  const { act } = useAct()
  return async function stillTrue(reference: string): Promise<boolean> {
    const path = { params: { path: { reference } } }
    const ok = await act(() =>
      call(api.POST('/api/staff/articles/{reference}/still-true', { ...path, body: {} })),
    )
    if (!ok) return false
    saidWithWayBack(`${reference} is confirmed as still true`, async () => {
      if (await act(() => call(api.DELETE('/api/staff/articles/{reference}/still-true', path)), 'Taken back'))
        await changed()
    })
    await changed()
    return true
  }
}
