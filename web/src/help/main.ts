import '@fontsource-variable/literata/wght.css'
import '@fontsource-variable/source-sans-3/wght.css'
import '../shared/tokens.css'
import './help.css'
import './parts.css'
import './article.css'
import { playFilms } from './films'
import { watchReading } from './reading'
import { helpWithRequest } from './requestForm'
import { beSeen } from '../shared/visit'
import { voteInPlace } from './votes'

// The pages are whole without this; it adds what only a program can do.
beSeen()
watchReading()
voteInPlace()
helpWithRequest()
playFilms()

// Suggestions come with the first look into a search field: until then the page stays light.
for (const field of document.querySelectorAll<HTMLInputElement>('input[data-suggest]'))
  field.addEventListener('focus', () => void import('./suggestIn').then((m) => m.suggestIn(field)), {
    once: true,
  })

const print = document.querySelector<HTMLButtonElement>('[data-print]')
if (print) {
  print.hidden = false
  print.addEventListener('click', () => window.print())
}
