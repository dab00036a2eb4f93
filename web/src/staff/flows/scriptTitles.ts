import { RangeSetBuilder, StateEffect, StateField, type EditorState } from '@codemirror/state'
import { Decoration, EditorView, WidgetType, type DecorationSet } from '@codemirror/view'
import type { Schemas } from '../../shared/api/client'

type Titles = Schemas['ShownTitle'][]
/** Says which titles articles have. */
export const titled = StateEffect.define<Titles>()

class Title extends WidgetType {
  constructor(private readonly title: string) {
    super()
  }
  override eq(other: Title) {
    return other.title === this.title
  }
  toDOM() {
    const mark = document.createElement('span')
    mark.className = 'article-title'
    mark.textContent = this.title
    mark.setAttribute('aria-hidden', 'true') // it is no part of the text
    return mark
  }
}

function draw(state: EditorState, titles: Titles): DecorationSet {
  const by = new Map(titles.map((t) => [t.reference, t.title]))
  const set = new RangeSetBuilder<Decoration>()
  if (by.size)
    for (const found of state.doc.toString().matchAll(/\bA-\d{4,}\b/g)) {
      const title = by.get(found[0])
      const at = found.index + found[0].length
      if (title) set.add(at, at, Decoration.widget({ widget: new Title(title), side: 1 }))
    }
  return set.finish()
}

/** The title of each article that a script names stands behind its reference. */
export const scriptTitles = StateField.define<{ titles: Titles; set: DecorationSet }>({
  create: () => ({ titles: [], set: Decoration.none }),
  update(now, tr) {
    for (const e of tr.effects) if (e.is(titled)) return { titles: e.value, set: draw(tr.state, e.value) }
    return tr.docChanged ? { ...now, set: now.set.map(tr.changes) } : now
  },
  provide: (f) => EditorView.decorations.from(f, (now) => now.set),
})
