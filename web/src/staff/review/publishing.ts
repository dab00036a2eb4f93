import { reactive, watch, type Ref } from 'vue'
import { api, call } from '../../shared/api/client'
import { useLoad } from '../shared/load'

/** When a step is taken: now, or at a time on the clocks of the help centre. */
export interface When {
  when: 'now' | 'later'
  at: string
  second: boolean // of a time that clocks show twice, the later
}

/** When, begun anew each time a dialog opens. */
export function useWhen(open: Ref<boolean>, begin: () => void) {
  const when = reactive<When>({ when: 'now', at: '', second: false })
  watch(
    open,
    (now) => {
      if (!now) return
      Object.assign(when, { when: 'now', at: '', second: false })
      begin()
    },
    { immediate: true },
  )
  return when
}

/** What a step would touch, for whom it would be live; asked for while a dialog is open. */
export function useImpact(reference: () => string, open: Ref<boolean>, audience: () => string = () => '') {
  return useLoad(
    () => [open.value, reference(), audience()],
    async () =>
      open.value
        ? call(
            api.GET('/api/staff/articles/{reference}/touches', {
              params: {
                path: { reference: reference() },
                query: audience() ? { audience: audience() } : {},
              },
            }),
          )
        : undefined,
  )
}
