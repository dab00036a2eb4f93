/** The key of the page's visitor, which the page carries, so that blocked cookies do not hide a person. */
const key =
  typeof document === 'undefined'
    ? undefined
    : document.querySelector<HTMLMetaElement>('meta[name=visit]')?.content

/** The headers that say whose visit it is. */
export const visitHeaders = (): Record<string, string> => (key ? { 'Hermeneus-Visit': key } : {})

/** Sends what a page reports; true when the server took it. */
export async function report(path: string, body?: object): Promise<Response> {
  const headers = { ...visitHeaders(), ...(body ? { 'Content-Type': 'application/json' } : {}) }
  return fetch(path, { method: 'POST', headers, body: body && JSON.stringify(body), keepalive: true })
}

const told = 'hermeneus:seen'

/** Tells the server, once for each visit, that somebody looks: no script, no link preview does that. */
export function beSeen() {
  if (!key || document.visibilityState !== 'visible') return
  try {
    if (sessionStorage.getItem(told) === key) return
    sessionStorage.setItem(told, key)
  } catch {
    // Without storage it is told on every page.
  }
  void report('/api/help/seen').catch(() => undefined)
}
