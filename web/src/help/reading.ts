import { onVisibleFor } from '../shared/visible'
import { report } from '../shared/visit'

/** Tells the server when the article, or the answer above results, was in view for long enough to be read. */
export function watchReading() {
  const page = document.querySelector<HTMLElement>('article[data-read-after]')
  if (page) watch(page, `/api/help/articles/${page.dataset.reference}/read`)
  const answer = document.querySelector<HTMLElement>('.answer[data-told]')
  if (answer) watch(answer, `/api/help/results/${answer.dataset.told}/read`)
}

function watch(element: HTMLElement, path: string) {
  onVisibleFor(element, Number(element.dataset.readAfter), (seconds) => {
    void report(path, { seconds }).catch(() => undefined)
  })
}
