import { expect, test, type Page } from '@playwright/test'
import { accessible, staff, visitor } from './people'
import { Server } from './server'

// Everything here happens in the demo world, so that each view is seen full.
let server: Server
test.beforeAll(async () => {
  test.setTimeout(240_000)
  server = await Server.start('demo')
})
test.afterAll(() => server.stop())
const demo = 'wrenmoor-demo'

async function open(page: Page, path: string, heading: string | RegExp) {
  await page.goto(server.url + path)
  await expect(page.getByRole('heading', { name: heading }).first()).toBeVisible()
  await accessible(page)
}

test('every view of the library, full, is accessible', async ({ browser }) => {
  const maren = await staff(browser, server, 'Maren', demo)
  await accessible(maren)
  await open(maren, '/staff/library', 'All articles')
  await open(maren, '/staff/library/A-0001', 'Give a meter reading')
  for (const leaf of ['About', 'History']) {
    await maren.getByRole('tab', { name: leaf }).click()
    await expect(maren.getByRole('region', { name: leaf })).toBeVisible()
    await accessible(maren)
  }
  await open(maren, '/staff/library/A-0015.de', 'Der Strom ist weg')
  await open(maren, '/staff/library/A-0015/changes?before=1&after=copy', 'What changed')
  await open(maren, '/staff/library/bring-in', 'Bring articles in')
  await open(maren, '/staff/library/templates', 'Templates')
  await maren.getByRole('button', { name: 'Change Fix a problem' }).click()
  await accessible(maren)
  await open(maren, '/staff/settings/sites', 'Help centres')
  await maren.getByRole('button', { name: 'Change Wrenmoor Solar' }).click()
  await accessible(maren)
})

test('every view of review and publishing, full, is accessible', async ({ browser }) => {
  const maren = await staff(browser, server, 'Maren', demo)
  await open(maren, '/staff/review', /^Second review/)
  await open(maren, '/staff/review/A-0016', 'A line is down')
  for (const view of ['As customers read it', 'Beside the live one']) {
    await maren.getByRole('button', { name: view }).click()
    await accessible(maren)
  }
  await open(maren, '/staff/review/batches/1', 'Prices from April')
  await maren.getByText('What changes').first().click()
  await accessible(maren)
  await open(maren, '/staff/news', 'News')
  await open(maren, '/staff/trail', 'The trail')
  await open(maren, '/staff/settings/paths', 'Review paths')
  await maren.getByRole('button', { name: 'Change Safety' }).click()
  await expect(maren.getByText('Gate 2', { exact: true })).toBeVisible()
  await accessible(maren)
  await open(maren, '/staff/settings/people/2/hand-over', 'Hand over what Ilse Brandreth looks after')
  await open(maren, '/staff/library/A-0001?margin=remarks', 'Give a meter reading')
  await expect(maren.getByText('Mine shows six black digits')).toBeVisible()
  await accessible(maren)
  await maren.getByRole('button', { name: 'Withdraw' }).click()
  await expect(maren.getByRole('region', { name: 'What this touches' })).toContainText('Front door')
  await accessible(maren)
})

test('every view of the bot, the people and the figures, full, is accessible', async ({ browser }) => {
  const maren = await staff(browser, server, 'Maren', demo)
  await open(maren, '/staff/flows', 'Flows')
  await open(maren, '/staff/flows/front-door', 'Front door')
  await open(maren, '/staff/settings/hours', 'Opening hours')
  await open(maren, '/staff/conversations', 'Waiting')
  await maren.locator('.entry').first().click()
  await expect(maren.getByRole('button', { name: 'Accept' })).toBeVisible()
  await accessible(maren)
  await open(maren, '/staff/outcomes', 'The Ledger')
  await maren.locator('table a').first().click()
  await expect(maren.getByText('Began')).toBeVisible()
  await accessible(maren)
  await open(maren, '/staff/settings', 'People')
  await open(maren, '/staff/settings/groups', 'Groups of customers')
  await open(maren, '/staff/nowhere', 'There is no page')
  await maren.goto(server.url + '/staff/today')
  await expect(maren.getByRole('heading', { name: 'Today' })).toBeVisible()
  await maren.keyboard.press('?')
  await expect(maren.getByRole('dialog')).toContainText('Find articles')
  await accessible(maren)
})

