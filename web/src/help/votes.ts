import { report } from '../shared/visit'

interface Passage {
  quote: string
  line: number
}

/** Remembers the words that a reader marked last in the article. */
function watchMarked(onMark: (p: Passage) => void) {
  const text = document.querySelector('article[data-reference] .prose')
  document.addEventListener('selectionchange', () => {
    const selection = getSelection()
    if (!text || !selection?.rangeCount || selection.isCollapsed || !text.contains(selection.anchorNode))
      return
    const at = selection.anchorNode
    const start = at instanceof Element ? at : at?.parentElement
    const lines = [...text.querySelectorAll('p, h2, h3, h4, pre, summary, figcaption')]
    const line = lines.findIndex((l) => l.contains(start ?? null))
    // What runs over several lines is kept as far as the first goes.
    const quote = selection.toString().split('\n')[0]?.trim() ?? ''
    if (line >= 0 && quote.length > 1) onMark({ quote: quote.slice(0, 500), line })
  })
}

/** Votes without leaving the page; without this program the form is sent as it is. */
export function voteInPlace() {
  const section = document.querySelector<HTMLElement>('.helped')
  const page = document.querySelector<HTMLElement>('article[data-reference]')
  const verdict = section?.querySelector<HTMLFormElement>('form.verdict')
  const comment = section?.querySelector<HTMLFormElement>('form.comment')
  const thanks = section?.querySelector<HTMLElement>('.thanks')
  if (!page || !verdict || !comment || !thanks) return

  comment.hidden = 'later' in comment.dataset

  let marked: Passage | undefined
  const about = comment.querySelector<HTMLElement>('.about')
  function showMarked() {
    if (!about) return
    about.hidden = !marked
    const words = about.querySelector('q')
    if (words) words.textContent = marked?.quote ?? ''
  }
  const hint = comment.querySelector<HTMLElement>('.hint')
  if (hint) hint.hidden = false
  watchMarked((p) => {
    marked = p
    showMarked()
  })
  about?.querySelector('button')?.addEventListener('click', () => {
    marked = undefined
    showMarked()
  })

  async function send(helped: boolean, words = ''): Promise<boolean> {
    try {
      const answer = await report(`/api/help/articles/${page?.dataset.reference}/vote`, {
        helped,
        comment: words,
        ...(words && marked ? marked : {}),
      })
      return answer.ok
    } catch {
      return false
    }
  }
  const words = section?.dataset ?? {}

  verdict.addEventListener('submit', async (event) => {
    event.preventDefault()
    const button = event.submitter as HTMLButtonElement
    const helped = button.value === 'yes'
    const ok = await send(helped)
    if (ok) {
      for (const b of verdict.querySelectorAll('button')) b.setAttribute('aria-pressed', String(b === button))
      comment.hidden = helped
    }
    thanks.textContent = (ok ? words.thanks : words.failed) ?? ''
    if (ok && !helped) {
      const link = document.createElement('a')
      link.href = '/help/request'
      link.textContent = words.send ?? ''
      thanks.append(` ${words.still} `, link, '.')
    }
  })

  comment.addEventListener('submit', async (event) => {
    event.preventDefault()
    const field = comment.querySelector('textarea')
    const ok = await send(false, field?.value ?? '')
    thanks.textContent = (ok ? words.read : words.failed) ?? ''
    comment.hidden = ok
  })
}
