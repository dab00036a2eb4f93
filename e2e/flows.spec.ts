import { expect, test, type Page } from '@playwright/test'
import { accessible, staff, visitor } from './people'
import { Server } from './server'

// The bot's scripts, written, tried and met in the demo world.
let server: Server
test.beforeAll(async () => {
  test.setTimeout(240_000)
  server = await Server.start('demo')
})
test.afterAll(() => server.stop())
const demo = 'wrenmoor-demo'

const script = (page: Page) => page.getByRole('textbox', { name: 'The script' })
const saved = (page: Page) => expect(page.getByText('Saved just now')).toBeVisible()

/** Types lines as somebody types them: Enter indents, so that each line is only its words. */
async function type(page: Page, lines: string[]): Promise<number> {
  let keys = 0
  for (const line of lines) {
    for (const key of line.match(/<[^>]+>|./gu) ?? []) {
      if (key.startsWith('<')) await page.keyboard.press(key.slice(1, -1))
      else await page.keyboard.type(key)
      keys++
    }
  }
  return keys
}

test('a newcomer has a flow live within ten minutes, by keyboard alone', async ({ browser }) => {
  test.setTimeout(120_000)
  const pell = await staff(browser, server, 'Pell', demo)
  await pell.goto(server.url + '/staff/flows')
  await expect(pell.getByRole('heading', { name: 'Flows' })).toBeVisible()
  const began = Date.now()
  let keys = await type(pell, ['n'])
  await expect(pell.getByRole('dialog', { name: 'New flow' })).toBeVisible()
  await expect(pell.getByLabel('Name')).toBeFocused()
  keys += await type(pell, ['Charger help<Enter>'])
  await expect(pell.getByRole('heading', { name: 'Charger help' })).toBeVisible()
  await script(pell).focus()
  // From the end of the greeting: a choice, a suggestion, a branch by hours, and a hand over.
  await pell.keyboard.press('Control+End')
  keys += await type(pell, [
    'choose What happens at the charger?<Enter>',
    'It does not start<Enter>',
    'suggest A-0025: Try this first.<Enter><Tab>',
    'yes: close Good. Drive well.<Enter>',
    'no -> person<Enter><Shift+Tab><Shift+Tab>',
    '- Something else<Enter>',
    'branch<Enter>',
    'we are open: go to person<Enter>',
    'else<Enter>',
    'say We open [next opening, else "soon"].<Enter><Shift+Tab><Shift+Tab><Shift+Tab><Shift+Tab>',
    'request Field: What shall we know about it?<Enter>',
    'close Thank you.<Enter>',
    'whenever a person is asked for: person, human<Enter>',
    'person: hand over Field: I pass you on.',
  ])
  await pell.keyboard.press('Escape') // what is offered to complete
  await saved(pell)
  await expect(pell.locator('aside').getByRole('status')).toHaveText(
    /^The checks find nothing wrong|^\d+ warning/,
  )
  await accessible(pell)
  keys += 1
  await pell.keyboard.press('Control+Enter')
  await expect(pell.getByRole('dialog', { name: 'Publish this script' })).toBeVisible()
  await accessible(pell)
  keys += await type(pell, ['The first one<Tab><Enter>'])
  await expect(pell.getByText('Version 1 is live')).toBeVisible()
  // What is shown is what a reload shows.
  await expect(pell.locator('.article-title')).toBeVisible() // of the article
  await script(pell).press('Control+Home') // the line one is in shows the words that the others leave unsaid
  const before = await script(pell).innerText()
  await pell.reload()
  await expect(pell.locator('.article-title')).toBeVisible()
  expect(await script(pell).innerText()).toBe(before)
  expect(keys).toBeLessThan(800)
  expect((Date.now() - began) / 60_000).toBeLessThan(10)
})

test('a script with errors is refused, and the conversation that shows why is played', async ({
  browser,
}) => {
  const maren = await staff(browser, server, 'Maren', demo)
  await maren.goto(server.url + '/staff/flows/street-chargers')
  await expect(maren.getByText('4 errors and')).toBeVisible()
  await maren.getByRole('button', { name: 'Publish…' }).click()
  await expect(maren.getByText('Nothing goes live before they are mended')).toBeVisible()
  await maren.keyboard.press('Escape')
  await script(maren).focus()
  await maren.keyboard.press('Control+End')
  await type(maren, [
    '<Enter>choose Shall we go on?<Enter>Yes<Enter>say Fine.<Enter><Shift+Tab>- No<Enter>close Bye.',
  ])
  await maren.keyboard.press('Escape')
  await expect(maren.getByText('After this the conversation runs out')).toBeVisible()
  await maren.getByRole('button', { name: 'Show that conversation' }).first().click()
  await expect(maren.getByRole('list', { name: 'The conversation' })).toContainText(
    'What happens at the charger?',
  )
  await accessible(maren)
})

