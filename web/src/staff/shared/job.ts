import { onScopeDispose, ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'

/** Follows a job to its end. */
export function useJob() {
  const job = ref<Schemas['Job']>()
  let gone = false
  onScopeDispose(() => (gone = true))

  async function follow(id: number): Promise<Schemas['Job'] | undefined> {
    for (let wait = 120; !gone; wait = Math.min(1000, wait * 1.3)) {
      const now = await call(api.GET('/api/staff/jobs/{id}', { params: { path: { id } } }))
      job.value = now
      if (now.state === 'done' || now.state === 'failed') return now
      await new Promise((r) => setTimeout(r, wait))
    }
    return undefined
  }
  return { job, follow }
}
