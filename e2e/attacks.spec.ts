import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect, test } from '@playwright/test'
import { staff, visitor } from './people'
import { password, Server } from './server'

// The same strings that core/article is tested with; a line that begins with ">"
// belongs to the one before.
const attacks = readFileSync(join(import.meta.dirname, '../core/article/testdata/attacks.txt'), 'utf8')
  .trim()
  .replace(/\n>/g, '\r>')
  .split('\n')
  .map((line) => line.replace(/\r>/g, '\n>'))

let server: Server
test.beforeAll(async () => {
  server = await Server.start()
  server.addStaff('Ada', 'author')
  server.addStaff('Rex', 'reviewer')
  server.addStaff('Pia', 'publisher')
})
test.afterAll(() => server.stop())

test('no attack string runs in a page that customers read, in the editor, or in a review', async ({
  browser,
}) => {
  expect(attacks.length).toBeGreaterThanOrEqual(80)
  // The pages' own policy would stop scripts too: it is off here, so that only what
  // was taken out of the texts is shown.
  const open = { bypassCSP: true }
  const ada = await staff(browser, server, 'Ada', password, open)
  const rex = await staff(browser, server, 'Rex', password, open)
  const pia = await staff(browser, server, 'Pia', password, open)
  const send = (page: typeof ada, method: string, path: string, body: object) =>
    page.evaluate(
      ([method, path, body]) =>
        fetch('/api/staff/' + path, {
          method,
          headers: { 'Content-Type': 'application/json' },
          body: JSON.stringify(body),
        }).then(async (r) => ({
          status: r.status,
          body: await r.json().catch(() => ({})),
        })),
      [method, path, body] as const,
    )
  await send(ada, 'POST', 'categories', {
    parent_id: 0,
    name: 'Attacks',
    description: '',
    audience: 'everyone',
  })
  // Ten to an article; markup that swallows what follows it spoils no more than these.
  const references: string[] = []
  for (let i = 0; i < attacks.length; i += 10) {
    const body = attacks
      .slice(i, i + 10)
      .map((a) => `<p>before</p>${a}`)
      .join('\n')
    const copy = {
      title: `Attack ${i}`,
      body,
      keywords: [],
      search_title: '',
      search_description: '',
    }
    const made = await send(ada, 'POST', 'articles', { category_id: 1, copy })
    expect(made.status).toBe(200)
    const reference = made.body.reference as string
    references.push(reference)
    const act = (page: typeof ada, action: string) =>
      send(page, 'POST', `articles/${reference}/actions`, {
        action,
        version: 1,
      })
    expect((await act(ada, 'submit')).status).toBe(204)
    expect((await act(rex, 'approve')).status).toBe(204)
    expect((await act(pia, 'publish')).status).toBe(204)
  }
  const wim = await visitor(browser, open)
  wim.on('dialog', () => expect.soft('a dialog', 'was opened').toBe(''))
  await wim.goto(server.url + '/help')
  await wim.evaluate(() =>
    document.body.insertAdjacentHTML('beforeend', '<img src="x:x" onerror="window.control = 1">'),
  )
  await expect.poll(() => wim.evaluate(() => 'control' in window), 'an attack can run here').toBe(true)
  for (const reference of references) {
    for (const [page, address] of [
      [wim, `/help/articles/${reference}`],
      [ada, `/staff/library/${reference}`],
      [rex, `/staff/library/${reference}/changes?before=1&after=copy`],
    ] as const) {
      await page.goto(server.url + address)
      await expect(page.getByText('before').first()).toBeVisible()
      await page.evaluate(() => {
        for (const e of Array.from(document.querySelectorAll<HTMLElement>('.prose *'))) {
          for (const kind of ['mouseover', 'focus', 'error', 'load'])
            e.dispatchEvent(new Event(kind, { bubbles: false }))
          if (e instanceof HTMLAnchorElement) expect_safe(e.href)
        }
        function expect_safe(address: string) {
          if (/^(javascript|data|vbscript):/i.test(address.trim()))
            (window as unknown as { ran: number }).ran = 1
        }
      })
      expect.soft(await page.evaluate(() => 'ran' in window), `${address} ran something`).toBe(false)
    }
  }
})
