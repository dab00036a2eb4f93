import { createI18n } from 'vue-i18n'

// The same words that the server writes its pages with.
const files = import.meta.glob<{ default: Record<string, Record<string, string>> }>('../../words/*.json')

/** Loads the words of a language, or English ones where there are none, for vue-i18n. */
export async function loadWords(language: string) {
  const load = files[`../../words/${language}.json`] ?? files['../../words/en.json']
  const messages = load ? (await load()).default : {}
  return createI18n({
    legacy: false,
    locale: language,
    missingWarn: false,
    messages: { [language]: messages },
  })
}
