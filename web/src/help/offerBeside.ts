import { createApp } from 'vue'
import { loadWords } from '../shared/i18n'
import Offers from './Offers.vue'

/** Offers answers beside the request form. */
export async function offerBeside(form: HTMLFormElement, place: HTMLElement, answered: () => void) {
  const subject = form.querySelector<HTMLInputElement>('#subject')
  const text = form.querySelector<HTMLTextAreaElement>('#text')
  if (!subject || !text) return
  const words = await loadWords(document.documentElement.lang)
  createApp(Offers, { subject, text, onAnswered: answered }).use(words).mount(place)
}
