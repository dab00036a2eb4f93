import { expect, test } from '@playwright/test'
import { readDay, shownDay } from './days'

test('a day is read in the ways people write it, the day always before the month', () => {
  for (const typed of [
    '3 Mar 2026',
    '3 march 2026',
    ' 03  MAR 2026 ',
    '3.3.2026',
    '3/3/2026',
    '2026-03-03',
    '3-3-2026',
  ])
    expect(readDay(typed, false), typed).toBe('2026-03-03')
  expect(readDay('4/11/2026', false)).toBe('2026-11-04')
  expect(readDay('', false)).toBe('')
})

test('a moment is read as it is written, and as it is kept', () => {
  for (const typed of [
    '3 Mar 2026 09:30',
    '3 Mar 2026 9:30',
    '3 mar 2026, 09:30',
    '2026-03-03T09:30',
    '2026-03-03 09:30',
  ])
    expect(readDay(typed, true), typed).toBe('2026-03-03T09:30')
})

test('what is no day is said to be none', () => {
  for (const typed of ['31 Feb 2026', '11/25/2026', 'tomorrow', '3 Mar', '2026-13-01', '3 Mar 2026 09:30'])
    expect(readDay(typed, false), typed).toBeUndefined()
  for (const typed of ['3 Mar 2026', '3 Mar 2026 25:00', '3 Mar 2026 9'])
    expect(readDay(typed, true), typed).toBeUndefined()
})

test('what is shown is read again as it was', () => {
  for (const value of ['2026-03-03', '2024-02-29', '1999-12-31'])
    expect(readDay(shownDay(value, false), false)).toBe(value)
  for (const value of ['2026-03-03T00:00', '2026-10-25T01:30'])
    expect(readDay(shownDay(value, true), true)).toBe(value)
  expect(shownDay('2026-11-04', false)).toBe('4 Nov 2026')
  expect(shownDay('', false)).toBe('')
})
