/** A place in a line: in which run of its text, and after how many characters of it. */
export interface Spot {
  run: number
  offset: number
}

/** Where a quote stands in a line whose text comes in runs, the first time; nothing when it is not in it. */
export function spanOf(runs: string[], quote: string): { from: Spot; to: Spot } | undefined {
  const at = quote ? runs.join('').indexOf(quote) : -1
  if (at < 0) return undefined
  const from = spotAt(runs, at, false)
  const to = spotAt(runs, at + quote.length, true)
  return from && to ? { from, to } : undefined
}

/** Between two runs a beginning belongs to the later one, an end to the earlier. */
function spotAt(runs: string[], offset: number, end: boolean): Spot | undefined {
  let before = 0
  for (const [run, text] of runs.entries()) {
    const here = offset - before
    if (end ? here <= text.length && here > 0 : here < text.length) return { run, offset: here }
    before += text.length
  }
  return undefined
}

/** What is marked of a line, without spaces around it, and which of its like in the line it is, from 0. */
export function quoteOf(
  runs: string[],
  from: Spot,
  to: Spot,
): { quote: string; occurrence: number } | undefined {
  const offset = (s: Spot) => runs.slice(0, s.run).join('').length + s.offset
  const text = runs.join('')
  const marked = text.slice(offset(from), offset(to))
  const quote = marked.trim()
  if (!quote) return undefined
  const start = offset(from) + marked.length - marked.trimStart().length
  let occurrence = 0
  for (let at = text.indexOf(quote); at >= 0 && at < start; at = text.indexOf(quote, at + quote.length))
    occurrence++
  return { quote, occurrence }
}
