import dayjs from 'dayjs'
import customParseFormat from 'dayjs/plugin/customParseFormat.js'

dayjs.extend(customParseFormat)

// How a day is written: the first is shown, the others are understood when they are typed. The day
// always comes before the month, whatever the browser is set to.
const days = ['D MMM YYYY', 'D MMMM YYYY', 'D.M.YYYY', 'D/M/YYYY', 'D-M-YYYY', 'YYYY-MM-DD']
const times = [...days.flatMap((d) => [`${d} HH:mm`, `${d} H:mm`, `${d}, HH:mm`]), 'YYYY-MM-DDTHH:mm']

/** The form in which values are kept: 2026-03-02, or 2026-03-02T09:30 on the clocks of a help centre. */
const kept = (time: boolean) => (time ? 'YYYY-MM-DDTHH:mm' : 'YYYY-MM-DD')

/** A kept day, or moment, as it is shown; "" for none. */
export function shownDay(value: string, time: boolean): string {
  const day = dayjs(value, kept(time), true)
  return day.isValid() ? day.format(time ? 'D MMM YYYY HH:mm' : 'D MMM YYYY') : ''
}

/** What was typed without what makes no difference: spaces, capitals, a zero before a day or a month. */
function tidy(typed: string): string {
  const text = typed.trim().replace(/\s+/g, ' ')
  const named = text.replace(/[a-z]+/i, (m) => m.charAt(0).toUpperCase() + m.slice(1).toLowerCase())
  return /^\d{4}-/.test(named) ? named : named.replace(/(^|[./-])0(\d)(?=[ ./-])/g, '$1$2')
}

/** What somebody typed as it is kept; "" for nothing, undefined for what is no day. */
export function readDay(typed: string, time: boolean): string | undefined {
  const text = tidy(typed)
  if (!text) return ''
  for (const format of time ? times : days) {
    const day = dayjs(text, format, true)
    if (day.isValid()) return day.format(kept(time))
  }
  return undefined
}