test('every count of the outcomes opens into as many questions', async ({ browser }) => {
  const pell = await staff(browser, server, 'Pell', demo)
  await pell.goto(server.url + '/staff/outcomes')
  for (const name of [
    'Confirmed',
    'Presumed',
    'Unanswered',
    'Returned',
    'Person',
    'Settling',
    'Browsing',
    'Unseen',
  ]) {
    const button = pell.getByRole('button', { name: new RegExp(`^${name} \\d+`) }).first()
    await expect(button).toBeVisible()
    const shown = (await button.innerText()).match(/\d+$/)?.[0]
    await button.click()
    await expect(pell.getByRole('heading', { name: /The Ledger/ })).toContainText(
      `The Ledger ${shown} question`,
    )
  }
  await pell.reload() // the address holds the filter
  await expect(pell.getByRole('button', { name: 'Take away the filter Unseen' })).toBeVisible()
})

test('somebody without the role is told so and sees nothing', async ({ browser }) => {
  const dara = await staff(browser, server, 'Dara', demo)
  await expect(dara.getByRole('link', { name: 'Outcomes', exact: true })).toHaveCount(0)
  await dara.goto(server.url + '/staff/outcomes')
  await expect(dara.getByRole('alert').first()).toContainText('needs the role')
  await dara.goto(server.url + '/staff/library/A-0001')
  await expect(dara.getByRole('heading', { name: 'Find the digits' })).toBeVisible()
  await expect(dara.getByRole('toolbar')).toHaveCount(0)
  await expect(dara.getByRole('button', { name: 'Send to review' })).toHaveCount(0)
})

test('an edition shows its source, what changed in it, and is read by customers', async ({ browser }) => {
  const maren = await staff(browser, server, 'Maren', demo)
  await maren.goto(server.url + '/staff/library?behind=true')
  await maren.getByRole('link', { name: 'My power is off' }).click()
  await maren.getByRole('link', { name: 'Deutsch (behind)' }).click()
  const source = maren.getByRole('region', { name: 'The source' })
  await expect(source).toContainText('The source changed since')
  await expect(source.locator('ins')).toContainText('If you have a battery of ours')
  await source.getByRole('button', { name: 'It says the same now' }).click()
  await expect(source).not.toContainText('Behind')
  const wim = await visitor(browser)
  await wim.goto(server.url + '/help/articles/A-0015')
  await wim.getByRole('main').getByRole('link', { name: 'Deutsch' }).click()
  await expect(wim.getByRole('heading', { name: 'Der Strom ist weg' })).toBeVisible()
  await accessible(wim)
})

test('a second help centre shows its part of the library under its own name and look', async ({
  browser,
}) => {
  const wim = await visitor(browser)
  const solar = server.url.replace('127.0.0.1', 'solar.localhost')
  await wim.goto(solar + '/help')
  await expect(wim.getByRole('link', { name: 'Wrenmoor Solar help' })).toBeVisible()
  await expect(wim.getByRole('heading', { name: 'Meters and readings' })).toHaveCount(0)
  expect(
    await wim.evaluate(() => getComputedStyle(document.documentElement).getPropertyValue('--brand').trim()),
  ).toBe('#7A4B00')
  await accessible(wim)
  await wim.goto(solar + '/help/search?q=bill')
  await expect(wim.getByRole('link', { name: 'Why a bill is estimated' })).toHaveCount(0)
  await wim.goto(solar + '/help/articles/A-0005')
  await expect(wim.getByRole('heading', { name: 'There is no page here' })).toBeVisible()
})

test('a film from elsewhere loads only once a reader asks for it', async ({ browser }) => {
  const maren = await staff(browser, server, 'Maren', demo)
  await maren.goto(server.url + '/staff/library/A-0031')
  const elsewhere: string[] = []
  const wim = await visitor(browser)
  wim.on('request', (r) => new URL(r.url()).hostname !== '127.0.0.1' && elsewhere.push(r.url()))
  const made = await maren.evaluate(async () => {
    const put = (method: string, path: string, body: object) =>
      fetch('/api/staff/' + path, {
        method,
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify(body),
      }).then((r) => r.json().catch(() => ({})))
    const copy = {
      title: 'A film',
      body: '<figure data-video="https://films.wrenmoor.example/x.mp4"><figcaption>How to</figcaption></figure><p>Look.</p>',
      keywords: [],
      search_title: '',
      search_description: '',
    }
    const { reference } = await put('POST', 'articles', {
      category_id: 1,
      copy,
    })
    return reference as string
  })
  const act = async (page: Page, action: string) =>
    page.evaluate(
      ([ref, action]) =>
        fetch(`/api/staff/articles/${ref}/actions`, {
          method: 'POST',
          headers: { 'Content-Type': 'application/json' },
          body: JSON.stringify({ action, version: 1 }),
        }).then((r) => r.status),
      [made, action] as const,
    )
  expect(await act(maren, 'submit')).toBe(204)
  const brida = await staff(browser, server, 'Brida', demo)
  expect(await act(brida, 'approve')).toBe(204)
  expect(await act(maren, 'publish')).toBe(204)
  await wim.goto(server.url + '/help/articles/' + made)
  const play = wim.getByRole('link', {
    name: 'Play the film (from films.wrenmoor.example)',
  })
  await expect(play).toBeVisible()
  await accessible(wim)
  expect(elsewhere).toEqual([])
  await play.click()
  await expect(wim.locator('video')).toHaveAttribute('src', 'https://films.wrenmoor.example/x.mp4')
  await expect.poll(() => elsewhere.length).toBeGreaterThan(0)
})

