import { expect, test, type Page } from '@playwright/test'
import { accessible, staff, visitor } from './people'
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

/** The link in the latest mail to an address, once it is there. */
async function linkIn(page: Page, address: string, subject: string): Promise<string> {
  let link = ''
  await expect
    .poll(
      async () => {
        const mails = (await (await page.request.get(`${server.mailRoom}/mails?to=${address}`)).json()) as {
          subject: string
          text: string
        }[]
        const mail = mails.find((m) => m.subject === subject)
        link = /http\S*kept\S*/.exec(mail?.text ?? '')?.[0] ?? ''
        return link
      },
      { timeout: 20_000 },
    )
    .not.toBe('')
  return link
}

test('a help centre asks before it keeps a key, and who says no is served and marked', async ({
  browser,
}) => {
  const maren = await staff(browser, server, 'Maren', demo)
  await maren.goto(server.url + '/staff/settings/sites')
  await maren.getByRole('button', { name: 'Change Wrenmoor Community Power' }).click()
  await maren.getByLabel('Ask before a key is kept in a browser').check()
  await maren.getByLabel('Words, English').fill('May Wrenmoor know you again?')
  await accessible(maren)
  await maren.getByRole('button', { name: 'Keep help centre' }).click()
  await expect(maren.getByRole('button', { name: 'New help centre' })).toBeVisible()

  const page = await visitor(browser)
  await page.goto(server.url + '/help')
  await expect(page.getByText('May Wrenmoor know you again?')).toBeVisible()
  await accessible(page)
  expect((await page.context().cookies()).filter((c) => c.name === 'hermeneus_visitor')).toEqual([])
  await page.getByRole('button', { name: 'No, thank you' }).click()
  await expect(page.getByText('May Wrenmoor know you again?')).toHaveCount(0)
  const seen = page.waitForResponse((r) => r.url().endsWith('/api/help/seen') && r.status() === 204)
  await search(page, 'why is my bill estimated okapi')
  await seen
  expect((await page.context().cookies()).filter((c) => c.name === 'hermeneus_visitor')).toEqual([])
  await page.context().close()

  server.moveClock('220h')
  const pell = await staff(browser, server, 'Pell', demo)
  await pell.goto(server.url + '/staff/outcomes')
  await pell.getByRole('button', { name: /^Not followed/ }).click()
  await expect(pell.getByRole('row', { name: /okapi/ })).toContainText('not followed')
  await expect(pell.getByText('The Ledger 1 question')).toBeVisible()
  await pell.context().close()

  await maren.getByRole('button', { name: 'Change Wrenmoor Community Power' }).click()
  await maren.getByLabel('Ask before a key is kept in a browser').uncheck()
  await maren.getByRole('button', { name: 'Keep help centre' }).click()
  await maren.context().close()
})

test('somebody sees what is kept of them by a mailed link, and has it deleted', async ({ browser }) => {
  const page = await visitor(browser)
  await page.goto(server.url + '/help/request')
  await page.locator('#kind').selectOption('')
  await page.locator('#subject').fill('A tapir in the substation')
  await page.locator('#text').fill('It sits there.')
  await page.locator('#address').fill('gone@post.example')
  await page.getByRole('button', { name: 'Send' }).click()
  await expect(page).toHaveURL(/conversations/)
  const request = page.url()
  await page.getByRole('link', { name: 'What we keep of you' }).click()
  await expect(page.getByRole('heading', { name: 'What we keep of you' })).toBeVisible()
  await accessible(page)
  await page.getByLabel('Your mail address').fill('gone@post.example')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('status')).toContainText('a link is on its way')
  await page.goto(await linkIn(page, 'gone@post.example', 'What we keep of you'))
  await expect(page.getByText('A tapir in the substation').first()).toBeVisible()
  await accessible(page)
  const download = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Download all of it' }).click()
  expect((await download).suggestedFilename()).toBe('kept.json')
  await page.getByLabel('Yes, delete it').check()
  await page.getByRole('button', { name: 'Delete everything' }).click()
  await expect(page.getByRole('status')).toContainText('Nothing is kept of you any more')
  await accessible(page)
  await page.goto(request)
  await expect(page.getByText('A tapir')).toHaveCount(0)
  await page.context().close()
})
