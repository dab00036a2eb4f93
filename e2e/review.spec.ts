import { expect, test, type Page } from '@playwright/test'
import { accessible, hasCategory, staff, visitor } from './people'
import { Server } from './server'

let server: Server
test.beforeAll(async () => {
  server = await Server.start()
  server.addStaff('Ada', 'author')
  server.addStaff('Fia', 'reviewer', 'Field')
  server.addStaff('Finn', 'reviewer', 'Field')
  server.addStaff('Sam', 'reviewer')
  server.addStaff('Pia', 'publisher,author')
  server.addStaff('Max', 'administrator')
  server.addStaff('Eve', 'author,reviewer')
})
test.afterAll(() => server.stop())

const text = (page: Page) => page.getByRole('textbox', { name: 'Text of the article' })
const saying = (page: Page) => page.locator('.saying')

async function category(page: Page, name: string) {
  await page.getByRole('navigation', { name: 'Sections' }).getByRole('link', { name: 'Library' }).click()
  await expect(page.getByRole('button', { name: 'Add category' })).toBeVisible()
  if (await hasCategory(page, server, name)) return
  await page
    .getByRole('navigation', { name: 'Categories' })
    .getByRole('button', { name: 'Add category' })
    .click()
  await page.getByLabel('Name').fill(name)
  await page.getByRole('dialog').getByRole('button', { name: 'Add category' }).click()
  await expect(page.getByRole('dialog')).toHaveCount(0)
}

/** Writes an article in a category and sends it to review; gives its reference. */
async function write(page: Page, where: string, title: string, words: string, send = true): Promise<string> {
  await category(page, where)
  await page.getByRole('button', { name: new RegExp(`^${where}`) }).click()
  await page.getByRole('button', { name: 'New article' }).click()
  await page.getByLabel('Title, as a customer would ask').fill(title)
  await page.getByRole('button', { name: 'Begin writing' }).click()
  await text(page).click()
  await page.keyboard.type(words)
  await expect(saying(page)).toContainText('Saved')
  const reference = /A-\d+/.exec(page.url())?.[0] ?? ''
  if (send) {
    await page.getByRole('button', { name: 'Send to review' }).click()
    await expect(page.getByText('In review', { exact: true })).toBeVisible()
  }
  return reference
}

/** Marks words in the text that is shown. */
async function mark(page: Page, words: string) {
  await page.locator('[data-text]').evaluate((root, words) => {
    const walker = document.createTreeWalker(root, NodeFilter.SHOW_TEXT)
    for (let n = walker.nextNode() as Text | null; n; n = walker.nextNode() as Text | null) {
      const at = n.data.indexOf(words)
      if (at < 0) continue
      const range = document.createRange()
      range.setStart(n, at)
      range.setEnd(n, at + words.length)
      getSelection()?.removeAllRanges()
      getSelection()?.addRange(range)
      return
    }
    throw new Error(`${words} is not shown`)
  }, words)
}

