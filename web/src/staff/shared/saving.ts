/** One save as the server is asked for it. The same key again is the same save. */
export interface Save<T> {
  key: string
  version: number // that it was written from
  text: T
}

/** What the browser keeps until the server has it. */
export interface Kept<T> {
  version: number
  text: T
  at: string // ISO 8601
  sent?: Save<T> // went out, and nobody knows whether it arrived
}

/** What became of a save that was not taken: try the same again, or what the person must see. */
export type Refusal = 'again' | 'stale' | 'held' | 'refused'

export type Status = 'saved' | 'typing' | 'saving' | 'waiting' | 'stale' | 'held' | 'refused'

/** What saving needs of the world around it. */
export interface Ports<T> {
  text: () => T // as it stands on the page now
  send: (save: Save<T>) => Promise<number> // gives the version that it made
  judge: (error: unknown) => Refusal // throws what is no refusal at all
  keep: (kept: Kept<T>) => void
  forget: () => void
  wait: (work: () => void, ms: number) => () => void // gives what calls it off
  key: () => string
  now: () => string
  changed: (status: Status) => void
}

export const SaveAfter = 900 // ms after the last key
export const RetryAfter = 3000 // ms after a line that was down

/**
 * Delivers a text, one save after the other. A save whose answer was lost is sent again with its own
 * key before anything newer, so that nobody is taken for somebody else. Nothing here knows of a page.
 */
export class Saving<T> {
  status: Status = 'saved'
  version = 0
  private known = '' // what the server has, as JSON
  private sent: Save<T> | undefined
  private running: Promise<void> = Promise.resolve()
  private busy = false
  private wanted = false // somebody waits until everything is delivered
  private stopped = false
  private callOff = () => {}

  constructor(private readonly ports: Ports<T>) {}

  /** Starts from what the server has, and gives the text to show: it, or what was kept here. */
  begin(version: number, text: T, kept: Kept<T> | undefined): T {
    this.callOff()
    this.version = version
    this.known = JSON.stringify(text)
    this.sent = undefined
    if (!kept || (JSON.stringify(kept.text) === this.known && !kept.sent)) {
      if (kept) this.ports.forget()
      this.tell('saved')
      return text
    }
    if (kept.sent) {
      this.sent = kept.sent
      this.tell('waiting')
      this.later(0)
    } else if (kept.version === version) {
      this.tell('typing')
      this.later(0)
    } else this.tell('stale')
    return kept.text
  }

  /** Call after every change to the text. */
  typed() {
    if (!this.version || this.stopped) return
    if (!this.differs() && !this.sent) {
      if (this.status === 'typing') {
        this.callOff()
        this.ports.forget()
        this.tell('saved')
      }
      return
    }
    this.keep()
    if (this.status === 'stale') return
    if (this.status !== 'waiting' && this.status !== 'saving') this.tell('typing')
    this.later(SaveAfter)
  }

  /** Delivers everything now; done when the server has what is typed by then, or cannot take it. */
  save(): Promise<void> {
    this.wanted = true
    return this.run()
  }

  /** Goes on from another text than the one the server refused. */
  goOn(version: number, text: T) {
    this.version = version
    this.known = JSON.stringify(text)
    this.sent = undefined
    this.tell('typing')
    this.keep()
  }

  /** What was typed went another way, and is not to be saved any more. */
  settled() {
    this.sent = undefined
    this.callOff()
    this.ports.forget()
    this.tell('saved')
  }

  dirty = () => this.status !== 'saved' || this.differs()
  differs = () => JSON.stringify(this.ports.text()) !== this.known

  /** Keeps what is on the page in the browser. */
  keep() {
    this.ports.keep({
      version: this.version,
      text: this.ports.text(),
      at: this.ports.now(),
      ...(this.sent ? { sent: this.sent } : {}),
    })
  }

  /** Sends nothing more: somebody else goes on with the same text. */
  stop() {
    this.stopped = true
    this.callOff()
  }

  later(ms: number) {
    this.callOff()
    if (!this.stopped) this.callOff = this.ports.wait(() => void this.run(), ms)
  }

  private run(): Promise<void> {
    this.callOff()
    if (this.busy || this.stopped) return this.running
    this.busy = true
    const now = this.deliver()
    // Delivering may have ended at once, with nothing to do.
    if (this.busy) this.running = now
    return now
  }

  private async deliver() {
    try {
      while (this.version && this.status !== 'stale' && !this.stopped) {
        const save = this.next()
        if (!save || !(await this.attempt(save))) return
        if (!this.differs()) {
          this.ports.forget()
          this.tell('saved')
          return
        }
        this.keep()
        if (!this.wanted) {
          this.tell('typing')
          this.later(SaveAfter)
          return
        }
      }
    } finally {
      this.busy = this.wanted = false
    }
  }

  /** What is to be sent: what may not have arrived, or else what is new. */
  private next(): Save<T> | undefined {
    if (this.sent) return this.sent
    if (!this.differs()) return undefined
    const text = JSON.parse(JSON.stringify(this.ports.text())) as T
    return { key: this.ports.key(), version: this.version, text }
  }

  private async attempt(save: Save<T>): Promise<boolean> {
    this.sent = save
    this.keep()
    this.tell('saving')
    try {
      this.version = await this.ports.send(save)
      this.known = JSON.stringify(save.text)
      this.sent = undefined
      return true
    } catch (e) {
      const why = this.ports.judge(e)
      if (why === 'again') {
        this.tell('waiting')
        this.later(RetryAfter)
      } else {
        this.sent = undefined
        this.keep()
        this.tell(why)
      }
      return false
    }
  }

  private tell(status: Status) {
    this.status = status
    this.ports.changed(status)
  }
}
