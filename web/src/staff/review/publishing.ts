import { computed, reactive, watch, type Ref } from 'vue'
import { api, call } from '../../shared/api/client'
import { useLoad } from '../shared/load'

/** The fields of a step that makes something live, and what it would touch. */
export function usePublishing(reference: () => string, open: Ref<boolean>, present: () => string) {
  const form = reactive({ audience: '', when: 'now' as 'now' | 'later', at: '', second: false, change: '' })
  watch(
    open,
    (now) =>
      now && Object.assign(form, { audience: present(), when: 'now', at: '', second: false, change: '' }),
    { immediate: true },
  )
  const touches = useLoad(
    () => [open.value, reference(), form.audience],
    async () =>
      open.value
        ? call(
            api.GET('/api/staff/articles/{reference}/touches', {
              params: {
                path: { reference: reference() },
                query: form.audience ? { audience: form.audience } : {},
              },
            }),
          )
        : undefined,
  )
  const step = computed(() => ({
    action: form.when === 'now' ? ('publish' as const) : ('schedule' as const),
    audience: form.audience,
    change: form.change,
    ...(form.when === 'later' ? { at: form.at, second: form.second } : {}),
  }))
  return { form, touches, step }
}
