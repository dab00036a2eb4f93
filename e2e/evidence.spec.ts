import { expect, test, type Page } from '@playwright/test'
import { staff, visitor } from './people'
import { Server } from './server'

let server: Server
test.beforeAll(async () => {
  test.setTimeout(240_000)
  server = await Server.start('demo')
})
test.afterAll(() => server.stop())
const demo = 'wrenmoor-demo'

/** Reads an article until the server takes it as read. */
async function readOn(page: Page, open: () => Promise<void>) {
  const read = page.waitForResponse((r) => r.url().endsWith('/read') && r.status() === 204, {
    timeout: 40_000,
  })
  await open()
  await read
}

async function search(page: Page, words: string) {
  await page.goto(server.url + '/help')
  await page.getByLabel('Your question').fill(words)
  await page.getByRole('button', { name: 'Find answers' }).click()
  await expect(page.locator('.results li').first()).toBeVisible()
}

test('what people did and what programs did comes to what it was', async ({ browser }) => {
  test.setTimeout(240_000)

  await test.step('somebody reads, and two hours later signs in and writes', async () => {
    const page = await visitor(browser)
    await search(page, 'why is my bill estimated wombat')
    await readOn(page, () => page.locator('.results a').first().click())
    server.moveClock('2h')
    await page.goto(server.url + '/help/sign-in')
    await page.getByLabel('Mail address').fill('wim@post.example')
    await page.getByLabel('Password').fill(demo)
    await page.getByRole('main').getByRole('button', { name: 'Sign in' }).click()
    await page.goto(server.url + '/help/request')
    await page.locator('#kind').selectOption('')
    await page.locator('#subject').fill('My bill')
    await page.locator('#text').fill('It is still estimated.')
    await page.getByRole('button', { name: 'Send' }).click()
    await expect(page).toHaveURL(/conversations/)
    await page.context().close()
  })

  await test.step('somebody sees results and leaves', async () => {
    const page = await visitor(browser)
    const seen = page.waitForResponse((r) => r.url().endsWith('/api/help/seen'))
    await search(page, 'why is my bill estimated quokka')
    expect((await seen).status()).toBe(204)
    await page.reload()
    await page.context().close()
  })

  await test.step('somebody reads an article in the chat, closes it, and leaves', async () => {
    const page = await visitor(browser)
    await page.goto(server.url + '/chat')
    await page.getByLabel('Your message').fill('why is my bill estimated numbat')
    await page.getByLabel('Your message').press('Enter')
    await readOn(page, () => page.locator('.cards button').first().click())
    await page.keyboard.press('Escape')
    await page.context().close()
  })

  await test.step('a program asks, with cookies blocked, and once for the head alone', async () => {
    const headers = { 'User-Agent': 'Mozilla/5.0 (X11; Linux x86_64)' }
    const address = server.url + '/help/search?q=why+is+my+bill+estimated+bandicoot'
    expect((await fetch(address, { headers })).status).toBe(200)
    await fetch(address.replace('bandicoot', 'dugong'), { headers, method: 'HEAD' })
  })

  server.moveClock('110h')
  const pell = await staff(browser, server, 'Pell', demo)
  for (const [word, outcome] of [
    ['wombat', 'Returned'],
    ['quokka', 'Unanswered'],
    ['numbat', 'Presumed'],
    ['bandicoot', 'Unseen'],
  ]) {
    await test.step(`${word}: ${outcome}`, async () => {
      await pell.goto(`${server.url}/staff/outcomes?words=${word}`)
      const rows = pell.locator('tbody tr')
      await expect(rows).toHaveCount(1)
      await expect(rows.first()).toContainText(outcome ?? '')
      await expect(rows.first()).not.toContainText('settling')
    })
  }
  await pell.goto(`${server.url}/staff/outcomes?words=dugong`)
  await expect(pell.getByText('No question fits.')).toBeVisible()

  await test.step('from the question that returned a way leads to the contact, and back', async () => {
    await pell.goto(`${server.url}/staff/outcomes?words=wombat`)
    await pell.locator('tbody a').first().click()
    await pell.getByRole('link', { name: 'The question in which the customer came back' }).click()
    await expect(pell.getByRole('link', { name: /wombat/ })).toBeVisible()
  })
})
