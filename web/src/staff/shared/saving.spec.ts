import { expect, test } from '@playwright/test'
import { RetryAfter, SaveAfter, Saving, type Kept, type Refusal, type Save, type Status } from './saving'

/** A server that keeps one text, and does the same save once. */
class Server {
  version = 1
  text = ''
  made = new Map<string, number>()
  taken: Save<string>[] = []

  save(s: Save<string>): number {
    const before = this.made.get(s.key)
    if (before) return before
    if (s.version !== this.version) throw new Error('stale')
    this.taken.push(s)
    this.text = s.text
    this.made.set(s.key, ++this.version)
    return this.version
  }
}

/** A browser's tab: what is typed, what it keeps, and timers that the test lets run out. */
class Tab {
  text: string
  kept: Kept<string> | undefined
  timers: { work: () => void; ms: number }[] = []
  statuses: Status[] = []
  keys = 0
  sending: (save: Save<string>) => Promise<number>
  readonly saving: Saving<string>

  constructor(
    readonly server: Server,
    kept?: Kept<string>,
    readonly name = 'tab',
  ) {
    this.kept = kept
    this.sending = async (save) => server.save(save)
    this.saving = new Saving<string>({
      text: () => this.text,
      send: (save) => this.sending(save),
      judge: (e): Refusal => {
        const said = (e as Error).message
        if (said === 'lost') return 'again'
        if (said === 'stale' || said === 'held' || said === 'refused') return said
        throw e
      },
      keep: (k) => (this.kept = JSON.parse(JSON.stringify(k)) as Kept<string>),
      forget: () => (this.kept = undefined),
      wait: (work, ms) => {
        const timer = { work, ms }
        this.timers.push(timer)
        return () => {
          this.timers = this.timers.filter((t) => t !== timer)
        }
      },
      key: () => `${name}-${++this.keys}`,
      now: () => '2026-03-02T09:00:00Z',
      changed: (s) => this.statuses.push(s),
    })
    this.text = this.saving.begin(server.version, server.text, kept)
  }

  type(text: string) {
    this.text = text
    this.saving.typed()
  }

  /** Lets the timer that is set run out, and everything that comes of it happen. */
  async timeOut() {
    this.timers.shift()?.work()
    await settle()
  }
}

const settle = async () => {
  for (let i = 0; i < 12; i++) await Promise.resolve()
}

/** A promise, and what settles it. */
function held<T>() {
  let give: (v: T) => void = () => undefined
  let fail: (e: Error) => void = () => undefined
  const promise = new Promise<T>((a, b) => ((give = a), (fail = b)))
  return { promise, give, fail }
}

test('what is typed is saved after a pause, and then nothing is kept in the browser', async () => {
  const tab = new Tab(new Server())
  tab.type('one')
  expect(tab.kept?.text).toBe('one')
  expect(tab.timers.map((t) => t.ms)).toEqual([SaveAfter])
  await tab.timeOut()
  expect(tab.server.text).toBe('one')
  expect(tab.kept).toBeUndefined()
  expect(tab.saving.status).toBe('saved')
})

test('saves that wait for one another are one after the other, each with the version of the one before', async () => {
  const tab = new Tab(new Server())
  const answers = [held<number>(), held<number>()]
  const sent: Save<string>[] = []
  tab.sending = (save) => {
    const answer = answers[sent.length]
    sent.push(save)
    return answer?.promise.then(() => tab.server.save(save)) ?? Promise.reject(new Error('a third save'))
  }
  tab.type('one')
  const all = [tab.saving.save()]
  tab.type('one two')
  all.push(tab.saving.save(), tab.saving.save(), tab.saving.save())
  await settle()
  expect(sent).toHaveLength(1)
  answers[0]?.give(0)
  await settle()
  answers[1]?.give(0)
  await Promise.all(all)
  expect(sent.map((s) => [s.version, s.text])).toEqual([
    [1, 'one'],
    [2, 'one two'],
  ])
  expect(tab.saving.status).toBe('saved')
  expect(tab.server.text).toBe('one two')
})

test('a save whose answer was lost is sent again under its own key, before what was typed since', async () => {
  const tab = new Tab(new Server())
  tab.sending = async (save) => {
    tab.server.save(save)
    throw new Error('lost')
  }
  tab.type('one')
  await tab.timeOut()
  expect(tab.saving.status).toBe('waiting')
  expect(tab.timers.map((t) => t.ms)).toEqual([RetryAfter])
  tab.type('one two')
  tab.sending = async (save) => tab.server.save(save)
  await tab.timeOut()
  await tab.timeOut()
  expect(tab.saving.status).toBe('saved')
  expect(tab.statuses).not.toContain('stale')
  expect(tab.server.taken.map((s) => s.text)).toEqual(['one', 'one two'])
})