test('a safety article passes two gates, with a send-back and a comment accepted', async ({ browser }) => {
  const ada = await staff(browser, server, 'Ada')
  await category(ada, 'Safety')

  const max = await staff(browser, server, 'Max')
  await test.step('an administrator gives safety its path, and the path its team', async () => {
    await max.goto(server.url + '/staff/settings/paths')
    await max.getByRole('button', { name: 'Change Safety' }).click()
    await max.getByLabel('Team for gate 1').selectOption('in the team Field')
    await max.getByRole('button', { name: 'Keep the path' }).click()
    await expect(max.getByText('by reviewer in the team Field')).toBeVisible()
    await category(max, 'Safety')
    await max.getByRole('button', { name: /^Safety/ }).click()
    await max.getByRole('button', { name: 'Change', exact: true }).click()
    await max.getByLabel('Review path').selectOption('Safety')
    await max.getByLabel('Steward').selectOption('Pia')
    await accessible(max)
    await max.getByRole('button', { name: 'Save category' }).click()
    await expect(max.getByRole('dialog')).toHaveCount(0)
  })

  const ref = await write(ada, 'Safety', 'A line is down', 'Go away from it quickly. Call us at once.')
  const sam = await staff(browser, server, 'Sam')
  const fia = await staff(browser, server, 'Fia')

  await test.step('only the first gate’s team can pass it; it comments and sends back', async () => {
    await sam.goto(`${server.url}/staff/review/${ref}`)
    await expect(sam.getByText('The gate “Safety review” is not yours to pass.')).toBeVisible()
    await expect(sam.getByRole('button', { name: 'Approve' })).toHaveCount(0)

    await expect(fia.getByRole('link', { name: /^News 1/ })).toBeVisible()
    await fia.getByRole('link', { name: 'Review', exact: true }).click()
    await expect(fia.getByRole('heading', { name: /^Safety review 1/ })).toContainText('1 for you')
    await accessible(fia)
    await fia.getByRole('link', { name: 'A line is down' }).click()
    await expect(fia.getByText('Nothing of it is live yet')).toBeVisible()
    await mark(fia, 'Go away from it quickly')
    await fia.keyboard.press('c')
    await fia.getByLabel('Comment', { exact: true }).fill('How far?')
    await fia.getByLabel('Suggest other words').check()
    await fia.getByLabel('Suggested words').fill('Stay ten metres away')
    await accessible(fia)
    await fia.getByRole('button', { name: 'Comment', exact: true }).click()
    await expect(fia.getByRole('article', { name: 'Comment of Fia' })).toContainText('Stay ten metres away')
    await accessible(fia)
    await fia.getByRole('button', { name: 'Send back' }).click()
    await expect(fia.getByRole('alert').first()).toContainText('Say in the decision note')
    await fia.getByLabel('Decision note').fill('Say how far.')
    await fia.getByRole('button', { name: 'Send back' }).click()
    await expect(fia.getByRole('heading', { name: /^Sent back 1/ })).toBeVisible()
  })

  await test.step('the author writes on; the comment stays at its words, and one key takes them', async () => {
    await ada.goto(`${server.url}/staff/library/${ref}?margin=remarks`)
    await expect(ada.getByText('Sent back: Say how far.')).toBeVisible()
    const note = ada.getByRole('article', { name: 'Comment of Fia' })
    await expect(note).toContainText('How far?')
    await text(ada).click()
    await ada.keyboard.press('Control+Home')
    await ada.keyboard.type('Every line is live. ')
    await expect(saying(ada)).toContainText('Saved')
    await expect(note).toContainText('“Go away from it quickly”')
    await accessible(ada)
    await note.focus()
    await ada.keyboard.press('a')
    await expect(text(ada)).toHaveText('Every line is live. Stay ten metres away. Call us at once.')
    await expect(ada.getByText('1 resolved comment')).toBeVisible()
    await ada.getByRole('button', { name: 'Send to review' }).click()
    await expect(ada.getByText('In review', { exact: true })).toBeVisible()
  })

  await test.step('both gates let it pass, a change in between clears the first', async () => {
    // Fia's words stand in it: she is one of its authors now.
    await fia.goto(`${server.url}/staff/review/${ref}`)
    await expect(
      fia.getByText(
        'You wrote or submitted this text; at the gate “Safety review” somebody else must look at it.',
      ),
    ).toBeVisible()
    await expect(fia.getByRole('button', { name: 'Approve' })).toHaveCount(0)
    const finn = await staff(browser, server, 'Finn')
    await finn.goto(`${server.url}/staff/review/${ref}`)
    await finn.getByLabel('Decision note').fill('As in the handbook.')
    await finn.getByRole('button', { name: 'Approve' }).click()
    await expect(finn.getByRole('heading', { name: 'Review', exact: true })).toBeVisible()

    await text(ada).click()
    await ada.keyboard.press('Control+End')
    await ada.keyboard.type(' Do not touch it.')
    await expect(saying(ada)).toContainText('Saved')
    await sam.reload()
    await expect(sam.getByText('cleared: the text changed afterwards')).toBeVisible()

    await finn.goto(`${server.url}/staff/review/${ref}`)
    await finn.getByLabel('Decision note').fill('Still right.')
    await finn.getByLabel('Decision note').press('Control+Enter')
    await sam.reload()
    await expect(sam.getByText('passed by Finn')).toBeVisible()
    await sam.getByRole('button', { name: 'Approve' }).click()
    await expect(sam.getByRole('button', { name: 'Approve' })).toHaveCount(0)
  })

  const pia = await staff(browser, server, 'Pia')
  await pia.goto(`${server.url}/staff/review/${ref}`)
  await pia.getByRole('button', { name: 'Publish…' }).click()
  await pia.getByLabel('What changed, for readers and the feed').fill('New: how far to stay away.')
  await pia.getByRole('button', { name: 'Publish now' }).click()
  await expect(pia.getByRole('dialog')).toHaveCount(0)
  const wim = await visitor(browser)
  await wim.goto(`${server.url}/help/articles/${ref}`)
  await expect(wim.getByText('Stay ten metres away')).toBeVisible()
  await expect(wim.getByText('New: how far to stay away.')).toBeVisible()
  await max.goto(`${server.url}/staff/trail?article=${ref}`)
  await expect(max.getByText('at the gate “Safety review”: As in the handbook.')).toBeVisible()
  await accessible(max)
})

