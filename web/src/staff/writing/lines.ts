import { who } from '../session'
import { quoteOf, spanOf } from './passage'

/** The text that is shown: in the editor, or marked as text where it is only read. */
const textShown = () => document.querySelector<HTMLElement>('.ProseMirror, [data-text]')

/** Whether a node is only shown as what went. */
const gone = (n: Node) =>
  !!(n instanceof Element ? n : n.parentElement)?.closest('del, [data-change="removed"]')

/** The lines of the text that is shown, counted as the server counts them. */
function lines(): HTMLElement[] {
  const root = textShown()
  const holding = who.value?.rules.line_elements.join(', ')
  const all = holding && root ? [...root.querySelectorAll<HTMLElement>(holding)] : []
  // An empty paragraph between blocks is not part of the text that is kept.
  return all.filter(
    (e) =>
      !gone(e) &&
      !(e.tagName === 'P' && e.parentElement === root && !e.textContent && !e.querySelector('img')),
  )
}

export const lineAt = (index: number): HTMLElement | undefined => lines()[index]

/** How far from the top of the window a line stands. */
export const lineTop = (index: number): number => lineAt(index)?.getBoundingClientRect().top ?? 0

/** The runs of a line's text, without what went. */
function runs(line: HTMLElement): Text[] {
  const walker = document.createTreeWalker(line, NodeFilter.SHOW_TEXT)
  const list: Text[] = []
  for (let n = walker.nextNode(); n; n = walker.nextNode()) if (!gone(n)) list.push(n as Text)
  return list
}

/** Where a passage stands on the page, or nothing when it is not shown. */
export function passageRange(line: number, quote: string): Range | undefined {
  const e = lineAt(line)
  if (!e) return undefined
  const nodes = runs(e)
  const span = spanOf(
    nodes.map((n) => n.data),
    quote,
  )
  const first = span && nodes[span.from.run]
  const last = span && nodes[span.to.run]
  if (!first || !last) return undefined
  const range = document.createRange()
  range.setStart(first, span.from.offset)
  range.setEnd(last, span.to.offset)
  return range
}

export interface Marked {
  line: number
  quote: string
  occurrence: number
}

/** The passage that is selected in the text; of several lines the first. */
export function markedPassage(): Marked | undefined {
  const selection = getSelection()
  const root = textShown()
  if (!selection?.rangeCount || selection.isCollapsed || !root?.contains(selection.anchorNode))
    return undefined
  const range = selection.getRangeAt(0)
  for (const [line, e] of lines().entries()) {
    if (!range.intersectsNode(e)) continue
    const nodes = runs(e)
    const within = nodes.flatMap((n, run) => (range.intersectsNode(n) ? [{ n, run }] : []))
    const [first, last] = [within[0], within.at(-1)]
    if (!first || !last) continue
    const marked = quoteOf(
      nodes.map((n) => n.data),
      { run: first.run, offset: first.n === range.startContainer ? range.startOffset : 0 },
      { run: last.run, offset: last.n === range.endContainer ? range.endOffset : last.n.length },
    )
    if (marked) return { line, ...marked }
  }
  return undefined
}

/** Paints passages in the text, where the browser can; it changes nothing of the page. */
export function paintPassages(name: string, passages: { line: number; quote: string }[]) {
  if (!('highlights' in CSS)) return
  const ranges = passages.map((p) => passageRange(p.line, p.quote)).filter((r): r is Range => !!r)
  CSS.highlights.set(name, new Highlight(...ranges))
}