test('a page that is loaded again does not take its own lost answer for somebody else', async () => {
  const server = new Server()
  const first = new Tab(server)
  first.sending = async (save) => {
    server.save(save)
    throw new Error('lost')
  }
  first.type('one')
  await first.timeOut()
  first.type('one two') // kept, and the tab is closed
  const again = new Tab(server, first.kept, 'again')
  expect(again.text).toBe('one two')
  await again.timeOut()
  await again.timeOut()
  expect(again.saving.status).toBe('saved')
  expect(again.statuses).not.toContain('stale')
  expect(server.text).toBe('one two')
})

test('what somebody else saved is never overwritten, and what is typed stays in the browser', async () => {
  const server = new Server()
  const tab = new Tab(server)
  tab.type('mine')
  server.save({ key: 'theirs', version: 1, text: 'theirs' })
  await tab.timeOut()
  expect(tab.saving.status).toBe('stale')
  tab.type('mine, and more')
  expect(tab.timers).toEqual([])
  expect(server.text).toBe('theirs')
  expect(tab.kept?.text).toBe('mine, and more')
  tab.saving.goOn(server.version, server.text)
  await tab.saving.save()
  expect(server.text).toBe('mine, and more')
})

test('what the server refuses stays in the browser, and what is typed then is tried', async () => {
  const tab = new Tab(new Server())
  tab.sending = async () => {
    throw new Error('refused')
  }
  tab.type('too long')
  await tab.timeOut()
  expect(tab.saving.status).toBe('refused')
  expect(tab.kept?.text).toBe('too long')
  tab.sending = async (save) => tab.server.save(save)
  tab.type('short')
  await tab.timeOut()
  expect(tab.saving.status).toBe('saved')
})

test('who comes back to the text that is there has nothing to save', async () => {
  const tab = new Tab(new Server())
  tab.type('one')
  tab.type('')
  expect(tab.saving.status).toBe('saved')
  expect(tab.kept).toBeUndefined()
  expect(tab.timers).toEqual([])
})

/** Numbers that look random and are the same each time (a linear congruential generator; constants of Numerical Recipes). */
function numbers(seed: number) {
  let state = seed
  return (below: number) => {
    state = (1664525 * state + 1013904223) % 2 ** 32
    return Math.floor((state / 2 ** 32) * below)
  }
}

/** A line to the server that loses some saves on the way there, and some answers on the way back. */
function unsteady(tab: Tab, next: (below: number) => number) {
  tab.sending = async (save) => {
    const luck = next(4)
    await settle()
    if (luck === 0) throw new Error('lost') // it never arrived
    const made = tab.server.save(save)
    await settle()
    if (luck === 1) throw new Error('lost') // its answer never did
    return made
  }
}

/** A writer alone, on an unsteady line and with pages that are loaded anew; gives what went wrong. */
async function writeAlone(seed: number): Promise<string[]> {
  const wrong: string[] = []
  const next = numbers(seed)
  const server = new Server()
  const statuses: Status[] = []
  let tab = new Tab(server, undefined, 'tab0')
  unsteady(tab, next)
  let typed = ''
  for (let step = 0; step < 60; step++) {
    const what = next(10)
    if (what < 4) tab.type((typed = `${typed}${step} `))
    else if (what < 6) void tab.saving.save()
    else if (what < 9) await tab.timeOut()
    else {
      await settle()
      tab.saving.stop()
      statuses.push(...tab.statuses)
      tab = new Tab(server, tab.kept, `tab${step}`)
      unsteady(tab, next)
      if (tab.text !== typed) wrong.push(`after a reload there is “${tab.text}” for “${typed}”`)
    }
  }
  tab.sending = async (save) => server.save(save)
  for (let i = 0; i < 10 && tab.saving.status !== 'saved'; i++) {
    await tab.saving.save()
    await settle()
  }
  if ([...statuses, ...tab.statuses].includes('stale')) wrong.push('the writer was taken for somebody else')
  if (server.text !== typed) wrong.push(`the server has “${server.text}” of “${typed}”`)
  if (tab.kept) wrong.push('something is still kept in the browser')
  if (new Set(server.taken.map((s) => s.key)).size !== server.taken.length)
    wrong.push('a save was made twice')
  if (server.version !== 1 + server.taken.length) wrong.push('a version is nobody’s')
  return wrong.map((w) => `seed ${seed}: ${w}`)
}

// However lines break and pages are loaded anew: a writer alone is never told of somebody else, no save is made
// twice, and in the end the server has what was typed last.
test('whatever is lost on the way, one writer meets nobody and loses nothing', async () => {
  const wrong: string[] = []
  for (let seed = 1; seed <= 400; seed++) wrong.push(...(await writeAlone(seed)))
  expect(wrong).toEqual([])
})
