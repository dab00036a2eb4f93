import '@fontsource-variable/literata/wght.css'
import '@fontsource-variable/source-sans-3/wght.css'
import '../shared/tokens.css'
import './help.css'
import './article.css'
import { playFilms } from './films'
import { offerWhileTyping } from './offers'
import { watchReading } from './reading'
import { voteInPlace } from './votes'

// The pages are whole without this; it adds what only a program can do.
watchReading()
voteInPlace()
offerWhileTyping()
playFilms()
