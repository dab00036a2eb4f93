import { expect, test } from '@playwright/test'
import { quoteOf, spanOf } from './passage'

test('a quote is found across runs; a beginning at a seam belongs to the later run, an end to the earlier', () => {
  expect(spanOf(['Press ', 'Menu', ' twice.'], 'Menu')).toEqual({
    from: { run: 1, offset: 0 },
    to: { run: 1, offset: 4 },
  })
  expect(spanOf(['Press ', 'Menu', ' twice.'], 'ss Menu tw')).toEqual({
    from: { run: 0, offset: 3 },
    to: { run: 2, offset: 3 },
  })
  expect(spanOf(['a', '', 'b'], 'ab')).toEqual({ from: { run: 0, offset: 0 }, to: { run: 2, offset: 1 } })
  expect(spanOf(['Press Menu'], 'Button')).toBeUndefined()
  expect(spanOf([], 'x')).toBeUndefined()
  expect(spanOf(['x'], '')).toBeUndefined()
})

test('what is marked is told without spaces around it, and which of its like it is', () => {
  const line = ['Open the door, ', 'then the door', ' of the meter.']
  expect(quoteOf(line, { run: 0, offset: 4 }, { run: 0, offset: 14 })).toEqual({
    quote: 'the door,',
    occurrence: 0,
  })
  expect(quoteOf(line, { run: 1, offset: 4 }, { run: 2, offset: 1 })).toEqual({
    quote: 'the door',
    occurrence: 1,
  })
  expect(quoteOf(line, { run: 2, offset: 3 }, { run: 2, offset: 7 })).toEqual({ quote: 'the', occurrence: 3 })
  expect(quoteOf(line, { run: 0, offset: 4 }, { run: 0, offset: 5 })).toBeUndefined()
})

// Whatever is marked of whatever line, cut into whatever runs, is found again where it stood when it stands there once.
test('what was marked is found again', () => {
  const words = 'to read the meter open its door and press menu'.split(' ')
  let n = 7
  const next = (below: number) => (n = (n * 31 + 11) % 1009) % below
  for (let round = 0; round < 500; round++) {
    const runs = Array.from({ length: 1 + next(4) }, () => words.slice(next(5), 5 + next(5)).join(' ') + ' ')
    const flat = runs.map((text, run) => [...text].map((_, offset) => ({ run, offset }))).flat()
    const i = next(flat.length)
    const j = i + next(flat.length - i)
    const [from, to] = [flat[i], flat[j]]
    if (!from || !to) continue
    const marked = quoteOf(runs, from, { run: to.run, offset: to.offset + 1 })
    if (!marked || marked.occurrence) continue
    const span = spanOf(runs, marked.quote)
    expect(span && runs.join('').indexOf(marked.quote)).toBeGreaterThanOrEqual(0)
    const at = (s: { run: number; offset: number }) => runs.slice(0, s.run).join('').length + s.offset
    expect(span && runs.join('').slice(at(span.from), at(span.to))).toBe(marked.quote)
  }
})
