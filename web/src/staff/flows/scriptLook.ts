import { RangeSetBuilder } from '@codemirror/state'
import {
  Decoration,
  EditorView,
  ViewPlugin,
  WidgetType,
  type DecorationSet,
  type ViewUpdate,
} from '@codemirror/view'
import { readLine } from './scriptLines'

/** The letter of a choice, in place of its dash. */
class Letter extends WidgetType {
  constructor(readonly letter: string) {
    super()
  }
  override eq(other: Letter) {
    return other.letter === this.letter
  }
  override toDOM() {
    const span = document.createElement('span')
    span.className = 'script-letter'
    span.textContent = this.letter
    return span
  }
}

const hidden = Decoration.replace({})
const name = Decoration.mark({ class: 'script-name' })
const word = Decoration.mark({ class: 'script-word' })
const space = Decoration.mark({ class: 'script-indent' })
const fact = Decoration.mark({ class: 'script-fact' })
const jump = Decoration.mark({ class: 'script-jump' })
const lines: Record<string, Decoration> = {}
const Space = 9 // px of one character of indentation, as in staff.css

function ofLine(role: string, indent: number): Decoration {
  const key = `${role} ${indent}`
  const room = indent * Space
  return (lines[key] ??= Decoration.line({
    class: indent ? `script-${role}` : `script-${role} script-root`,
    attributes: { style: `padding-left:${room + 20}px;text-indent:-${room + 20}px` },
  }))
}

/** Which of the choices beside it a choice is: a, b, c… */
function letterOf(view: EditorView, number: number, indent: number): string {
  let at = 0
  for (let n = number - 1; n > 0 && at < 25; n--) {
    const text = view.state.doc.line(n).text
    const line = readLine(text)
    if (line.role === 'blank' || line.indent > indent) continue
    if (line.indent < indent) break
    if (line.role === 'option') at++
  }
  return String.fromCharCode(97 + at)
}

/** Words that the typography says better: they stand there only while their line is written in. */
const unsaid = new Set(['say', 'choose'])

function draw(view: EditorView): DecorationSet {
  const set = new RangeSetBuilder<Decoration>()
  const doc = view.state.doc
  const active = new Set(view.state.selection.ranges.map((r) => doc.lineAt(r.head).number))
  for (const { from, to } of view.visibleRanges) {
    for (let at = from; at <= to;) {
      const line = doc.lineAt(at)
      const read = readLine(line.text)
      set.add(line.from, line.from, ofLine(read.role, read.indent))
      if (read.indent) set.add(line.from, line.from + read.indent, space)
      if (read.name) set.add(line.from + read.indent, line.from + read.nameEnd, name)
      const [begins, ends] = [line.from + read.nameEnd, line.from + Math.min(read.wordEnd, line.length)]
      if (read.role === 'option' && !active.has(line.number) && ends > begins)
        set.add(
          begins,
          ends,
          Decoration.replace({ widget: new Letter(letterOf(view, line.number, read.indent)) }),
        )
      else if (unsaid.has(read.word) && !active.has(line.number) && line.to > ends)
        set.add(begins, ends, hidden)
      else if (read.word && ends > begins) set.add(begins, ends, word)
      for (const m of line.text.matchAll(/\[[^[\]]*\]?|(?:->|→)\s*\S+\s*$/g)) {
        const start = line.from + m.index
        if (start >= ends) set.add(start, start + m[0].length, m[0].startsWith('[') ? fact : jump)
      }
      at = line.to + 1
    }
  }
  return set.finish()
}

/** How a script looks: said in the text's face, chosen in italics, decided in the interface's. */
export const scriptLook = ViewPlugin.fromClass(
  class {
    decorations: DecorationSet
    constructor(view: EditorView) {
      this.decorations = draw(view)
    }
    update(u: ViewUpdate) {
      if (u.docChanged || u.viewportChanged || u.selectionSet) this.decorations = draw(u.view)
    }
  },
  { decorations: (v) => v.decorations },
)