test('a script is written in a second language beside the first, and read in it', async ({ browser }) => {
  const maren = await staff(browser, server, 'Maren', demo)
  await maren.goto(server.url + '/staff/flows/power-is-off?beside=fr')
  await expect(maren.getByText(/texts are missing in “fr”/)).toBeVisible()
  await maren.getByLabel('“Only my home is dark” in fr').fill('Seul mon logement est dans le noir')
  await maren.getByLabel('“The whole street is dark” in fr').fill('Toute la rue est dans le noir')
  await maren.getByRole('heading', { name: 'Power is off' }).click()
  const kept = async () =>
    (
      (await (await maren.request.get(server.url + '/api/staff/flows/power-is-off')).json()) as {
        source: string
      }
    ).source
  await expect.poll(kept).toContain('Toute la rue est dans le noir')
  await accessible(maren)
  await maren.goto(server.url + '/staff/flows/power-is-off')
  await expect(script(maren)).toContainText('Seul mon logement est dans le noir')
  await expect(script(maren)).toContainText('Toute la rue est dans le noir')
  await maren.getByRole('button', { name: 'Versions' }).click()
  await maren.getByRole('link', { name: 'What changed' }).first().click()
  await expect(maren.getByRole('heading', { name: 'From version 1 to what is being written' })).toBeVisible()
  await expect(maren.locator('.added')).toHaveCount(2)
  await accessible(maren)
})

