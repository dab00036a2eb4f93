import { expect, test } from '@playwright/test'
import { accessible, staff, visitor } from './people'
import { Server } from './server'

let server: Server
test.beforeAll(async () => {
  server = await Server.start()
  server.addStaff('Ada', 'author')
  server.addStaff('Rex', 'reviewer')
  server.addStaff('Pia', 'publisher')
  server.addStaff('Gus', 'agent', 'Accounts')
  server.addStaff('Lyn', 'analyst')
})
test.afterAll(() => server.stop())

const script = `flow Front door (en)
what: choose What is it about?
  - My bill
    bill: suggest A-0001: This may help.
      yes -> bye
      no -> person
      nothing -> find
  - Something else
    go to find
find: look up In your own words?
  yes -> bye
  no -> person
  nothing -> person
leave: request Accounts: What shall we answer?
bye: close Goodbye.
whenever a person is asked for: person, human
  person: hand over Accounts: I pass you on.
    closed -> leave
whenever anything else is typed
  go to find
`

test('the whole story: write, review, publish, search, ask the bot, reach a person, read the figure', async ({
  browser,
}) => {
  const ada = await staff(browser, server, 'Ada')
  await accessible(ada)

  await test.step('an author writes an article and submits it', async () => {
    await ada.getByRole('link', { name: 'Library', exact: true }).click()
    await accessible(ada)
    await ada
      .getByRole('navigation', { name: 'Categories' })
      .getByRole('button', { name: 'Add category' })
      .click()
    await ada.getByLabel('Name').fill('Bills and payments')
    await accessible(ada)
    await ada.getByRole('dialog').getByRole('button', { name: 'Add category' }).click()
    await expect(ada.getByRole('heading', { name: 'Bills and payments' })).toBeVisible()
    await ada.keyboard.press('n')
    await ada.getByLabel('Title, as a customer would ask').fill('Why a bill is estimated')
    await accessible(ada)
    await ada.getByRole('button', { name: 'Begin writing' }).click()
    const text = ada.getByRole('textbox', { name: 'Text of the article' })
    await text.click()
    await ada.keyboard.type('A bill is estimated when no meter reading reached us in time. ')
    await ada.keyboard.press('Control+b')
    await ada.keyboard.type('Send one')
    await ada.keyboard.press('Control+b')
    await expect(ada.getByRole('status')).toContainText('Saved')
    await accessible(ada)
    await ada.getByRole('button', { name: 'Send to review' }).click()
    await expect(ada.getByText('In review', { exact: true })).toBeVisible()
  })

  const rex = await staff(browser, server, 'Rex')
  await test.step('a reviewer sends it back with a note', async () => {
    await rex.getByRole('link', { name: 'Review A-0001' }).click()
    await accessible(rex)
    await rex.getByRole('button', { name: 'Send back' }).click()
    await expect(rex.getByRole('alert')).toContainText('Say in the decision note what should change')
    await rex.getByLabel('Decision note').fill('Say where to send it.')
    await rex.getByRole('button', { name: 'Send back' }).click()
    await expect(rex.getByRole('heading', { name: /^Sent back 1/ })).toBeVisible()
    await accessible(rex)
  })

  await test.step('the author mends it', async () => {
    await ada.getByRole('link', { name: 'Today', exact: true }).click()
    await expect(ada.getByText('Say where to send it.')).toBeVisible()
    await ada.getByRole('link', { name: 'Mend A-0001' }).click()
    await ada.getByRole('textbox', { name: 'Text of the article' }).click()
    await ada.keyboard.press('Control+End')
    await ada.keyboard.type(' from your account, under Readings.')
    await ada.getByRole('button', { name: 'Send to review' }).click()
    await expect(ada.getByText('In review', { exact: true })).toBeVisible()
  })

  await test.step('the reviewer approves, a publisher publishes', async () => {
    await expect(rex.getByRole('heading', { name: /^Review 1/ })).toBeVisible({
      timeout: 20_000,
    })
    await rex.getByRole('link', { name: 'Why a bill is estimated' }).click()
    await expect(rex.getByText('from your account, under Readings.')).toBeVisible()
    await rex.getByRole('button', { name: 'Approve' }).click()
    await expect(rex.getByText('passed by Rex')).toBeVisible()
    await rex.getByRole('link', { name: 'Review', exact: true }).first().click()
    await expect(rex.getByRole('heading', { name: /^Ready to publish 1/ })).toBeVisible()
    const pia = await staff(browser, server, 'Pia')
    await pia.getByRole('link', { name: 'Publish A-0001' }).click()
    await pia.getByRole('button', { name: 'Publish…' }).click()
    await expect(pia.getByRole('region', { name: 'What this touches' })).toContainText('No flow shows it')
    await accessible(pia)
    await pia.getByRole('button', { name: 'Publish now' }).click()
    await expect(pia.getByText('Published', { exact: true }).first()).toBeVisible()

    await pia.getByRole('link', { name: 'Flows', exact: true }).click()
    await expect(pia.getByText('The bot has nothing to say yet')).toBeVisible()
    await accessible(pia)
    await pia.getByRole('button', { name: 'New flow' }).click()
    await pia.getByLabel('Name').fill('Front door')
    await pia.keyboard.press('Enter')
    const text = pia.getByRole('textbox', { name: 'The script' })
    await text.fill(script.replace('yes -> bye', 'yes -> by'))
    await expect(pia.getByText('There is no turn “by”.').first()).toBeVisible()
    await pia.getByRole('button', { name: 'Publish…' }).click()
    await expect(pia.getByText('Nothing goes live before it is mended')).toBeVisible()
    await pia.keyboard.press('Escape')
    await text.fill(script)
    await expect(pia.getByText(/^The checks find nothing wrong/)).toBeVisible()
    await accessible(pia)
    await pia.getByRole('button', { name: 'Publish…' }).click()
    await pia.getByRole('button', { name: 'Publish now' }).click()
    await expect(pia.getByText('Version 1 is live')).toBeVisible()
    await pia.context().close()
  })

  await test.step('a customer searches, reads and says yes', async () => {
    const wim = await visitor(browser)
    await wim.goto(server.url + '/help')
    await accessible(wim)
    await wim.getByLabel('Your question').fill('why is my bill estimated?')
    await wim.getByRole('button', { name: 'Find answers' }).click()
    await accessible(wim)
    const read = wim.waitForResponse((r) => r.url().endsWith('/read') && r.status() === 204)
    await wim.locator('.results').getByRole('link', { name: 'Why a bill is estimated' }).click()
    await accessible(wim)
    await read
    await wim.getByRole('button', { name: 'Yes' }).click()
    await expect(wim.getByText('Thank you: your answer is noted.')).toBeVisible()
    await wim.context().close()
  })

  await test.step('another asks the bot, says no, reaches an agent and is answered', async () => {
    const odile = await visitor(browser)
    await odile.goto(server.url + '/chat')
    await odile.getByRole('button', { name: 'My bill' }).click()
    await odile.getByRole('button', { name: /Why a bill is estimated/ }).click()
    await expect(odile.getByRole('dialog')).toContainText('Send one')
    await accessible(odile)
    await odile.getByRole('button', { name: 'Back to the chat' }).first().click()
    await odile.getByRole('button', { name: 'No, not yet' }).click()
    await expect(odile.getByText('You are in the queue')).toBeVisible()
    await odile.getByLabel('Your message').fill('It has been estimated three times now')
    await odile.getByLabel('Your message').press('Enter')
    await accessible(odile)

    const gus = await staff(browser, server, 'Gus')
    await expect(gus.getByRole('heading', { name: '1 customer waits for a person' })).toBeVisible()
    await gus.getByRole('link', { name: /Answer H-/ }).click()
    await expect(gus.getByText('opened, said it did not help')).toBeVisible()
    await accessible(gus)
    await gus.getByRole('button', { name: 'Accept' }).click()
    await gus.getByLabel('Your reply').fill('I put it right; this says how to keep it so.')
    await gus.getByLabel('Your reply').press('Control+k')
    await gus.keyboard.press('Enter')
    await gus.getByLabel('Your reply').press('Control+Enter')
    await expect(odile.getByText('I put it right')).toBeVisible()
    await expect(odile.getByText(/is with you now/)).toHaveCount(1) // told once who is with them
    await odile.locator('li.agent .cards button').first().click() // what the agent showed opens
    await expect(odile.getByRole('dialog')).toBeVisible()
    await odile.keyboard.press('Escape')
    await expect(odile.getByRole('dialog')).toHaveCount(0)
    await odile.getByLabel('Your message').fill('Thank you!')
    await odile.getByLabel('Your message').press('Enter')
    await expect(gus.getByText('Thank you!')).toBeVisible()
    await accessible(gus)
    await gus.getByRole('button', { name: 'Close conversation' }).click()
    await expect(odile.getByText('Gus closed the conversation.')).toBeVisible()
    await gus.context().close()
    await odile.context().close()
  })

  await test.step('the analyst sees nothing settled yet', async () => {
    const lyn = await staff(browser, server, 'Lyn')
    await lyn.getByRole('link', { name: 'Outcomes', exact: true }).click()
    await expect(lyn.getByText('No question has settled yet in this time.')).toBeVisible()
    await expect(lyn.getByRole('button', { name: 'Settling 2' })).toBeVisible()
    await lyn.context().close()
  })

  await test.step('the clock moves past the window; the analyst sees the counts and opens both questions', async () => {
    server.moveClock('74h')
    const lyn = await staff(browser, server, 'Lyn')
    await lyn.getByRole('link', { name: 'Outcomes', exact: true }).click()
    await expect(lyn.getByRole('heading', { name: '2 settled questions' })).toBeVisible()
    await expect(lyn.getByText('1 of 2 · proven and presumed')).toBeVisible()
    await accessible(lyn)
    await lyn.getByRole('button', { name: 'Confirmed 1' }).click()
    await lyn.getByRole('link', { name: 'why is my bill estimated?', exact: true }).click()
    await expect(lyn.getByRole('listitem').filter({ hasText: 'Read' })).toContainText('A-0001@2')
    await expect(lyn.getByRole('listitem').filter({ hasText: 'Said it helped' })).toBeVisible()
    await accessible(lyn)
    await lyn.goBack()
    await lyn.getByRole('button', { name: 'Person 1' }).click()
    await lyn.getByRole('link', { name: 'My bill', exact: true }).click() // not the confirmed one beside it
    await expect(lyn.getByRole('listitem').filter({ hasText: 'An agent answered' })).toBeVisible()

    const asOf = new Date(Date.now() + 74 * 3_600_000).toISOString()
    expect(server.outcomes(asOf).counts).toMatchObject({
      confirmed: 1,
      person: 1,
      presumed: 0,
      unanswered: 0,
      returned: 0,
    })
  })
})
