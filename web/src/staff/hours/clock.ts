import type { Schemas } from '../../shared/api/client'

const two = (n: number) => String(n).padStart(2, '0')

/** Spans of a day as they are typed: "08:00–12:00, 13:00–18:00"; a span over midnight ends the next day. */
export function writeSpans(spans: Schemas['Stretch'][]): string {
  const clock = (m: number) => `${two(Math.floor(m / 60) % 24)}:${two(m % 60)}`
  return spans.map((s) => `${clock(s.from)}–${s.to % 1440 === 0 ? '24:00' : clock(s.to)}`).join(', ')
}

/** Reads them; nothing where they cannot be read. */
export function readSpans(text: string): Schemas['Stretch'][] | undefined {
  const spans: Schemas['Stretch'][] = []
  for (const part of text.split(/[,;]/)) {
    if (!part.trim()) continue
    const m = /^\s*(\d{1,2})(?:[:.](\d{2}))?\s*(?:-|–|to)\s*(\d{1,2})(?:[:.](\d{2}))?\s*$/.exec(part)
    if (!m) return undefined
    const from = Number(m[1]) * 60 + Number(m[2] ?? 0)
    let to = Number(m[3]) * 60 + Number(m[4] ?? 0)
    if (from >= 1440 || to > 1440 || Number(m[2] ?? 0) > 59 || Number(m[4] ?? 0) > 59) return undefined
    if (to <= from) to += 1440
    spans.push({ from, to })
  }
  return spans
}