test('the help centre is accessible on a narrow phone, signed in or not', async ({ browser }) => {
  const context = await browser.newContext({
    viewport: { width: 360, height: 700 },
  })
  const odile = await context.newPage()
  for (const [path, heading] of [
    ['/help', 'What would you like to know?'],
    ['/help/categories/1', 'Meters and readings'],
    ['/help/search?q=bill', 'Answers for'],
    ['/help/search?q=xylophone', 'Nothing found'],
    ['/help/articles/A-0023', 'The rented battery shows an amber light'],
    ['/help/request', 'Send a request'],
    ['/help/sign-in', 'Sign in'],
    ['/help/articles/A-0009', 'There is no page here'],
  ] as const) {
    await open(odile, path, heading)
    const wide = await odile.evaluate(() => document.documentElement.scrollWidth > window.innerWidth)
    expect(wide, `${path} scrolls sideways`).toBe(false)
  }
  await odile.goto(server.url + '/help/sign-in?back=/help/articles/A-0009')
  await odile.getByLabel('Mail address').fill('odile@post.example')
  await odile.getByLabel('Password').fill(demo)
  await odile.getByRole('button', { name: 'Sign in' }).click()
  await expect(odile.getByRole('heading', { name: 'Get a credit paid back' })).toBeVisible()
  await accessible(odile)
})

test('the request form offers answers while its subject is typed, keeps what was typed, and lands with the agents', async ({
  browser,
}) => {
  const wim = await visitor(browser)
  await wim.goto(server.url + '/help/request')
  await wim.getByLabel('What is it about?').pressSequentially('battery amber light')
  await expect(
    wim.getByRole('complementary').getByRole('button', { name: 'The rented battery shows an amber light' }),
  ).toBeVisible()
  await wim.getByLabel('Tell us more').fill('It blinks since Monday.')
  await wim.reload()
  await expect(wim.getByLabel('Tell us more')).toHaveValue('It blinks since Monday.')
  await wim.getByRole('button', { name: 'Send request' }).click()
  await expect(wim.getByText('Nothing you typed is lost')).toBeVisible()
  await accessible(wim)
  await wim.getByLabel('Your mail address').fill('wim.castor@post.example')
  await wim.getByRole('button', { name: 'Send request' }).click()
  await expect(wim.getByRole('heading', { name: /Your request R-/ })).toBeVisible()
  await accessible(wim)
  const nia = await staff(browser, server, 'Nia', demo)
  await nia.goto(server.url + '/staff/conversations')
  await expect(nia.locator('.entry', { hasText: 'wim.castor@post.example' })).toBeVisible()
})

test('one line puts the chat on another site’s page', async ({ browser }) => {
  const page = await visitor(browser)
  await page.goto(`http://127.0.0.1:${server.sitePort}/`)
  await page.getByRole('button', { name: 'Ask us' }).click()
  const chat = page.frameLocator('iframe[title=Chat]')
  await chat.getByRole('button', { name: 'My meter' }).click()
  await expect(chat.getByRole('button', { name: /Give a meter reading/ })).toBeVisible()
  await chat.getByRole('button', { name: 'Yes, that helped' }).click()
  await expect(chat.getByText('If something else comes up')).toBeVisible()
  await accessible(page)
})

test('staff rehearse without being counted', async ({ browser }) => {
  const maren = await staff(browser, server, 'Maren', demo)
  await maren.goto(server.url + '/chat?new=1')
  await expect(maren.getByText('Rehearsal: not counted')).toBeVisible()
  await maren.getByRole('button', { name: 'Talk to a person' }).click()
  await expect(maren.getByText('A rehearsal ends here')).toBeVisible()
})
