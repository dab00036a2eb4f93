import { expect, test } from '@playwright/test'
import { call, Refused, Unreachable, type Problem } from './client'

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
