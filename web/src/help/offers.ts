interface Offer {
  reference: string
  title: string
  passage: { text: string; hit?: boolean }[] | null
}

/** Shows answers beside the request form while its subject is typed, and keeps what was typed. */
export function offerWhileTyping() {
  const form = document.querySelector<HTMLFormElement>('#request')
  const subject = form?.querySelector<HTMLInputElement>('#subject')
  const list = document.querySelector<HTMLUListElement>('.offers ul')
  const heading = document.querySelector<HTMLElement>('.offers h2')
  if (!form || !subject || !list || !heading) return
  keepTyped(form)

  let timer: ReturnType<typeof setTimeout> | undefined
  let turn = 0
  subject.addEventListener('input', () => {
    clearTimeout(timer)
    timer = setTimeout(ask, 350)
  })

  async function ask() {
    const words = subject?.value.trim() ?? ''
    const mine = ++turn
    if (words.length < 4) return show([])
    try {
      const answer = await fetch('/api/help/offers', {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({ subject: words }),
      })
      if (answer.ok && mine === turn) show((await answer.json()) as Offer[])
    } catch {
      // Offers are a help; the form works without them.
    }
  }

  function show(offers: Offer[]) {
    heading?.toggleAttribute('hidden', !offers.length)
    list?.replaceChildren(
      ...offers.map((o) => {
        const item = document.createElement('li')
        const link = document.createElement('a')
        link.href = `/help/articles/${o.reference}`
        link.target = '_blank'
        link.textContent = o.title
        const text = document.createElement('p')
        for (const run of o.passage ?? []) {
          const part = document.createElement(run.hit ? 'mark' : 'span')
          part.textContent = run.text
          text.append(part)
        }
        item.append(link, text)
        return item
      }),
    )
  }
}

const fields = ['subject', 'text', 'address'] as const
const key = 'hermeneus:request'

/** Keeps what is typed over a reload or a lost connection, until the request is sent. */
function keepTyped(form: HTMLFormElement) {
  const field = (name: string) => form.elements.namedItem(name) as HTMLInputElement | null
  const kept = JSON.parse(sessionStorage.getItem(key) ?? '{}') as Record<string, string>
  for (const name of fields) {
    const input = field(name)
    if (input && !input.value && kept[name]) input.value = kept[name]
  }
  form.addEventListener('input', () => {
    const now = Object.fromEntries(fields.map((name) => [name, field(name)?.value ?? '']))
    sessionStorage.setItem(key, JSON.stringify(now))
  })
}

/** The request is on its way: nothing is to be kept any more. */
if (location.pathname.startsWith('/help/conversations/')) sessionStorage.removeItem(key)
