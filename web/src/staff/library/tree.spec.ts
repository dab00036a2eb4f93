import { expect, test } from '@playwright/test'
import type { Schemas } from '../../shared/api/client'
import { moveByDrop, moveByKey } from './tree'

/** Categories written as an outline: two spaces deeper are inside. */
function outline(text: string): Schemas['Category'][] {
  const parents: number[] = []
  return text
    .trim()
    .split('\n')
    .map((line, i) => {
      const depth = line.search(/\S/) / 2
      parents[depth] = i + 1
      const parent_id = depth ? (parents[depth - 1] ?? 0) : 0
      return { id: i + 1, name: line.trim(), parent_id, depth: depth + 1 } as Schemas['Category']
    })
}
const tree = outline(`
Meters
  Readings
  Faults
Bills
Moving`)

const cases: [
  what: string,
  id: number,
  key: string,
  to: { parent_id: number; before_id: number } | undefined,
][] = [
  ['up, before the one above', 4, 'ArrowUp', { parent_id: 0, before_id: 1 }],
  ['the first does not go up', 1, 'ArrowUp', undefined],
  ['down, before the one after the next', 1, 'ArrowDown', { parent_id: 0, before_id: 5 }],
  ['down to the end', 4, 'ArrowDown', { parent_id: 0, before_id: 0 }],
  ['the last does not go down', 5, 'ArrowDown', undefined],
  ['into the one above, at its end', 4, 'ArrowRight', { parent_id: 1, before_id: 0 }],
  ['the first goes into none', 1, 'ArrowRight', undefined],
  ['out, to after its parent', 2, 'ArrowLeft', { parent_id: 0, before_id: 4 }],
  ['what is at the top goes out of nothing', 4, 'ArrowLeft', undefined],
  ['another key moves nothing', 4, 'x', undefined],
  ['what is not there moves nowhere', 99, 'ArrowUp', undefined],
]
for (const [what, id, key, to] of cases)
  test(`by key: ${what}`, () => {
    expect(moveByKey(tree, id, key)).toEqual(to && { id, ...to })
  })

test('dropped on another it goes before it, or inside it; on itself nowhere', () => {
  expect(moveByDrop(tree, 5, 2, false)).toEqual({ id: 5, parent_id: 1, before_id: 2 })
  expect(moveByDrop(tree, 5, 4, true)).toEqual({ id: 5, parent_id: 4, before_id: 0 })
  expect(moveByDrop(tree, 5, 5, true)).toBeUndefined()
  expect(moveByDrop(tree, 5, 99, true)).toBeUndefined()
})
