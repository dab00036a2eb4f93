import { computed, shallowRef, watch } from 'vue'
import { api, call } from '../../shared/api/client'
import { who } from '../session'

/** Who articles can be for, by name; the named groups of customers among them. */
export const audiences = shallowRef<Record<string, string>>({
  everyone: 'Everyone',
  signed_in: 'Signed-in customers',
  staff: 'Staff only',
})

/** Asks again which groups there are. */
export async function loadAudiences() {
  const list = await call(api.GET('/api/staff/audiences'))
  audiences.value = Object.fromEntries(list.map((a) => [a.audience, a.name]))
}
watch(who, (is) => void (is && loadAudiences()), { immediate: true })

/** The audiences to choose from. */
export const audienceChoices = computed(() =>
  Object.entries(audiences.value).map(([value, label]) => ({ value, label })),
)

/** An audience as it reads within a sentence. */
export function audienceWords(audience: string) {
  const name = audiences.value[audience] ?? audience
  return audience.startsWith('group:') ? `the group “${name}”` : name.toLowerCase()
}
