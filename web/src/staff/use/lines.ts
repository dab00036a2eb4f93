/** The text that is shown: in the editor, or marked as text where it is only read. */
const textShown = () => document.querySelector<HTMLElement>('.ProseMirror, [data-text]')

/** Whether a node is only shown as what went. */
const gone = (n: Node) =>
  !!(n instanceof Element ? n : n.parentElement)?.closest('del, [data-change="removed"]')

/** The lines of the text that is shown, counted as the server counts them. */
function lines(): HTMLElement[] {
  const root = textShown()
  const all = [...(root?.querySelectorAll<HTMLElement>('p, h2, h3, h4, pre, summary, figcaption') ?? [])]
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

/** The words of a line, without what went, and where each run of them stands. */
function runs(line: HTMLElement) {
  const walker = document.createTreeWalker(line, NodeFilter.SHOW_TEXT)
  const list: { node: Text; from: number }[] = []
  let text = ''
  for (let n = walker.nextNode(); n; n = walker.nextNode()) {
    if (gone(n)) continue
    list.push({ node: n as Text, from: text.length })
    text += n.textContent ?? ''
  }
  return { text, list }
}

/** Where a passage stands on the page, or nothing when it is not shown. */
export function passageRange(line: number, quote: string): Range | undefined {
  const e = lineAt(line)
  if (!e || !quote) return undefined
  const { text, list } = runs(e)
  const at = text.indexOf(quote)
  if (at < 0) return undefined
  const range = document.createRange()
  const place = (offset: number, end: boolean) => {
    const run = list.findLast((r) => (end ? r.from < offset : r.from <= offset)) ?? list[0]
    return run ? ([run.node, offset - run.from] as const) : undefined
  }
  const from = place(at, false)
  const to = place(at + quote.length, true)
  if (!from || !to) return undefined
  range.setStart(...from)
  range.setEnd(...to)
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
    const { text, list } = runs(e)
    let quote = ''
    let start = -1
    for (const r of list) {
      if (!range.intersectsNode(r.node)) continue
      const from = r.node === range.startContainer ? range.startOffset : 0
      const to = r.node === range.endContainer ? range.endOffset : r.node.length
      if (to <= from) continue
      if (start < 0) start = r.from + from
      quote += r.node.data.slice(from, to)
    }
    start += quote.length - quote.trimStart().length
    quote = quote.trim()
    if (!quote) continue
    let occurrence = 0
    for (let at = text.indexOf(quote); at >= 0 && at < start; at = text.indexOf(quote, at + quote.length))
      occurrence++
    return { line, quote, occurrence }
  }
  return undefined
}

/** Paints passages in the text, where the browser can; it changes nothing of the page. */
export function paintPassages(name: string, passages: { line: number; quote: string }[]) {
  if (!('highlights' in CSS)) return
  const ranges = passages.map((p) => passageRange(p.line, p.quote)).filter((r): r is Range => !!r)
  CSS.highlights.set(name, new Highlight(...ranges))
}
