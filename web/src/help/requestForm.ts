const key = 'hermeneus:request'

/** Makes the request form keep what is typed, ask only for what is needed, and offer answers beside it. */
export function helpWithRequest() {
  // The request is on its way: nothing is to be kept any more.
  if (location.pathname.startsWith('/help/conversations/')) sessionStorage.removeItem(key)
  const form = document.querySelector<HTMLFormElement>('#request')
  const place = document.querySelector<HTMLElement>('.offers')
  if (!form || !place) return
  keepTyped(form)
  askOnlyWhatIsNeeded(form)
  // Another kind of request has other fields: the server shows them.
  const kind = form.querySelector<HTMLSelectElement>('#kind')
  const go = form.querySelector<HTMLButtonElement>('[name=step]')
  if (kind && go) {
    go.hidden = true
    kind.addEventListener('change', () => form.requestSubmit(go))
  }
  void import('./offerBeside').then((m) =>
    m.offerBeside(form, place, () => {
      sessionStorage.removeItem(key)
      form.hidden = true
    }),
  )
}

function typed(form: HTMLFormElement) {
  const now: Record<string, string> = {}
  for (const [name, value] of new FormData(form)) if (typeof value === 'string') now[name] = value
  return now
}

/** Keeps what is typed over a reload or a lost connection, until the request is sent. */
function keepTyped(form: HTMLFormElement) {
  const kept = JSON.parse(sessionStorage.getItem(key) ?? '{}') as Record<string, string>
  for (const input of form.querySelectorAll<HTMLInputElement | HTMLTextAreaElement>('input, textarea')) {
    const value = kept[input.name]
    if (!value || input.type === 'file') continue
    if (input.type === 'radio') {
      if (input.value === value && !form.querySelector(`input[name="${CSS.escape(input.name)}"]:checked`))
        (input as HTMLInputElement).checked = true
    } else if (!input.value) input.value = value
  }
  form.addEventListener('input', () => {
    sessionStorage.setItem(key, JSON.stringify({ ...kept, ...typed(form) }))
  })
}

/** Hides the fields that depend on a choice that was not made. */
function askOnlyWhatIsNeeded(form: HTMLFormElement) {
  const fields = [...form.querySelectorAll<HTMLElement>('.field[data-when]')]
  for (const f of fields) f.querySelector<HTMLElement>('.only')?.remove()
  function look() {
    const answers = typed(form)
    for (const f of fields) {
      const on = form.querySelector<HTMLElement>(`.field[data-field="${f.dataset.when}"]`)
      f.hidden = answers[`f.${f.dataset.when}`] !== f.dataset.is || (on?.hidden ?? false)
    }
  }
  form.addEventListener('change', look)
  look()
}
