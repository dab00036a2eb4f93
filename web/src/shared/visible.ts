/**
 * Counts how long an element is really visible, in seconds, and calls `reached`
 * once that comes to `enough`. Gives a function that stops it.
 */
export function onVisibleFor(
  element: Element,
  enough: number,
  reached: (seconds: number) => void,
): () => void {
  let shown = false
  let since = 0
  let total = 0
  let timer: ReturnType<typeof setTimeout> | undefined

  function count() {
    const now = performance.now()
    if (since) total += (now - since) / 1000
    since = shown && document.visibilityState === 'visible' ? now : 0
    clearTimeout(timer)
    if (total >= enough) {
      stop()
      reached(total)
    } else if (since) timer = setTimeout(count, (enough - total) * 1000 + 50)
  }
  const watcher = new IntersectionObserver((entries) => {
    shown = entries.some((e) => e.isIntersecting)
    count()
  })
  function stop() {
    watcher.disconnect()
    document.removeEventListener('visibilitychange', count)
    clearTimeout(timer)
  }
  watcher.observe(element)
  document.addEventListener('visibilitychange', count)
  return stop
}
