import { computed } from 'vue'
import { api, call } from '../../shared/api/client'
import { useLoad } from '../shared/load'

/** What colleagues and readers said of an article, and how much of it waits for an answer. */
export function useRemarks(reference: () => string) {
  const remarks = useLoad(reference, async () => {
    const path = { params: { path: { reference: reference() } } }
    const [comments, feedback] = await Promise.all([
      call(api.GET('/api/staff/articles/{reference}/comments', path)),
      call(api.GET('/api/staff/articles/{reference}/feedback', path)),
    ])
    return { comments, feedback }
  })
  const unanswered = computed(
    () =>
      (remarks.value.value?.comments ?? []).filter((c) => !c.resolved_at).length +
      (remarks.value.value?.feedback ?? []).filter((f) => ['', 'passed_on'].includes(f.answer)).length,
  )
  return { remarks, unanswered }
}