test('a batch goes live at its time, as one, and is undone as one', async ({ browser }) => {
  const pia = await staff(browser, server, 'Pia')
  await write(pia, 'Prices', 'The price by day', 'A unit costs 34.', false)
  await write(pia, 'Prices', 'The price by night', 'A unit costs 21.', false)
  await pia.getByRole('navigation', { name: 'Sections' }).getByRole('link', { name: 'Library' }).click()
  await pia.getByRole('button', { name: /^Prices/ }).click()
  await pia.getByLabel('Select The price by day').check()
  await pia.getByLabel('Select The price by night').check()
  await pia.getByRole('button', { name: 'Put them together' }).click()
  await pia.getByLabel('Name of the batch').fill('Prices of spring')
  await accessible(pia)
  await pia.getByRole('dialog').getByRole('button', { name: 'Put them together' }).click()
  await expect(pia.getByRole('heading', { name: 'Prices of spring' })).toBeVisible()
  await pia.getByRole('button', { name: 'Send to review' }).click()
  await expect(pia.getByText('In review at “Review”')).toHaveCount(2)
  await accessible(pia)

  const sam = await staff(browser, server, 'Sam')
  await sam.goto(pia.url())
  await sam.getByText('All of it is new').first().click()
  await expect(sam.getByText('A unit costs 34.')).toBeVisible()
  await sam.getByRole('button', { name: 'Approve' }).click()
  await expect(sam.getByText('2 past every gate')).toBeVisible()

  await pia.reload()
  await pia.getByRole('button', { name: 'At a time…' }).click()
  const zone = 'UTC'
  const at = (ms: number) => new Date(Date.now() + ms).toISOString().slice(0, 16)
  await pia.getByLabel(`When, in ${zone}`).fill(at(-3_600_000))
  await pia.getByRole('button', { name: 'Set the time' }).click()
  await expect(pia.getByText('This time has passed.').first()).toBeVisible()
  await pia.getByLabel(`When, in ${zone}`).fill('tomorrow') // what is no time is not sent as the one before it
  await pia.getByRole('button', { name: 'Set the time' }).click()
  await expect(pia.getByText('Write it as 2 Mar 2026 09:30.')).toBeVisible()
  await expect(pia.getByText('Goes live on')).toHaveCount(0)
  await pia.getByLabel(`When, in ${zone}`).fill(at(2 * 3_600_000))
  await pia.getByRole('button', { name: 'Set the time' }).click()
  await expect(pia.getByText('Goes live on')).toBeVisible()

  const wim = await visitor(browser)
  await wim.goto(server.url + '/help')
  await expect(wim.getByText('The price by day')).toHaveCount(0)
  server.moveClock('2h1m')
  await expect(async () => {
    await wim.goto(server.url + '/help/search?q=price by night')
    await expect(wim.locator('.results').getByRole('link', { name: 'The price by night' })).toBeVisible({
      timeout: 500,
    })
  }).toPass({ timeout: 15_000 })
  await wim.goto(server.url + '/help')
  await expect(wim.getByText('The price by day')).toBeVisible()

  await pia.reload()
  await expect(pia.getByText(/^Published ·/)).toBeVisible()
  await pia.getByRole('button', { name: 'Undo it' }).click()
  await pia.getByRole('dialog').getByRole('button', { name: 'Undo it' }).click()
  await expect(pia.getByText(/^Undone ·/)).toBeVisible()
  await wim.reload()
  await expect(wim.getByText('The price by day')).toHaveCount(0)
  await pia.getByRole('link', { name: /^News/ }).click()
  await expect(pia.getByText('The batch “Prices of spring” (2 articles) went live')).toBeVisible()
  server.moveClock('0s')
})

