import createClient from 'openapi-fetch'
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

export const api = createClient<paths>({ baseUrl: '' })

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
