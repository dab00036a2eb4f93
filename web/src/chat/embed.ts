// One line puts the chat on any page:
//   <script src="https://help.example/embed.js" data-hermeneus="https://help.example" async></script>
const line = document.querySelector<HTMLScriptElement>('script[data-hermeneus]')
const home = line?.dataset.hermeneus?.replace(/\/$/, '') ?? ''

const button = document.createElement('button')
button.type = 'button'
button.textContent = 'Ask us'
button.setAttribute('aria-expanded', 'false')
const colours = { background: '#1d5140', color: '#ffffff' }
Object.assign(button.style, colours, {
  position: 'fixed',
  right: '24px',
  bottom: '24px',
  zIndex: '2147483000',
  font: '600 16px system-ui, sans-serif',
  padding: '10px 20px',
  border: '0',
  borderRadius: '4px',
  cursor: 'pointer',
})

let frame: HTMLIFrameElement | undefined
function toggle() {
  if (!frame) {
    frame = document.createElement('iframe')
    // The page without what may be somebody's own: no query, no fragment.
    frame.src = `${home}/chat?page=${encodeURIComponent(location.origin + location.pathname)}`
    frame.title = 'Chat'
    Object.assign(frame.style, {
      position: 'fixed',
      right: '24px',
      bottom: '80px',
      zIndex: '2147483000',
      width: 'min(400px, calc(100vw - 32px))',
      height: 'min(620px, calc(100vh - 110px))',
      border: '1px solid #aab5a8',
      borderRadius: '4px',
      background: '#ffffff',
    })
    frame.hidden = true
    document.body.append(frame)
  }
  frame.hidden = !frame.hidden
  button.textContent = frame.hidden ? 'Ask us' : 'Close'
  button.setAttribute('aria-expanded', String(!frame.hidden))
}
button.addEventListener('click', toggle)
document.body.append(button)
export {}
