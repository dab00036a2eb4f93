const carried = (name: string) =>
  typeof document === 'undefined'
    ? undefined
    : document.querySelector<HTMLMetaElement>(`meta[name=${name}]`)?.content

/** The key of the page's visitor, which the page carries, so that blocked cookies do not hide a person. */
const key = carried('visit')
/** The key of the mail whose link opened the page: what is done here belongs to that contact. */
const contact = carried('contact')
/** The address that the chat stands on, where it is embedded. */
const stands =
  typeof location === 'undefined' || location.pathname !== '/chat'
    ? undefined
    : (new URLSearchParams(location.search).get('page') ?? undefined)

/** The headers that say whose visit it is, and where. */
export const visitHeaders = (): Record<string, string> => ({
  ...(key ? { 'Hermeneus-Visit': key } : {}),
  ...(contact ? { 'Hermeneus-Contact': contact } : {}),
  ...(stands ? { 'Hermeneus-Page': encodeURI(decodeURI(stands)) } : {}),
})

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
