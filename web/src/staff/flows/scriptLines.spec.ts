import { expect, test } from '@playwright/test'
import { jumpOf, nextLine, readLine } from './scriptLines'

test('a line of a script is read by its first word', () => {
  for (const [text, role, word, name] of [
    ['flow Front door (en)', 'title', 'flow', ''],
    ['hello: say Hello, there.', 'said', 'say', 'hello'],
    ['Hello: there', 'said', '', ''],
    ['  hand over Accounts: I pass you on.', 'program', 'hand over', ''],
    ['  - My bill', 'option', '-', ''],
    ['    no -> person', 'lead', 'no', ''],
    ['nothing: close Bye.', 'lead', 'nothing', ''],
    ['  de: Hallo', 'language', 'de', ''],
    ['  brief: about', 'detail', 'brief', ''],
    ['sayings: say Hello', 'said', 'say', 'sayings'],
    ['saying nothing', 'said', '', ''],
    ['whenever a person is asked for: human', 'whenever', 'whenever', ''],
    ['  // a note', 'note', '', ''],
    ['', 'blank', '', ''],
  ] as const)
    expect(readLine(text), text).toMatchObject({ role, word, name })
})

test('a jump is known by its arrow, or by its word', () => {
  expect(jumpOf('  - A bill -> bills')).toBe('bills')
  expect(jumpOf('go to good-bye')).toBe('good-bye')
  expect(jumpOf('  yes: go to bye')).toBe('bye')
  expect(jumpOf('go to flow moving')).toBe('')
  expect(jumpOf('say Go to the door')).toBe('')
})

test('Enter begins what may follow', () => {
  expect(nextLine('choose What is it?')).toBe('  - ')
  expect(nextLine('  - A bill')).toBe('    ')
  expect(nextLine('  - A bill -> bills')).toBe('  - ')
  expect(nextLine('  say Hello')).toBe('  ')
  expect(nextLine('branch')).toBe('  when ')
  expect(nextLine('  yes')).toBe('    ')
  expect(nextLine('  yes: close Good.')).toBe('  ')
  expect(nextLine('  when we are open')).toBe('    ')
  expect(nextLine('  when we are open: close Good.')).toBe('  ')
  expect(nextLine('whenever a person is asked for: person')).toBe('  ')
})
