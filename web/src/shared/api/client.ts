import createClient from 'openapi-fetch'
import { newKey } from '../key'
import { visitHeaders } from '../visit'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type Problem = Schemas['Problem']

/** A refusal by the server, in words for people, with what is wrong with which field. */
export class Refused extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
  }

  /** The last part of the problem's type, such as "stale-save". */
  get kind(): string {
    return this.problem.type.split('/').pop() ?? ''
  }

  field(name: string): string | undefined {
    return this.problem.errors?.find((e) => e.field === name || e.field.endsWith('.' + name))?.message
  }
}

/** The server could not be reached, or could not do it just now: the same may go through later. */
export class Unreachable extends Error {
  constructor(said?: string) {
    super(said || 'The server cannot be reached. What you typed is kept here; it is tried again by itself.')
  }
}

/** How long is waited before something is sent again whose answer did not come, in milliseconds. */
const pauses = [400, 1200, 2600]

/** The keys of what was given up without an answer: whoever tries the same again goes on with them. */
const unanswered = new Map<string, string>()
const printOf = async (request: Request) => `${request.url}\n${await request.clone().text()}`

/**
 * Sends a request. What makes something goes under a key, and is sent again by itself when no answer
 * came, or only that of something in front of the server: under one key it is done once.
 */
export async function send(request: Request, wait = pauses): Promise<Response> {
  if (request.method !== 'POST') return fetch(request)
  const spare = request.clone()
  const before = unanswered.size ? unanswered.get(await printOf(spare)) : undefined
  const key = before ?? newKey()
  for (let tries = 0; ; tries++) {
    const attempt = spare.clone()
    attempt.headers.set('Idempotency-Key', key)
    for (const [name, value] of Object.entries(visitHeaders())) attempt.headers.set(name, value)
    try {
      const answer = await fetch(attempt)
      if (![502, 503, 504].includes(answer.status)) {
        if (before) unanswered.delete(await printOf(spare))
        return answer
      }
      if (tries === wait.length) return answer
    } catch (error) {
      if (request.signal.aborted || tries === wait.length) {
        unanswered.set(await printOf(spare), key)
        throw error
      }
    }
    await new Promise((done) => setTimeout(done, wait[tries]))
  }
}

export const api = createClient<paths>({ baseUrl: '', fetch: (request) => send(request) })

interface Answer<T> {
  data?: T
  error?: Problem
  response: Response
}

/** Gives what the server answered, or throws Refused or Unreachable. */
export async function call<T>(request: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>
  try {
    answer = await request
  } catch {
    throw new Unreachable()
  }
  if (answer.response.ok) return answer.data as T
  const said = answer.error
  const problem = said && typeof said === 'object' && 'detail' in said ? said : undefined
  const status = answer.response.status
  // A fault of the server says nothing about what was sent: it is no refusal.
  if (status >= 500) throw new Unreachable(status === 500 ? problem?.detail : undefined)
  if (problem) throw new Refused(problem)
  throw new Refused({
    type: 'about:blank',
    title: 'Error',
    status,
    detail: `The server refused this (${status}).`,
    errors: [],
  })
}
