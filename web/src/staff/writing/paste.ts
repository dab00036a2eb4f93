/**
 * Cleans what a word processor puts on the clipboard: its own elements and comments
 * go, bold and italic by style become marks, paragraphs that only look like a list
 * become one. What is left is what the text can hold; the server sanitises it again.
 */
export function cleanPasted(html: string): string {
  const from = html.replace(/<!--[\s\S]*?-->/g, '').replace(/<!\[[^\]]*\]>/g, '')
  const page = new DOMParser().parseFromString(from, 'text/html')
  const all = (selector: string) => [...page.body.querySelectorAll<HTMLElement>(selector)]

  all('style, script, meta, link, title, xml').forEach((e) => e.remove())
  all('*')
    .filter((e) => e.tagName.includes(':'))
    .forEach(unwrap)
  lists(page)
  all('b, strong').forEach((e) => /^(normal|[1-4]00)$/.test(e.style.fontWeight) && unwrap(e))
  all('span, font').forEach((e) => {
    if (/^(bold|[6-9]00)$/.test(e.style.fontWeight)) wrapInside(e, 'strong')
    if (e.style.fontStyle === 'italic') wrapInside(e, 'em')
    unwrap(e)
  })
  all('h1').forEach((e) => rename(e, 'h2'))
  all('h5, h6').forEach((e) => rename(e, 'h4'))
  all('div, section, article').forEach((e) =>
    e.querySelector('p, ul, ol, table, h2, h3, h4, div, pre') ? unwrap(e) : rename(e, 'p'),
  )
  all('a[name]:not([href])').forEach(unwrap)
  // Pictures of the clipboard live on the writer's disk; they come as files, if at all.
  all('img').forEach((e) => !e.getAttribute('src')?.startsWith('/files/') && e.remove())
  all('*').forEach((e) => {
    for (const { name } of [...e.attributes])
      if (!keep(e.tagName.toLowerCase(), name)) e.removeAttribute(name)
  })
  all('p').forEach(
    (e) => !e.textContent?.replace(/\u00a0/g, ' ').trim() && !e.querySelector('img') && e.remove(),
  )
  return page.body.innerHTML.replace(/&nbsp;|\u00a0/g, ' ').replace(/\s+(<\/(?:p|h[2-4]|li|td|th)>)/g, '$1')
}

const kept: Record<string, string[]> = {
  a: ['href', 'download'],
  img: ['src', 'alt'],
  td: ['colspan', 'rowspan'],
  th: ['colspan', 'rowspan'],
  ol: ['start'],
  aside: ['data-callout'],
  figure: ['data-video'],
  video: ['src', 'controls'],
  code: ['class'],
}
// The editor's own copies say what they were cut from in data-pm-slice.
const keep = (tag: string, name: string) => name === 'data-pm-slice' || !!kept[tag]?.includes(name)

function unwrap(e: Element) {
  e.replaceWith(...e.childNodes)
}

function rename(e: Element, tag: string) {
  const now = document.createElement(tag)
  now.append(...e.childNodes)
  e.replaceWith(now)
}

function wrapInside(e: Element, tag: string) {
  const inner = document.createElement(tag)
  inner.append(...e.childNodes)
  e.append(inner)
}

/** Paragraphs that are list items by style alone ("mso-list: l0 level2 lfo1") become lists. */
function lists(page: Document) {
  const items = [
    ...page.body.querySelectorAll<HTMLElement>('p[style*="mso-list"], p[class*="MsoListParagraph"]'),
  ].filter((p) => /level\d/.test(p.getAttribute('style') ?? '') || marker(p))
  let open: { list: HTMLElement; level: number }[] = []
  let last: Element | null = null
  for (const p of items) {
    const level = Number(/level(\d)/.exec(p.getAttribute('style') ?? '')?.[1] ?? 1)
    const ordered = /^\(?(\d+|[a-z]|[ivx]+)[.)]/i.test(marker(p))
    takeMarker(p)
    if (!last || p.previousElementSibling !== last) open = []
    while (open.length && (open.at(-1)?.level ?? 0) > level) open.pop()
    if (!open.length || (open.at(-1)?.level ?? 0) < level) {
      const list = page.createElement(ordered ? 'ol' : 'ul')
      const outer = open.at(-1)?.list.lastElementChild
      if (outer) outer.append(list)
      else p.before(list)
      open.push({ list, level })
    }
    const li = page.createElement('li')
    const line = page.createElement('p')
    line.append(...p.childNodes)
    li.append(line)
    open.at(-1)?.list.append(li)
    p.remove()
    last = open[0]?.list ?? null
  }
}

const markers = /^[\s\u00a0]*([·•§o▪–-]|\(?(?:\d+|[a-z]|[ivx]+)[.)])[\s\u00a0]+/i

function marker(p: Element): string {
  const ignored = p.querySelector('[style*="mso-list:Ignore"], [style*="mso-list: Ignore"]')
  return (ignored?.textContent ?? markers.exec(p.textContent ?? '')?.[1] ?? '').trim()
}

function takeMarker(p: Element) {
  const ignored = p.querySelector('[style*="mso-list:Ignore"], [style*="mso-list: Ignore"]')
  if (ignored) {
    ignored.remove()
    return
  }
  const first = document.createTreeWalker(p, NodeFilter.SHOW_TEXT).nextNode()
  if (first) first.textContent = (first.textContent ?? '').replace(markers, '')
}