test('what a reader says is mended, and the reader is told', async ({ browser }) => {
  server.addCustomer('Wim Castor', 'wim@post.example')
  const pia = await staff(browser, server, 'Pia')
  const sam = await staff(browser, server, 'Sam')
  const ref = await write(pia, 'Meters', 'Read the meter', 'Open the door and press the round key.')
  const pass = async () => {
    await sam.goto(`${server.url}/staff/review/${ref}`)
    await sam.getByRole('button', { name: 'Approve' }).click()
    await expect(sam.getByRole('button', { name: 'Approve' })).toHaveCount(0)
    await pia.goto(`${server.url}/staff/library/${ref}`)
    await pia.getByRole('button', { name: 'Publish…' }).click()
    await pia.getByRole('button', { name: 'Publish now' }).click()
    await expect(pia.getByText('Published', { exact: true }).first()).toBeVisible()
  }
  await pass()

  const wim = await visitor(browser)
  await test.step('a reader marks words and says what is wrong with them', async () => {
    await wim.goto(`${server.url}/help/sign-in?back=/help/articles/${ref}`)
    await wim.getByLabel('Mail address').fill('wim@post.example')
    await wim.getByLabel('Password').fill('a long password')
    await wim.getByRole('button', { name: 'Sign in' }).click()
    await expect(wim.getByRole('heading', { name: 'Read the meter' })).toBeVisible()
    await wim.locator('.prose p').evaluate((p) => {
      const range = document.createRange()
      range.setStart(p.firstChild as Text, 24)
      range.setEnd(p.firstChild as Text, 37)
      getSelection()?.addRange(range)
    })
    await wim.getByRole('button', { name: 'No', exact: true }).click()
    await expect(wim.locator('.about')).toContainText('the round key')
    await wim.getByLabel('If it did not: what was missing or wrong?').fill('Mine has a square key.')
    await accessible(wim)
    await wim.getByRole('button', { name: 'Tell us' }).click()
    await expect(wim.getByText('we read every word')).toBeVisible()
  })

  await test.step('the owner sees it beside the words, mends them and answers', async () => {
    await pia.getByRole('link', { name: 'Today', exact: true }).click()
    await expect(pia.getByText('“Mine has a square key.”')).toBeVisible()
    await accessible(pia)
    await pia.getByRole('link', { name: `Answer ${ref}` }).click()
    const said = pia.getByRole('article', { name: 'What a reader said' })
    await expect(said).toContainText('“the round key”')
    await said.getByRole('button', { name: 'Answer it' }).click()
    await said.getByRole('button', { name: 'Answer', exact: true }).click()
    await expect(said.getByRole('alert')).toContainText('nothing newer is live yet')
    await text(pia).click()
    await pia.keyboard.press('Control+End')
    await pia.keyboard.type(' On some meters it is square.')
    await expect(saying(pia)).toContainText('Saved')
    await pia.getByRole('button', { name: 'Send to review' }).click()
    await expect(pia.getByText('In review', { exact: true })).toBeVisible()
    await pass()
    await pia.goto(`${server.url}/staff/library/${ref}?margin=remarks`)
    await said.getByRole('button', { name: 'Answer it' }).click()
    await said.getByLabel('Note').fill('It now names both keys.')
    await accessible(pia)
    await said.getByRole('button', { name: 'Answer', exact: true }).click()
    await expect(pia.getByText('1 answered reader')).toBeVisible()
  })

  const room = await visitor(browser)
  await expect(async () => {
    await room.goto(`${server.mailRoom}/?to=wim@post.example`)
    await expect(room.getByRole('article', { name: 'About “Read the meter”' })).toContainText(
      'It now names both keys.',
      { timeout: 500 },
    )
  }).toPass({ timeout: 15_000 })
  await accessible(room)

  await test.step('withdrawn, its readers are sent on, and its feed no longer names it', async () => {
    const other = await write(pia, 'Meters', 'Read any meter', 'Look for the key.')
    await sam.goto(`${server.url}/staff/review/${other}`)
    await sam.getByRole('button', { name: 'Publish…' }).click() // the last gate is Sam's: one step passes it and publishes
    await sam.getByRole('button', { name: 'Publish now' }).click()
    await expect(sam.getByText('Published', { exact: true }).first()).toBeVisible()
    await pia.goto(`${server.url}/staff/library/${ref}`)
    await pia.getByRole('button', { name: 'Withdraw' }).click()
    await pia.getByLabel('Send its readers to').fill(ref)
    await pia.getByRole('button', { name: 'Withdraw it' }).click()
    await expect(pia.getByText('An article cannot send its readers to itself.').first()).toBeVisible()
    await pia.getByLabel('Send its readers to').fill(other)
    await pia.getByRole('button', { name: 'Withdraw it' }).click()
    await expect(pia.getByRole('dialog')).toHaveCount(0)
    await wim.goto(`${server.url}/help/articles/${ref}`)
    await expect(wim.getByRole('heading', { name: 'Read any meter' })).toBeVisible()
  })
})

