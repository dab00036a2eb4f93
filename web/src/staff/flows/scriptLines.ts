/** What a line of a script begins with, for its look and for what the keys do. What it means, the server says. */
export interface ScriptLine {
  indent: number // characters before the first word
  name: string // of the turn, "" for none
  nameEnd: number // where the name and its colon end, from the beginning of the line; indent where there is none
  word: string // the word that it begins with: a kind, a lead, a detail; "" for none
  wordEnd: number // where that ends, with the space after it
  role: Role
}

type Role =
  'title' | 'said' | 'option' | 'program' | 'lead' | 'detail' | 'language' | 'whenever' | 'note' | 'blank'

const kinds = 'say|choose|ask|suggest|look up|branch|hand over|request|link|rate|close|go to'
const leads = 'yes|no|nothing|weak|else|when|busy|closed'
const details = 'wrong|brief|details|stays|pattern|form|for|at most'
const named = /^(\p{Ll}[\p{Ll}\p{Nd}-]*):(?:\s+|$)/u
const reserved = new RegExp(`^(?:${kinds}|${leads}|${details}|flow|whenever|..)$`, 'u')
const beginsWith = (words: string) => new RegExp(`^(${words})(?=[ :]|$):?\\s*`)
const kindWord = beginsWith(kinds)
const leadWord = beginsWith(leads)
const detailWord = beginsWith(details)
const languageWord = /^([a-z]{2}(?:-[A-Z]{2})?):\s*/

const program = new Set(['branch', 'hand over', 'request', 'go to', 'look up', 'suggest', 'link'])

/** Reads one line of a script. */
export function readLine(text: string): ScriptLine {
  const indent = text.length - text.trimStart().length
  const rest = text.slice(indent)
  const line: ScriptLine = { indent, name: '', nameEnd: indent, word: '', wordEnd: indent, role: 'said' }
  if (!rest) return { ...line, role: 'blank' }
  if (rest.startsWith('//')) return { ...line, role: 'note' }
  if (rest.startsWith('/')) return { ...line, role: 'language' }
  if (/^flow(\s|$)/.test(rest)) return { ...line, word: 'flow', wordEnd: indent + 5, role: 'title' }
  if (/^whenever(\s|$)/.test(rest))
    return { ...line, word: 'whenever', wordEnd: indent + 9, role: 'whenever' }
  if (rest === '-' || rest.startsWith('- '))
    return { ...line, word: '-', wordEnd: indent + 2, role: 'option' }
  const lead = leadWord.exec(rest)
  if (lead) return { ...line, word: lead[1] ?? '', wordEnd: indent + lead[0].length, role: 'lead' }
  const detail = detailWord.exec(rest)
  if (detail) return { ...line, word: detail[1] ?? '', wordEnd: indent + detail[0].length, role: 'detail' }
  const language = languageWord.exec(rest)
  if (language)
    return { ...line, word: language[1] ?? '', wordEnd: indent + language[0].length, role: 'language' }
  const name = named.exec(rest)
  if (name && !reserved.test(name[1] ?? '')) {
    line.name = name[1] ?? ''
    line.nameEnd = line.wordEnd = indent + name[0].length
  }
  const kind = kindWord.exec(text.slice(line.nameEnd))
  if (kind) {
    line.word = kind[1] ?? ''
    line.wordEnd = line.nameEnd + kind[0].length
    if (program.has(line.word)) line.role = 'program'
  }
  return line
}

/** Where a line jumps to: the name of a turn, "" for none. */
export function jumpOf(text: string): string {
  const arrow = /(?:->|→)\s*(\p{Ll}[\p{Ll}\p{Nd}-]*)\s*$/u.exec(text)
  if (arrow) return arrow[1] ?? ''
  const goes = /(?:^|[:\s])go to\s+(?!flow\b)(\p{Ll}[\p{Ll}\p{Nd}-]*)\s*$/u.exec(text)
  return goes?.[1] ?? ''
}

/** How deep a line stands that follows another one, and what it begins with, when Enter is typed at its end. */
export function nextLine(text: string): string {
  const line = readLine(text)
  const here = ' '.repeat(line.indent)
  if (line.word === 'choose') return here + '  - '
  if (line.word === 'branch') return here + '  when '
  // What hangs on the same line already is followed by its neighbour.
  const open = line.word === 'when' ? !text.includes(': ') : text.length <= line.wordEnd
  const hangs = line.role === 'option' || line.role === 'whenever' || (line.role === 'lead' && open)
  if (hangs && !jumpOf(text)) return here + '  '
  if (line.role === 'option') return here + '- '
  return here
}
