import { expect, test } from '@playwright/test'
import { readSpans, writeSpans } from './clock'

test('spans of a day are read as they are typed, and written alike', () => {
  for (const [typed, written] of [
    ['8-12, 13:00-18:00', '08:00–12:00, 13:00–18:00'],
    ['22 to 6', '22:00–06:00'],
    ['0-24', '00:00–24:00'],
    ['', ''],
  ] as const) {
    const spans = readSpans(typed) ?? []
    expect(writeSpans(spans)).toBe(written)
    expect(readSpans(written)).toEqual(spans)
  }
})

test('nothing is read into what is none', () => {
  for (const text of ['morning', '8', '8-25', '25-26', '8:70-9']) expect(readSpans(text)).toBeUndefined()
})
