import '@fontsource-variable/literata/wght.css'
import '@fontsource-variable/source-sans-3/wght.css'
import { createApp } from 'vue'
import '../shared/tokens.css'
import './chat.css'
import { loadWords } from '../shared/i18n'
import { beSeen } from '../shared/visit'
import Chat from './Chat.vue'

beSeen()
const place = document.querySelector<HTMLElement>('#chat')
if (place)
  void loadWords(place.dataset.language ?? 'en').then((words) =>
    createApp(Chat, { company: place.dataset.company ?? '' })
      .use(words)
      .mount(place),
  )
