import { expect, test } from '@playwright/test'
import { call, Refused, send, Unreachable, type Problem } from './client'

const answered = (status: number, error?: Partial<Problem>) =>
  call(
    Promise.resolve({
      response: { ok: status < 400, status } as Response,
      ...(error ? { error: error as Problem } : {}),
    }),
  ).catch((e: unknown) => e)
const problem = {
  type: 'https://hermeneus.example/problems/invalid',
  title: 'x',
  status: 422,
  detail: 'Some fields need another look.',
  errors: [],
}

test('a fault of the server is no refusal: the same may go through later', async () => {
  for (const status of [500, 502, 503, 504]) {
    expect(await answered(status, { ...problem, status }), String(status)).toBeInstanceOf(Unreachable)
    expect(await answered(status), `${status} without words`).toBeInstanceOf(Unreachable)
  }
  expect(await call(Promise.reject(new TypeError('no line'))).catch((e: unknown) => e)).toBeInstanceOf(
    Unreachable,
  )
})

test('a refusal says what is wrong, with words of its own or without', async () => {
  const said = await answered(422, {
    ...problem,
    errors: [{ field: 'body.title', message: 'This is missing.' }],
  })
  expect(said).toBeInstanceOf(Refused)
  expect((said as Refused).kind).toBe('invalid')
  expect((said as Refused).field('title')).toBe('This is missing.')
  expect(await answered(404)).toBeInstanceOf(Refused)
})

/** A line over which some requests, and some answers, are lost; the server does each key once. */
function badLine(lost: ('request' | 'answer' | 'gateway' | '')[]) {
  const done = new Map<string, number>()
  const keys: string[] = []
  globalThis.fetch = (async (request: Request) => {
    const fate = lost.shift() ?? ''
    const key = request.headers.get('Idempotency-Key') ?? ''
    keys.push(key)
    if (fate === 'request') throw new TypeError('no line')
    if (fate === 'gateway') return new Response('', { status: 503 })
    if (!done.has(key)) done.set(key, done.size + 1)
    if (fate === 'answer') throw new TypeError('no answer')
    return Response.json({ number: done.get(key) })
  }) as typeof fetch
  return { done, keys }
}
const posted = (text: string) => new Request('http://x.example/api/chat', { method: 'POST', body: text })
const quick = [1, 1, 1]

test('what is sent again by itself goes under one key, and is done once', async () => {
  const real = globalThis.fetch
  try {
    const line = badLine(['request', 'answer', 'gateway', ''])
    expect(await (await send(posted('hello'), quick)).json()).toEqual({ number: 1 })
    expect(new Set(line.keys).size).toBe(1)
    expect(line.keys.length).toBe(4)
    expect(await (await send(posted('hello'), quick)).json()).toEqual({ number: 2 }) // said once more, on purpose
  } finally {
    globalThis.fetch = real
  }
})

test('who tries again by hand what was given up goes on under its key', async () => {
  const real = globalThis.fetch
  try {
    const line = badLine(['answer', 'request', 'request', 'request', '', ''])
    await expect(send(posted('are you there'), quick)).rejects.toThrow()
    expect(await (await send(posted('are you there'), quick)).json()).toEqual({ number: 1 })
    expect(line.done.size).toBe(1)
    expect(await (await send(posted('something else'), quick)).json()).toEqual({ number: 2 })
  } finally {
    globalThis.fetch = real
  }
})

test('what only reads, and what replaces, is sent as it is', async () => {
  const real = globalThis.fetch
  try {
    for (const method of ['GET', 'PUT', 'DELETE']) {
      const line = badLine(['request'])
      await expect(send(new Request('http://x.example/', { method }), quick)).rejects.toThrow()
      expect(line.keys).toEqual([''])
    }
  } finally {
    globalThis.fetch = real
  }
})
