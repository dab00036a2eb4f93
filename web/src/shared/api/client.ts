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

/** The server could not be reached at all. */
export class Unreachable extends Error {
  constructor() {
    super('The server cannot be reached. What you typed is kept here; it is tried again by itself.')
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
  const problem = answer.error
  if (problem && typeof problem === 'object' && 'detail' in problem) throw new Refused(problem)
  if (answer.response.status >= 502) throw new Unreachable()
  const status = answer.response.status
  throw new Refused({
    type: 'about:blank',
    title: 'Error',
    status,
    detail: `The server refused this (${status}).`,
    errors: [],
  })
}
