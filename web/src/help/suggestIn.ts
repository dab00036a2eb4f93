import { createApp } from 'vue'
import { loadWords } from '../shared/i18n'
import Suggestions from './Suggestions.vue'

/** Completes what is typed into a field. */
export async function suggestIn(field: HTMLInputElement) {
  const place = document.createElement('div')
  place.className = 'suggestions'
  field.after(place)
  const words = await loadWords(document.documentElement.lang)
  createApp(Suggestions, { field }).use(words).mount(place)
}
