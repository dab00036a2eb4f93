// Measures texts with the reference packages: standard input holds a list of
// {sentences, words}, standard output the list of {ease, grade}.
import { readFileSync } from 'node:fs'
import { flesch } from 'flesch'
import { fleschKincaid } from 'flesch-kincaid'
import { syllable } from 'syllable'

const texts = JSON.parse(readFileSync(0, 'utf8'))
const measured = texts.map(({ sentences, words }) => {
  const count = { sentence: sentences, word: words.length, syllable: words.reduce((n, w) => n + Math.max(1, syllable(w)), 0) }
  return { Ease: flesch(count), Grade: fleschKincaid(count) }
})
console.log(JSON.stringify(measured))