test('closed at night: the bot says when we open, in two languages, and takes a request', async ({
  browser,
}) => {
  const maren = await staff(browser, server, 'Maren', demo)
  await maren.goto(server.url + '/staff/settings/hours')
  await maren.getByRole('button', { name: /^Accounts/ }).click()
  await expect(maren.getByRole('heading', { name: 'Accounts' })).toBeVisible()
  await maren.getByLabel('Day and night, every day').uncheck()
  await maren.getByLabel('Monday').fill('in the morning')
  await maren.getByRole('button', { name: 'Keep' }).click()
  await expect(maren.getByText('Write the hours as 8–12, 13–18, or nothing.').first()).toBeVisible()
  await expect(maren.getByLabel('Monday')).toHaveValue('in the morning')
  await accessible(maren)
  // Open every day, but not within the next hours.
  const hour =
    (Number(new Intl.DateTimeFormat('en', { hour: 'numeric', hourCycle: 'h23' }).format(new Date())) + 5) % 23
  for (const day of ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'])
    await maren.getByLabel(day).fill(`${hour}-${hour + 1}`)
  await maren.getByRole('button', { name: 'Keep' }).click()
  await expect(maren.getByText('Closed now.')).toBeVisible()
  await expect(maren.getByLabel('Monday')).toHaveValue(/^\d\d:00–\d\d:00$/)
  for (const [language, ask, words] of [
    ['en', 'Talk to a person', /Nobody is there just now\. We open (today|tomorrow) at \d\d:00\./],
    [
      'de',
      'Mit einem Menschen sprechen',
      /Gerade ist niemand da\. Wir sind (heute|morgen) um \d\d:00 wieder da\./,
    ],
  ] as const) {
    const page = await visitor(browser)
    await page.goto(server.url + `/help?lang=${language}`)
    await page.goto(server.url + '/chat?new=1')
    await page.getByRole('button', { name: ask }).click()
    await expect(page.getByText(words).first()).toBeVisible()
    await page.locator('#say').fill('My meter is upside down')
    await page.keyboard.press('Enter')
    await expect(page.locator('.talk > li.customer').last()).toContainText('upside down')
    await page.locator('#say').fill('skip')
    await page.keyboard.press('Enter')
    await expect(page.getByText(/R-\d+/)).toBeVisible()
    await accessible(page)
  }
})

test('an article ends under a live flow: its owner hears of it, and nobody meets a dead end', async ({
  browser,
}) => {
  test.setTimeout(120_000)
  const maren = await staff(browser, server, 'Maren', demo)
  const source = (await (await maren.request.get(server.url + '/api/staff/flows/front-door')).json()) as {
    source: string
    owner: string
  }
  const reference = /meter: suggest (A-\d+)/.exec(source.source)?.[1] ?? ''
  expect(reference).not.toBe('')
  // Its title stands behind its reference, and is no part of the text.
  await maren.goto(server.url + '/staff/flows/front-door')
  await expect(maren.locator('.article-title').first()).toBeVisible()
  await maren.goto(server.url + `/staff/library/${reference}`)
  await maren.getByRole('button', { name: 'Withdraw' }).click()
  await expect(maren.getByRole('dialog')).toContainText('Front door')
  await maren.getByRole('dialog').getByRole('button', { name: 'Withdraw' }).click()
  await expect(maren.getByRole('dialog')).toBeHidden()
  await server.moveClock('2m') // the checks run again by themselves
  await expect(async () => {
    await maren.goto(server.url + '/staff/flows')
    await expect(maren.getByRole('row', { name: /Front door/ })).toContainText('1 error since')
  }).toPass({ timeout: 40_000 })
  await maren.goto(server.url + '/staff/flows/front-door')
  await expect(maren.getByText(`${reference} is not live, so nobody would see it`).first()).toBeVisible()
  await accessible(maren)
  // Meanwhile whoever comes goes on.
  const page = await visitor(browser)
  await page.goto(server.url + '/chat?new=1')
  await page.getByRole('button', { name: 'My meter' }).click()
  await expect(page.getByText('About meters and readings:')).toBeVisible()
  await expect(page.locator('.cards li')).toHaveCount(2)
})

test('a flow goes through review: a note, a pass, and only then live', async ({ browser }) => {
  const maren = await staff(browser, server, 'Maren', demo)
  await maren.goto(server.url + '/staff/flows/moving-home?margin=where')
  await maren.getByLabel('Review path').selectOption({ label: 'One reviewer' })
  await expect(maren.getByText('It goes live by the review path “One reviewer”.')).toBeVisible()
  const ilse = await staff(browser, server, 'Ilse', demo)
  await ilse.goto(server.url + '/staff/flows/moving-home')
  await script(ilse).focus()
  await ilse.keyboard.press('Control+Home')
  await ilse.keyboard.press('ArrowDown')
  await ilse.keyboard.press('End')
  await ilse.keyboard.type(' Farewell.')
  await ilse.keyboard.press('Escape')
  await saved(ilse)
  await ilse.getByRole('button', { name: 'Send to review' }).click()
  await expect(ilse.getByText(/it stands before the gate “Review”/)).toBeVisible()
  await accessible(ilse)
  await ilse.goto(server.url + '/staff/') // lets go of the text

  const brida = await staff(browser, server, 'Brida', demo)
  await brida.goto(server.url + '/staff/review')
  const lane = brida.getByRole('region', { name: 'Flows' })
  await expect(lane).toContainText('1 for you')
  await accessible(brida)
  await lane.getByRole('link', { name: 'Moving home' }).click()
  await brida.getByRole('link', { name: 'What changed' }).first().click()
  await expect(brida.locator('.added')).toContainText('Farewell.')
  await brida.goBack()
  await brida.getByRole('button', { name: 'Let it pass…' }).click()
  await accessible(brida)
  await brida.getByLabel('What you looked at').fill('The new ending.')
  await brida.getByRole('button', { name: 'Let it pass', exact: true }).click()
  await expect(brida.getByText('Every gate is passed: it can go live.')).toBeVisible()

  const pell = await staff(browser, server, 'Pell', demo)
  await pell.goto(server.url + '/staff/flows/moving-home')
  await expect(pell.getByText('Brida Sallow: “The new ending.”')).toBeVisible()
  await pell.getByRole('button', { name: 'Publish…' }).click()
  await pell.getByLabel('What is new').fill('A farewell')
  await pell.getByRole('button', { name: 'Publish now' }).click()
  await expect(pell.getByText('Version 2 is live')).toBeVisible()
})

test('what stands beside a script is reached by its address, and two do not write at once', async ({
  browser,
}) => {
  const maren = await staff(browser, server, 'Maren', demo)
  for (const [part, words] of [
    ['try', 'From the beginning'],
    ['where', 'Who meets it'],
    ['versions', 'Version 1'],
  ] as const) {
    await maren.goto(server.url + `/staff/flows/moving-home?margin=${part}`)
    await expect(maren.getByText(words).first()).toBeVisible()
    await accessible(maren)
  }
  await maren.goto(server.url + '/staff/flows/street-chargers')
  await script(maren).focus()
  await maren.keyboard.press('Control+End')
  await maren.keyboard.type(' // a note of Maren')
  await saved(maren)
  const ilse = await staff(browser, server, 'Ilse', demo)
  await ilse.goto(server.url + '/staff/flows/street-chargers')
  await expect(ilse.getByText('Maren Tolle is writing this. You read along.')).toBeVisible()
  await expect(script(ilse)).toContainText('a note of Maren')
  await maren.keyboard.type(' and more')
  await expect(script(ilse)).toContainText('a note of Maren and more')
})

test('a conversation is kept, an edit changes it, and nothing goes live until that is meant', async ({
  browser,
}) => {
  const pell = await staff(browser, server, 'Pell', demo)
  const api = (method: 'post' | 'put', path: string, data: unknown) =>
    pell.request[method](server.url + '/api/staff' + path, { data, headers: { Origin: server.url } })
  const made = await api('post', '/flows', { name: 'Bike racks', language: 'en', from: '' })
  const { slug } = (await made.json()) as { slug: string }
  const source = [
    'flow Bike racks (en)',
    'choose What is it?',
    '  - A rack is full',
    '    say There is another by the mill.',
    '  - Nothing',
    'close Ride well.',
    '',
  ].join('\n')
  const { copy_version: version } = (await (
    await pell.request.get(server.url + `/api/staff/flows/${slug}`)
  ).json()) as { copy_version: number }
  expect(
    (await api('put', `/flows/${slug}/text`, { source, version, tab: 'x', key: 'rehearsal' })).ok(),
  ).toBe(true)
  expect((await api('post', `/flows/${slug}/versions`, { copy: version + 1, note: 'First' })).ok()).toBe(true)

  await pell.goto(server.url + `/staff/flows/${slug}?margin=try`)
  const margin = pell.locator('aside')
  await margin.getByRole('button', { name: 'A rack is full' }).click()
  await expect(margin.getByText('There is another by the mill.')).toBeVisible()
  await margin.getByRole('button', { name: 'Keep the conversation above' }).click()
  await pell.keyboard.type('A full rack')
  await pell.keyboard.press('Enter')
  await expect(margin.getByText('goes as kept')).toBeVisible()
  await accessible(pell)

  // The same name once more is refused, and what was typed stays.
  await margin.getByRole('button', { name: 'Keep the conversation above' }).click()
  await pell.keyboard.type('A full rack')
  await pell.keyboard.press('Enter')
  await expect(margin.getByText('There is a rehearsal of this name.')).toBeVisible()
  await expect(margin.getByLabel('What the rehearsal is called')).toHaveValue('A full rack')
  await pell.keyboard.press('Escape')

  // An edit of what it met: the same conversation is played again at once, and goes otherwise.
  await script(pell).getByText('There is another by the mill.').click()
  await pell.keyboard.press('End')
  await pell.keyboard.type(' Or at the quay.')
  await expect(margin.getByText('goes otherwise')).toBeVisible()
  await expect(margin.getByRole('list', { name: 'The conversation' })).toContainText('Or at the quay.')
  await margin.getByRole('button', { name: 'What changed' }).click()
  const lines = margin.getByRole('list', { name: 'How “A full rack” goes now' })
  await expect(lines.locator('.removed')).toContainText('There is another by the mill.')
  await expect(lines.locator('.added')).toContainText('Or at the quay.')
  await accessible(pell)
  await saved(pell)
  await pell.getByRole('button', { name: 'Publish…' }).click()
  await expect(pell.getByText('Nothing goes live before it is mended')).toBeVisible()
  await pell.keyboard.press('Escape')

  await margin.getByRole('button', { name: 'It should go so' }).click()
  await expect(margin.getByText('goes as kept')).toBeVisible()
  await pell.keyboard.press('Control+Enter')
  await expect(pell.getByRole('dialog', { name: 'Publish this script' })).toBeVisible()
  await type(pell, ['There are two<Tab><Enter>'])
  await expect(pell.getByText('Version 2 is live')).toBeVisible()

  // What is kept is played as it is kept, also after a reload, and can be let go.
  await pell.reload()
  await margin.getByRole('button', { name: 'Play it' }).click()
  await expect(margin.getByRole('list', { name: 'The conversation' })).toContainText('Or at the quay.')
  await margin.getByRole('button', { name: 'Remove' }).click()
  await pell.getByRole('button', { name: 'Remove it' }).click()
  await expect(margin.getByText('Keep a conversation that must go on as it goes')).toBeVisible()
})
