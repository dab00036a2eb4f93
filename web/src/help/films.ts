/** Loads a film from elsewhere in place of its link, once a reader asks for it. */
export function playFilms() {
  document.addEventListener('click', (e) => {
    const link = (e.target as HTMLElement).closest<HTMLAnchorElement>('a.film')
    if (!link || e.ctrlKey || e.metaKey || e.shiftKey) return
    e.preventDefault()
    const player = /\.(mp4|webm)(\?|$)/.test(link.href) ? film(link.href) : frame(link.href)
    link.replaceWith(player)
    player.focus()
  })
}

function film(address: string) {
  const video = document.createElement('video')
  Object.assign(video, { src: address, controls: true, autoplay: true, tabIndex: 0 })
  return video
}

function frame(address: string) {
  const inner = document.createElement('iframe')
  Object.assign(inner, { src: address, title: 'Film', allow: 'fullscreen; encrypted-media' })
  inner.setAttribute('sandbox', 'allow-scripts allow-same-origin allow-presentation')
  return inner
}
