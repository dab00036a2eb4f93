import { foldCode, foldEffect, foldService, foldable, unfoldCode } from '@codemirror/language'
import type { ChangeSpec, EditorState, TransactionSpec } from '@codemirror/state'
import { EditorView, type Command, type KeyBinding } from '@codemirror/view'
import { jumpOf, nextLine, readLine } from './scriptLines'

/** The last line that hangs beneath one, blank lines between not counted at the end. */
function lastBeneath(state: EditorState, number: number): number {
  const indent = readLine(state.doc.line(number).text).indent
  let last = number
  for (let n = number + 1; n <= state.doc.lines; n++) {
    const line = readLine(state.doc.line(n).text)
    if (line.role === 'blank') continue
    if (line.indent <= indent) break
    last = n
  }
  return last
}

/** What hangs beneath a line can be folded away. */
export const folding = foldService.of((state, from) => {
  const line = state.doc.lineAt(from)
  const last = lastBeneath(state, line.number)
  return last > line.number ? { from: line.to, to: state.doc.line(last).to } : null
})

/** The lines of the selection, with what hangs beneath its last. */
function chosen(state: EditorState): [number, number] {
  const { from, to } = state.selection.main
  const first = state.doc.lineAt(from).number
  let last = state.doc.lineAt(to).number
  for (let n = first; n <= last; n++) last = Math.max(last, lastBeneath(state, n))
  return [first, last]
}

/** A new line: as deep as what it begins with wants. On an empty one it goes a step back out. */
const enter: Command = (view) => {
  const { state } = view
  const at = state.selection.main
  const line = state.doc.lineAt(at.head)
  if (!at.empty || at.head !== line.to) {
    const here = ' '.repeat(readLine(line.text).indent)
    view.dispatch(state.replaceSelection('\n' + (at.head <= line.from + here.length ? '' : here)), {
      scrollIntoView: true,
    })
    return true
  }
  const read = readLine(line.text)
  const bare = ['', '-', 'when'].includes(line.text.trim())
  if (bare && read.indent) {
    const back = ' '.repeat(Math.max(0, read.indent - 2))
    view.dispatch({
      changes: { from: line.from, to: line.to, insert: back },
      selection: { anchor: line.from + back.length },
    })
    return true
  }
  const insert = '\n' + nextLine(line.text)
  view.dispatch({
    changes: { from: line.to, insert },
    selection: { anchor: line.to + insert.length },
    scrollIntoView: true,
    userEvent: 'input',
  })
  return true
}

/** Moves the chosen lines, and what hangs beneath them, deeper or back. */
const indent =
  (by: 2 | -2): Command =>
  (view) => {
    const { state } = view
    const [first, last] = chosen(state)
    const changes: ChangeSpec[] = []
    for (let n = first; n <= last; n++) {
      const line = state.doc.line(n)
      if (by > 0 && (line.length || first === last)) changes.push({ from: line.from, insert: '  ' })
      const spaces = Math.min(2, line.text.length - line.text.replace(/^ +/, '').length)
      if (by < 0 && spaces) changes.push({ from: line.from, to: line.from + spaces })
    }
    if (changes.length) view.dispatch({ changes, userEvent: 'indent' })
    return true
  }

/** Moves the line at the cursor, with what hangs beneath it, past its neighbour. */
const move =
  (down: boolean): Command =>
  (view) => {
    const { state } = view
    const [first, last] = chosen(state)
    const depth = readLine(state.doc.line(first).text).indent
    let from = first
    let to = last
    if (down) {
      if (last >= state.doc.lines) return true
      to = lastBeneath(state, last + 1)
    } else {
      if (first <= 1) return true
      from = first - 1
      while (from > 1 && readLine(state.doc.line(from).text).indent > depth) from--
    }
    const text = (a: number, b: number) => state.sliceDoc(state.doc.line(a).from, state.doc.line(b).to)
    const mine = text(first, last)
    const other = down ? text(last + 1, to) : text(from, first - 1)
    const insert = down ? other + '\n' + mine : mine + '\n' + other
    const begins = state.doc.line(from).from
    const shift = state.selection.main.head - state.doc.line(first).from
    const spec: TransactionSpec = {
      changes: { from: begins, to: state.doc.line(to).to, insert },
      selection: { anchor: begins + (down ? other.length + 1 : 0) + shift },
      scrollIntoView: true,
      userEvent: 'move',
    }
    view.dispatch(spec)
    return true
  }

const fold: Command = (view) => {
  const line = view.state.doc.lineAt(view.state.selection.main.head)
  if (unfoldCode(view)) return true
  if (foldCode(view)) return true
  // Within a branch: fold what it hangs on.
  const depth = readLine(line.text).indent
  for (let n = line.number - 1; n > 0; n--) {
    const above = view.state.doc.line(n)
    const read = readLine(above.text)
    if (read.role === 'blank' || read.indent >= depth) continue
    const range = foldable(view.state, above.from, above.to)
    if (range) view.dispatch({ effects: foldEffect.of(range), selection: { anchor: above.to } })
    return true
  }
  return true
}

/** Finds the line at which a turn of a name begins, 0 for none. */
function lineOf(state: EditorState, turn: string): number {
  for (let n = 1; n <= state.doc.lines; n++) {
    const text = state.doc.line(n).text
    if (readLine(text).name === turn || new RegExp(`: ${turn}: `).test(text)) return n
  }
  return 0
}

const follow =
  (trail: number[]): Command =>
  (view) => {
    const line = view.state.doc.lineAt(view.state.selection.main.head)
    const to = jumpOf(line.text)
    const at = to ? lineOf(view.state, to) : 0
    if (!at) return false
    trail.push(view.state.selection.main.head)
    goTo(view, at)
    return true
  }

const back =
  (trail: number[]): Command =>
  (view) => {
    const at = trail.pop()
    if (at === undefined) return false
    view.dispatch({ selection: { anchor: Math.min(at, view.state.doc.length) }, scrollIntoView: true })
    return true
  }

/** Puts the cursor at the end of a line, and the line into the middle. */
export function goTo(view: EditorView, number: number) {
  const line = view.state.doc.line(Math.min(Math.max(number, 1), view.state.doc.lines))
  view.dispatch({
    selection: { anchor: line.to },
    effects: EditorView.scrollIntoView(line.from, { y: 'center' }),
  })
}

export function scriptKeys(rename: (turn: string) => void): KeyBinding[] {
  const trail: number[] = [] // where jumps were begun, the last first to go back to
  return [
    { key: 'Enter', run: enter },
    { key: 'Tab', run: indent(2), shift: indent(-2) },
    { key: 'Alt-ArrowUp', run: move(false) },
    { key: 'Alt-ArrowDown', run: move(true) },
    { key: 'Mod-.', run: fold },
    { key: 'Mod-ArrowRight', run: follow(trail) },
    { key: 'Mod-ArrowLeft', run: back(trail) },
    {
      key: 'F2',
      run: (view) => {
        const text = view.state.doc.lineAt(view.state.selection.main.head).text
        rename(readLine(text).name || jumpOf(text))
        return true
      },
    },
  ]
}
