import { expect, test, type Page } from '@playwright/test'
import { accessible, staff, visitor } from './people'
import { Server } from './server'

// Customers in the help centre of the demo world.
let server: Server
test.beforeAll(async () => {
  test.setTimeout(240_000)
  server = await Server.start('demo')
})
test.afterAll(() => server.stop())
const demo = 'wrenmoor-demo'

async function signIn(page: Page) {
  await page.goto(server.url + '/help/sign-in')
  await page.getByLabel('Mail address').fill('wim@post.example')
  await page.getByLabel('Password').fill(demo)
  await page.getByRole('button', { name: 'Sign in' }).click()
  await expect(page.getByText('Wim Castor')).toBeVisible()
}

const letters = async (page: Page) =>
  (await (await page.request.get(server.mailRoom + '/mails?to=new@post.example')).json()) as {
    text: string
  }[]

test('without JavaScript: a customer reads, searches, sends a request and follows it', async ({
  browser,
}) => {
  const page = await visitor(browser, {
    javaScriptEnabled: false,
    viewport: { width: 360, height: 740 },
  })
  await page.goto(server.url + '/help')
  await expect(page.getByRole('region', { name: 'Known problems' })).toContainText(
    'A line is down between Oxmoor and Tarn Edge',
  )
  await expect(page.getByRole('region', { name: 'What many read now' }).getByRole('link')).toHaveCount(6)
  await page.getByLabel('Your question').fill('why is my bill estimated?')
  await page.getByRole('button', { name: 'Find answers' }).click()
  await expect(page.getByRole('region', { name: 'Answer' })).toContainText('no reading reached us in time')
  await expect(page.locator('.results mark').first()).toBeVisible()
  expect(await page.evaluate('document.documentElement.scrollWidth')).toBeLessThanOrEqual(360)

  await page.getByRole('link', { name: 'Send this question to a person' }).click()
  await expect(page.getByLabel('What is it about?')).toHaveValue('why is my bill estimated?')
  await page.getByLabel('What kind of request is it?').selectOption('I am moving')
  await page.getByRole('button', { name: 'Show its fields' }).click()
  await page.getByLabel('Out', { exact: true }).check()
  await page.getByLabel('Tell us more').fill('We move on Friday.')
  await page.getByRole('button', { name: 'Send request' }).click()
  await expect(page.getByRole('alert')).toContainText('Nothing you typed is lost')
  await expect(page.getByLabel('Tell us more')).toHaveValue('We move on Friday.')
  await expect(page.getByLabel('Out', { exact: true })).toBeChecked()
  await page.getByLabel('On which day?').fill('2026-12-04')
  await page.getByLabel('Where shall the last bill go?').fill('12 Long Lane')
  await page.getByLabel('Meter number').fill('W04 12345')
  await page.getByLabel('Your mail address').fill('new@post.example')
  await page.getByLabel('Add files').setInputFiles({
    name: 'note.txt',
    mimeType: 'text/plain',
    buffer: Buffer.from('48213'),
  })
  await page.getByRole('button', { name: 'Send request' }).click()
  await expect(page.getByRole('status')).toContainText('Your number is R-')
  await expect(page.getByText('12 Long Lane')).toBeVisible()
  expect(await page.evaluate('document.documentElement.scrollWidth')).toBeLessThanOrEqual(360)

  // The link in the mail opens it anywhere, and nothing but it.
  await expect.poll(async () => (await letters(page)).length).toBeGreaterThan(0)
  const link = /\/help\/requests\/\S+/.exec((await letters(page))[0]?.text ?? '')?.[0] ?? ''
  const elsewhere = await visitor(browser, { javaScriptEnabled: false })
  await elsewhere.goto(server.url + link)
  await expect(elsewhere.getByText('We move on Friday.')).toBeVisible()
  await elsewhere.getByLabel('Add to it').fill('And the key is with the neighbour.')
  await elsewhere.getByRole('button', { name: 'Send' }).click()
  await expect(elsewhere.getByText('And the key is with the neighbour.')).toBeVisible()
  await elsewhere.goto(server.url + link.slice(0, -2))
  await expect(elsewhere.getByRole('heading', { name: 'There is no page here' })).toBeVisible()
})

