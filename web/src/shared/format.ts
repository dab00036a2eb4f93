const locale = 'en-GB'
const clock = new Intl.DateTimeFormat(locale, { hour: '2-digit', minute: '2-digit' })
const dayOnly = new Intl.DateTimeFormat(locale, { day: 'numeric', month: 'short' })
const withYear = new Intl.DateTimeFormat(locale, { day: 'numeric', month: 'short', year: 'numeric' })
const full = new Intl.DateTimeFormat(locale, { dateStyle: 'medium', timeStyle: 'medium' })
const relative = new Intl.RelativeTimeFormat(locale, { numeric: 'auto' })

/** The whole date and time, for a title on hover. */
export const exact = (iso: string) => full.format(new Date(iso))

export const time = (iso: string) => clock.format(new Date(iso))

export const day = (iso: string) => dayOnly.format(new Date(iso))

/** A day with its year. */
export const fullDay = (iso: string) => withYear.format(new Date(iso))

/** How long ago, or how far ahead, in the largest fitting unit. */
export function ago(iso: string, now = Date.now()): string {
  const seconds = (new Date(iso).getTime() - now) / 1000
  const size = Math.abs(seconds)
  if (size < 45) return 'just now'
  if (size < 45 * 60) return relative.format(Math.round(seconds / 60), 'minute')
  if (size < 22 * 3600) return relative.format(Math.round(seconds / 3600), 'hour')
  if (size < 26 * 86400) return relative.format(Math.round(seconds / 86400), 'day')
  return day(iso)
}

/** A waiting time that runs: 0:42, 12:05, 3 h 20 min, 2 d 4 h. */
export function waited(iso: string, now: number): string {
  const s = Math.max(0, Math.floor((now - new Date(iso).getTime()) / 1000))
  if (s < 3600) return `${Math.floor(s / 60)}:${String(s % 60).padStart(2, '0')}`
  if (s < 86400) return `${Math.floor(s / 3600)} h ${Math.floor((s % 3600) / 60)} min`
  return `${Math.floor(s / 86400)} d ${Math.floor((s % 86400) / 3600)} h`
}

/** A share (0 to 1) in per cent. */
export const percent = (share: number, digits = 0) => (100 * share).toFixed(digits) + ' %'

export const count = (n: number) => n.toLocaleString('en-GB').replace(/,/g, ' ')

/** "1 question", "2 questions". */
export const counted = (n: number, one: string, many = one + 's') => `${count(n)} ${n === 1 ? one : many}`

/** The size of a file. */
export const kilobytes = (bytes: number) =>
  bytes < 1e6 ? `${Math.ceil(bytes / 1024)} kB` : `${(bytes / 1048576).toFixed(1)} MB`
