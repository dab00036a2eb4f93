import type { LocationQuery } from 'vue-router'
import type { paths } from '../../shared/api/schema'

type Query = NonNullable<paths['/api/staff/articles']['get']['parameters']['query']>

/** Which articles a list shows, as the address holds it. */
export type Filter = { [K in keyof Omit<Query, 'page'>]?: Query[K] | undefined }

const numbers = ['category', 'owner', 'site'] as const
const flags = [
  'here',
  'live',
  'left',
  'behind',
  'overdue',
  'interim',
  'unlinked',
  'unopened',
  'feedback',
  'dead',
] as const
const words = ['state', 'kind', 'audience', 'language', 'words', 'sort'] as const

/** Reads a filter from an address; what is empty or unknown is left out. */
export function articleFilter(query: LocationQuery): Filter {
  const out: Record<string, unknown> = {}
  for (const n of numbers) if (Number(query[n])) out[n] = Number(query[n])
  for (const f of flags) if (String(query[f]) === 'true') out[f] = true
  for (const w of words) if (query[w]) out[w] = String(query[w])
  return out as Filter
}
