/** Votes without leaving the page; without this program the form is sent as it is. */
export function voteInPlace() {
  const section = document.querySelector<HTMLElement>('.helped')
  const page = document.querySelector<HTMLElement>('article[data-reference]')
  const verdict = section?.querySelector<HTMLFormElement>('form.verdict')
  const comment = section?.querySelector<HTMLFormElement>('form.comment')
  const thanks = section?.querySelector<HTMLElement>('.thanks')
  if (!page || !verdict || !comment || !thanks) return

  comment.hidden = 'later' in comment.dataset

  async function send(helped: boolean, words = ''): Promise<boolean> {
    try {
      const answer = await fetch(`/api/help/articles/${page?.dataset.reference}/vote`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({ helped, comment: words }),
      })
      return answer.ok
    } catch {
      return false
    }
  }
  const lost = 'This could not be sent. Try again in a moment.'

  verdict.addEventListener('submit', async (event) => {
    event.preventDefault()
    const button = event.submitter as HTMLButtonElement
    const helped = button.value === 'yes'
    const ok = await send(helped)
    if (ok) {
      for (const b of verdict.querySelectorAll('button')) b.setAttribute('aria-pressed', String(b === button))
      comment.hidden = helped
    }
    thanks.textContent = ok ? 'Thank you: your answer is noted.' : lost
    if (ok && !helped) {
      const link = document.createElement('a')
      link.href = '/help/request'
      link.textContent = 'send us a request'
      thanks.append(' You can still ', link, '.')
    }
  })

  comment.addEventListener('submit', async (event) => {
    event.preventDefault()
    const field = comment.querySelector('textarea')
    const ok = await send(false, field?.value ?? '')
    thanks.textContent = ok ? 'Thank you: we read every word.' : lost
    comment.hidden = ok
  })
}
