import type { Schemas } from '../../shared/api/client'

type Category = Schemas['Category']
export interface Move {
  id: number
  parent_id: number
  before_id: number
}

const among = (all: Category[], parent: number) => all.filter((c) => c.parent_id === parent)

/** Where a category goes by a key: up, down, into the one above, or out of its parent. */
export function moveByKey(all: Category[], id: number, key: string): Move | undefined {
  const c = all.find((x) => x.id === id)
  if (!c) return undefined
  const row = among(all, c.parent_id)
  const i = row.findIndex((x) => x.id === id)
  switch (key) {
    case 'ArrowUp':
      return i > 0 ? { id, parent_id: c.parent_id, before_id: row[i - 1]?.id ?? 0 } : undefined
    case 'ArrowDown':
      return i < row.length - 1 ? { id, parent_id: c.parent_id, before_id: row[i + 2]?.id ?? 0 } : undefined
    case 'ArrowRight':
      return i > 0 ? { id, parent_id: row[i - 1]?.id ?? 0, before_id: 0 } : undefined
    case 'ArrowLeft': {
      const parent = all.find((x) => x.id === c.parent_id)
      if (!parent) return undefined
      const outer = among(all, parent.parent_id)
      const after = outer[outer.findIndex((x) => x.id === parent.id) + 1]
      return { id, parent_id: parent.parent_id, before_id: after?.id ?? 0 }
    }
  }
  return undefined
}

/** Where a category goes when it is dropped on another: before it, or inside it. */
export function moveByDrop(all: Category[], id: number, onto: number, inside: boolean): Move | undefined {
  const target = all.find((x) => x.id === onto)
  if (!target || id === onto) return undefined
  return inside ? { id, parent_id: onto, before_id: 0 } : { id, parent_id: target.parent_id, before_id: onto }
}
