import { onVisibleFor } from '../shared/visible'

/** Tells the server when the article was visible for long enough to be read. */
export function watchReading() {
  const page = document.querySelector<HTMLElement>('article[data-read-after]')
  if (!page) return
  onVisibleFor(page, Number(page.dataset.readAfter), (seconds) => {
    void fetch(`/api/help/articles/${page.dataset.reference}/read`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ seconds }),
      keepalive: true,
    })
  })
}
