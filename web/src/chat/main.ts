import '@fontsource-variable/literata/wght.css'
import '@fontsource-variable/source-sans-3/wght.css'
import { createApp } from 'vue'
import '../shared/tokens.css'
import './chat.css'
import Chat from './Chat.vue'

const place = document.querySelector<HTMLElement>('#chat')
if (place) createApp(Chat, { company: place.dataset.company ?? '' }).mount(place)