test('by keyboard alone: suggestions, an article, a vote', async ({ browser }) => {
  const page = await visitor(browser)
  await page.goto(server.url + '/help')
  await page.keyboard.press('Tab')
  await expect(page.getByRole('link', { name: 'Skip to the content' })).toBeFocused()
  const field = page.getByLabel('Your question')
  await field.focus()
  await expect(page.getByRole('combobox')).toBeVisible()
  await page.keyboard.type('meter rea')
  await expect(page.getByRole('option').first()).toBeVisible()
  await accessible(page)
  await page.keyboard.press('Escape')
  await expect(page.getByRole('listbox')).toBeHidden()
  await page.keyboard.type('d')
  const wanted = page.getByRole('option', {
    name: 'Give a meter reading',
    exact: true,
  })
  await expect(wanted).toBeVisible()
  for (let i = 0; i < 8 && (await wanted.getAttribute('aria-selected')) !== 'true'; i++)
    await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: 'Give a meter reading' })).toBeVisible()
  await accessible(page)
  await page.getByRole('button', { name: 'Yes' }).focus()
  await page.keyboard.press('Enter')
  await expect(page.getByRole('status')).toContainText('your answer is noted')
  await page.getByRole('button', { name: 'No', exact: true }).focus()
  await page.keyboard.press('Space')
  await expect(page.getByLabel('what was missing')).toBeVisible()
})