test('what a leaver looks after is handed over on one screen', async ({ browser }) => {
  const eve = await staff(browser, server, 'Eve')
  const ref = await write(eve, 'Bills', 'Pay a bill', 'Pay it by card.', false)
  const max = await staff(browser, server, 'Max')
  await max.goto(server.url + '/staff/settings')
  await max.getByRole('link', { name: 'Hand over what Eve looks after' }).click()
  await expect(max.getByRole('heading', { name: '1 article' })).toBeVisible()
  await accessible(max)
  await max.getByRole('button', { name: 'Hand it over' }).click()
  await expect(max.getByText('Somebody must own their articles once they are gone.').first()).toBeVisible()
  await max.getByLabel('All of them go to').selectOption('Ada')
  await max.getByRole('button', { name: 'Hand it over' }).click()
  await expect(max.getByText('Handed over: 1 article')).toBeVisible()
  await expect(max.getByText('owns nothing, reviews nothing')).toBeVisible()
  await eve.goto(server.url + '/staff/today')
  await expect(eve.getByRole('button', { name: 'Sign in' })).toBeVisible()
  const ada = await staff(browser, server, 'Ada')
  await ada.getByRole('link', { name: /^News/ }).click()
  await expect(ada.getByText('1 of the articles of Eve are yours now.')).toBeVisible()
  await ada.goto(`${server.url}/staff/library/${ref}`)
  await ada.getByRole('tab', { name: 'About' }).click()
  await expect(ada.getByLabel('Owner')).toHaveValue(/\d+/)
  await expect(ada.getByLabel('Owner').locator('option:checked')).toHaveText('Ada')
})
