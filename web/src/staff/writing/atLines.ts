import { useEventListener, useResizeObserver } from '@vueuse/core'
import { nextTick, onMounted, watch, type Ref } from 'vue'
import { lineTop } from './lines'

/**
 * Puts what stands in a column at the height of the line it is about: each element
 * with data-line moves down to its line, or stays below the one before it.
 */
export function useAtLines(column: Ref<HTMLElement | undefined>, on: () => boolean, source: () => unknown) {
  async function place() {
    await nextTick()
    const box = column.value
    if (!box) return
    for (const e of box.querySelectorAll<HTMLElement>('[data-line]')) {
      e.style.marginTop = ''
      const line = Number(e.dataset.line)
      if (!on() || line < 0) continue
      const gap = lineTop(line) - e.getBoundingClientRect().top
      if (gap > 0) e.style.marginTop = `${Math.round(gap)}px`
    }
  }
  onMounted(place)
  watch(source, place)
  useEventListener(window, 'resize', place)
  let height = 0
  // The column grows as somebody answers in it, and as it is placed: only the former counts.
  useResizeObserver(column, () => {
    const now = [...(column.value?.querySelectorAll<HTMLElement>('[data-line]') ?? [])].reduce(
      (sum, e) => sum + e.offsetHeight,
      0,
    )
    if (now !== height) void place()
    height = now
  })
}