test('an answer beside the form closes it as answered, and nothing typed is lost', async ({ browser }) => {
  const page = await visitor(browser)
  await page.goto(server.url + '/help/request')
  await page.getByLabel('What is it about?').pressSequentially('battery')
  await page.getByLabel('Tell us more').pressSequentially('its amber light is on')
  const offers = page.getByRole('complementary', {
    name: 'Answers that may fit',
  })
  await expect(
    offers.getByRole('button', {
      name: 'The rented battery shows an amber light',
    }),
  ).toBeVisible()
  await accessible(page)
  // Another kind has other fields; what was typed stays.
  await page.getByLabel('What kind of request is it?').selectOption('Solar, battery or charger')
  await expect(page.getByLabel('Rented battery')).toBeVisible()
  await expect(page.getByLabel('Tell us more')).toHaveValue('its amber light is on')
  await expect(page.getByLabel('What does its light do?')).toBeHidden()
  await page.getByLabel('Rented battery').check()
  await expect(page.getByLabel('What does its light do?')).toBeVisible()
  await page.reload()
  await expect(page.getByLabel('What is it about?')).toHaveValue('battery')
  await offers.getByRole('button', { name: 'Read it here' }).first().click()
  const sheet = offers.getByRole('region', {
    name: 'The rented battery shows an amber light',
  })
  await expect(sheet).toBeVisible()
  await expect(page.getByLabel('Tell us more')).toHaveValue('its amber light is on')
  await accessible(page)
  await sheet.getByRole('button', { name: 'This answered it' }).first().click()
  await expect(page.getByRole('status').filter({ hasText: 'Nothing was sent' })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Send request' })).toBeHidden()
})

test('as each audience: a visitor, a customer, staff', async ({ browser }) => {
  const page = await visitor(browser)
  await page.goto(server.url + '/help/search?q=goodwill')
  await expect(page.getByRole('heading', { name: 'Nothing found for “goodwill”' })).toBeVisible()
  await page.goto(server.url + '/help/requests')
  await expect(page.getByText('Sign in to see the requests you sent.')).toBeVisible()
  await signIn(page)
  await page.goto(server.url + '/help/requests')
  await expect(page.getByRole('link', { name: 'Moving out at the end of the month' })).toBeVisible()
  await accessible(page)
  await page.getByRole('link', { name: 'Bill B-204417 is higher than the last' }).click()
  await expect(page.getByText('You can reopen it until')).toBeVisible()
  await expect(page.getByRole('link', { name: 'readings.txt' })).toBeVisible()
  await accessible(page)
  await page.getByLabel('Reopen it with a message').fill('The new bill did not come.')
  await page.getByRole('button', { name: 'Send', exact: true }).click()
  await expect(page.getByText('Waiting for a person')).toBeVisible()
  await page.goto(server.url + '/help/search?q=goodwill')
  await expect(page.getByRole('heading', { name: /Nothing found/ })).toBeVisible()

  const dara = await staff(browser, server, 'Dara', demo)
  await dara.goto(server.url + '/help/search?q=goodwill')
  await expect(dara.locator('.results').getByRole('link').first()).toContainText('What agents may credit')
})

test('in German, and in French where nothing is written in it', async ({ browser }) => {
  const page = await visitor(browser, { locale: 'de-DE' })
  await page.goto(server.url + '/help')
  await expect(page.getByRole('heading', { name: 'Was möchten Sie wissen?' })).toBeVisible()
  await accessible(page)
  await page.getByLabel('Ihre Frage').fill('zählerstand')
  await page.getByRole('button', { name: 'Antworten finden' }).click()
  await page.getByRole('link', { name: 'Einen Zählerstand melden' }).first().click()
  await expect(page.getByRole('button', { name: 'Ja' })).toBeVisible()
  await expect(page.locator('link[rel=alternate][hreflang=en]')).toHaveCount(1)
  await page.goto(server.url + '/help/articles/A-0008')
  await expect(page.getByText('Diesen Artikel gibt es noch nicht auf Deutsch.')).toBeVisible()
  await page.getByRole('link', { name: 'Français' }).click()
  await expect(page.getByText('Cet article n’existe pas encore en français')).toBeVisible()
  await page.goto(server.url + '/chat')
  await expect(page.getByRole('button', { name: 'Poser une autre question' })).toBeVisible()
  await accessible(page)
})

test('staff try, explain, pin and judge; the figure says what it moved', async ({ browser }) => {
  const maren = await staff(browser, server, 'Maren', demo)
  await maren.goto(server.url + '/staff/settings/sites')
  await maren.getByRole('link', { name: 'Search of Wrenmoor Community Power' }).click()
  await maren.getByLabel('Question').fill('cosy battery blinking orange')
  await expect(maren.getByText('cosy battery blinking orange')).toHaveCount(0)
  await expect(maren.locator('.results li').first()).toContainText('battery')
  await maren.getByRole('button', { name: 'Why here?' }).first().click()
  await expect(maren.getByRole('row', { name: /Nearness/ })).toBeVisible()
  await accessible(maren)
  await maren.getByLabel('Words that mean the same').fill('blinking orange, amber light')
  await maren.getByRole('button', { name: 'Try first' }).first().click()
  await expect(maren.getByRole('status', { name: 'What it would change' })).toContainText('judged question')
  await maren.getByRole('button', { name: 'Add', exact: true }).click()
  await expect(maren.getByText('blinking orange, amber light')).toBeVisible()
  await expect(maren.locator('.results li').first()).toContainText('The rented battery shows an amber light')
  await maren.getByRole('button', { name: 'Pin first' }).nth(1).click()
  await expect(maren.locator('.results li').first()).toContainText('pinned')
  await maren.getByRole('button', { name: /Take away the pin for cosy/ }).click()
  await expect(maren.locator('.results .pinned')).toHaveCount(0)
  await maren.getByRole('button', { name: 'This answers it' }).first().click()
  await maren.getByRole('link', { name: 'How well it does' }).click()
  await expect(maren.getByRole('row', { name: /cosy battery blinking orange/ })).toBeVisible()
  await accessible(maren)
  // One key in the Ledger judges.
  await maren.goto(server.url + '/staff/outcomes?outcome=confirmed')
  await maren.locator('table a').first().click()
  await expect(maren.getByRole('button', { name: /answered it/ }).first()).toBeVisible()
  await maren.keyboard.press('t') // no answer is chosen yet: nothing happens
  await expect(maren.getByText(/^Judged: /)).toHaveCount(0)
  await maren.keyboard.press('j')
  await maren.keyboard.press('t')
  await expect(maren.getByText(/^Judged: .* answers it/)).toBeVisible()
  await accessible(maren)
  await maren.goto(server.url + '/staff/settings/sites/1/form')
  await maren.getByRole('button', { name: 'Change I am moving' }).click()
  await expect(maren.getByLabel('Asks').first()).toHaveValue('Are you moving in or out?')
  await accessible(maren)
  await maren.goto(server.url + '/staff/settings/problems')
  await maren.getByRole('button', { name: /What customers are told of Line down/ }).click()
  await accessible(maren)
})

test('what is for a group of customers, its members meet and nobody else', async ({ browser }) => {
  const about = '/help/search?q=' + encodeURIComponent('how do exporters vote at the meeting')
  const title = "The exporters' meeting, and how you vote"
  const asks = async (page: Page, finds: boolean) => {
    await page.goto(server.url + about)
    await expect(page.locator('.results, h1').first()).toBeVisible()
    await expect(page.getByRole('link', { name: title })).toHaveCount(finds ? 2 : 0) // a result, and the source of the answer
  }
  const anybody = await visitor(browser)
  await asks(anybody, false)
  const wim = await visitor(browser)
  await signIn(wim)
  await asks(wim, true)
  await wim.locator('.results').getByRole('link', { name: title }).click()
  await expect(wim.getByText('For a group of customers')).toBeVisible()
  await accessible(wim)
  const address = wim.url()
  await anybody.goto(address)
  await expect(anybody.getByRole('heading', { level: 1 })).toHaveText('There is no page here')

  const maren = await staff(browser, server, 'Maren', demo)
  await maren.goto(server.url + '/staff/settings/groups')
  await maren.getByRole('button', { name: 'Customers in Solar exporters' }).click()
  const members = maren.getByRole('region', {
    name: 'Customers in Solar exporters',
  })
  await members.getByRole('button', { name: 'Take Wim Castor out' }).click()
  await expect(members.getByText('Wim Castor')).toHaveCount(0)
  await accessible(maren)
  expect((await wim.goto(address))?.status()).toBe(404)
  await asks(wim, false)

  await members.getByLabel('Mail address of a customer').fill('nobody@post.example')
  await members.getByRole('button', { name: 'Put in' }).click()
  await expect(members.getByText('No customer has this mail address.')).toBeVisible()
  await members.getByLabel('Mail address of a customer').fill('wim@post.example')
  await members.getByRole('button', { name: 'Put in' }).click()
  await expect(members.getByText('Wim Castor')).toBeVisible()
  await asks(wim, true)

  // A new group can be chosen at once; one that something is for cannot be taken away.
  await maren.getByLabel('A new group').fill('Heat pump trial')
  await maren.getByRole('button', { name: 'Add a group' }).click()
  await expect(maren.getByRole('button', { name: 'Take Heat pump trial away' })).toBeVisible()
  await maren.getByRole('button', { name: 'Take Solar exporters away' }).click()
  await expect(maren.getByText('Something is still for this group')).toBeVisible()
  await maren.getByRole('link', { name: 'Library' }).first().click()
  await maren.getByRole('link', { name: title }).click()
  await maren.getByRole('tab', { name: 'About' }).click()
  await expect(maren.getByLabel('For whom')).toHaveValue('group:solar-exporters')
  await maren.getByLabel('For whom').selectOption('Heat pump trial')
  await expect(maren.getByText('Customers in the group “Heat pump trial”')).toBeVisible()
  await expect.poll(async () => (await wim.goto(address))?.status()).toBe(404)
  await maren.getByLabel('For whom').selectOption('Solar exporters')
  await expect.poll(async () => (await wim.goto(address))?.status()).toBe(200)
})
