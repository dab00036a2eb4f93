/** The lines of the text that is shown, counted as the server counts them. */
function lines(): HTMLElement[] {
  const root = document.querySelector('.ProseMirror')
  const all = [...(root?.querySelectorAll<HTMLElement>('p, h2, h3, h4, pre, summary, figcaption') ?? [])]
  // An empty paragraph between blocks is not part of the text that is kept.
  return all.filter(
    (e) => !(e.tagName === 'P' && e.parentElement === root && !e.textContent && !e.querySelector('img')),
  )
}

export const lineAt = (index: number): HTMLElement | undefined => lines()[index]

/** How far from the top of the window a line stands. */
export const lineTop = (index: number): number => lineAt(index)?.getBoundingClientRect().top ?? 0
