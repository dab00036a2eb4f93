import type {
  Completion,
  CompletionContext,
  CompletionResult,
  CompletionSource,
} from '@codemirror/autocomplete'
import { api, call, type Schemas } from '../../shared/api/client'
import { readLine } from './scriptLines'

type Words = Schemas['FlowWords']

/** What the completions are made of: what a script can name, and the names of its own turns. */
export interface Named {
  words: () => Words | undefined
  turns: () => string[]
  facts: () => string[]
}

const options = (list: string[], type: string, apply = (w: string) => w): Completion[] =>
  list.map((label) => ({ label, type, apply: apply(label) }))

/** The line above that a line hangs on, "" at the left edge. */
function above(context: CompletionContext): string {
  const doc = context.state.doc
  const line = doc.lineAt(context.pos)
  const depth = readLine(line.text).indent
  for (let n = line.number - 1; n > 0; n--) {
    const read = readLine(doc.line(n).text)
    if (read.role !== 'blank' && read.indent < depth) return read.word || (read.role === 'said' ? 'say' : '')
  }
  return ''
}

const beneath: Record<string, string[]> = {
  choose: ['- ', 'else'],
  ask: ['wrong', 'nothing', '- '],
  suggest: ['yes', 'no', 'nothing'],
  'look up': ['yes', 'no', 'weak', 'nothing', 'at most'],
  branch: ['when', 'else'],
  'hand over': ['busy', 'closed', 'details', 'brief', 'stays'],
  request: ['details', 'brief', 'form'],
}

function first(context: CompletionContext, w: Words): CompletionResult | null {
  const line = context.state.doc.lineAt(context.pos)
  const typed = /^(\s*(?:\p{Ll}[\p{Ll}\p{Nd}-]*:\s+|(?:yes|no|nothing|weak|else):?\s+)?)([a-z -]*)$/u.exec(
    line.text.slice(0, context.pos - line.from),
  )
  if (!typed || (!typed[2] && !context.explicit)) return null
  const on = beneath[above(context)] ?? []
  const known = [...w.leads, ...w.details].filter((s) => on.includes(s.word))
  const all = [
    ...known.map((s) => ({
      label: s.word,
      detail: s.about,
      type: 'keyword',
      boost: 2,
      apply: s.word.endsWith(' ') ? s.word : s.word + ' ',
    })),
    ...w.kinds.map((s) => ({ label: s.word, detail: s.about, type: 'keyword', apply: s.word + ' ' })),
  ]
  return { from: line.from + (typed[1] ?? '').length, options: all, validFor: /^[a-z -]*$/ }
}

async function articles(
  context: CompletionContext,
  from: number,
  words: string,
): Promise<CompletionResult | null> {
  if (!words.trim()) return null
  const found = await call(api.GET('/api/staff/find', { params: { query: { words } } }))
  if (context.aborted) return null
  return {
    from,
    filter: false,
    options: found.slice(0, 8).map((f) => ({
      label: f.title.map((r) => r.text).join(''),
      detail: f.reference + (f.live ? '' : ', not live'),
      apply: f.reference.split('.')[0] ?? '',
      type: 'text',
    })),
  }
}

/** Completes what a script can name, as one types. */
export function scriptWords(named: Named): CompletionSource {
  return (context) => {
    const w = named.words()
    if (!w) return null
    const line = context.state.doc.lineAt(context.pos)
    const before = line.text.slice(0, context.pos - line.from)
    const at = (m: RegExpExecArray) => context.pos - (m.at(-1) ?? '').length
    const of = (pattern: RegExp, list: () => Completion[]): CompletionResult | null => {
      const m = pattern.exec(before)
      return m ? { from: at(m), options: list(), validFor: /^[^\]:,]*$/ } : null
    }
    const found = /\bsuggest\s+(?:\S+,\s*)*([^:,]*)$/.exec(before)
    if (found) return articles(context, at(found), found[1] ?? '')
    return (
      of(/\[([^\],]*)$/, () =>
        options([...named.facts(), ...w.facts], 'variable', (f) => `${f}, else ""]`),
      ) ??
      of(/\bgo to flow\s+(\S*)$/, () => options(w.flows, 'namespace')) ??
      of(/(?:\bgo to|->|→)\s+(\S*)$/, () => options(named.turns(), 'property')) ??
      of(/(?:^\s*form:|\blink form)\s+([^:]*)$/, () =>
        w.forms.map((f) => ({ label: f.key, detail: f.name, type: 'class' })),
      ) ??
      of(/\b(?:hand over|request)\s+([^:]*)$/, () => options(w.teams, 'class', (t) => t + ': ')) ??
      of(/^\s*for:?\s+(?:[^,]+,\s*)*([^,]*)$/, () =>
        w.groups.map((g) => ({ label: g.key, detail: g.name, type: 'class' })),
      ) ??
      of(/\bask\s+[^(:]+\((?:[^,)]+,\s*)*([^,)]*)$/, () =>
        options([...w.wants, 'personal', 'may be skipped'], 'type'),
      ) ??
      of(/\bgroup is(?: not)?\s+(\S*)$/, () =>
        w.groups.map((g) => ({ label: g.key, detail: g.name, type: 'class' })),
      ) ??
      of(/\bwhen\s+(?:.*\band\s+)?(.*)$/, () => [
        ...options(
          w.conditions.filter((c) => !c.includes('…')),
          'keyword',
        ),
        ...w.teams.flatMap((t) =>
          ['free', 'busy', 'away', 'open', 'closed'].map((s) => ({ label: `${t} is ${s}`, type: 'keyword' })),
        ),
        ...w.groups.map((g) => ({ label: `group is ${g.key}`, type: 'keyword' })),
        ...w.languages.map((l) => ({ label: `language is ${l}`, type: 'keyword' })),
        ...named.facts().map((f) => ({ label: `[${f}] is known`, type: 'keyword' })),
      ]) ??
      first(context, w)
    )
  }
}
