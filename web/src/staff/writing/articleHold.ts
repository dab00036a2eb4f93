import { api, call } from '../../shared/api/client'
import { tab, useHold } from '../shared/hold'

/** The hold of an article's edition. */
export function useArticleHold(reference: string, refused: () => void) {
  const of = { params: { path: { reference } }, body: { tab } }
  return useHold(
    {
      hold: () => call(api.POST('/api/staff/articles/{reference}/hold', of)),
      takeOver: () => call(api.POST('/api/staff/articles/{reference}/take-over', of)),
      letGo: `/api/staff/articles/${reference}/let-go`,
    },
    refused,
  )
}
