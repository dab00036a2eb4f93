import { expect, test } from '@playwright/test'
import { effectScope, nextTick, ref } from 'vue'
import { Refused } from '../../shared/api/client'
import { forget, useLoad } from './load'

const refusal = () =>
  new Refused({ type: 'about:blank', title: 'Error', status: 404, detail: 'There is none.', errors: [] })

/** Answers that come when the test says so. */
function answers() {
  const open: { of: string; give: (v: string) => void; fail: (e: Error) => void }[] = []
  const get = (of: string) => new Promise<string>((give, fail) => open.push({ of, give, fail }))
  return { open, get }
}
const settle = async () => {
  for (let i = 0; i < 6; i++) await nextTick()
}

test('an answer to an older question is dropped, however late it comes', async () => {
  const { open, get } = answers()
  const which = ref('A')
  await effectScope().run(async () => {
    const { value } = useLoad(
      () => which.value,
      () => get(which.value),
    )
    which.value = 'B'
    await settle()
    open[1]?.give('text of B')
    await settle()
    open[0]?.give('text of A')
    await settle()
    expect(value.value).toBe('text of B')
  })
})

test('what cannot be had is not stood in for by the thing before', async () => {
  const { open, get } = answers()
  const which = ref('A')
  await effectScope().run(async () => {
    const { value, error, reload } = useLoad(
      () => which.value,
      () => get(which.value),
    )
    open[0]?.give('text of A')
    await settle()
    which.value = 'B'
    await settle()
    open[1]?.fail(refusal())
    await settle()
    expect(value.value).toBeUndefined()
    expect(error.value?.message).toBe('There is none.')
    // Of the same thing what is there stays, beside the error.
    which.value = 'A'
    await settle()
    open[2]?.give('text of A')
    await settle()
    void reload()
    open[3]?.fail(refusal())
    await settle()
    expect(value.value).toBe('text of A')
  })
})

test('what was loaded lately stands there at once, under the name of its own source alone', async () => {
  const { open, get } = answers()
  const which = ref('A')
  await effectScope().run(async () => {
    useLoad(
      () => which.value,
      () => get(which.value),
      'names',
    )
    open[0]?.give('text of A')
    await settle()
    const again = useLoad(
      () => which.value,
      () => get(which.value),
      'names',
    )
    expect(again.value.value).toBe('text of A')
    const other = useLoad(
      () => 'B',
      () => get('B'),
      'names',
    )
    expect(other.value.value).toBeUndefined()
    forget()
    const anew = useLoad(
      () => which.value,
      () => get(which.value),
      'names',
    )
    expect(anew.value.value).toBeUndefined()
  })
})
