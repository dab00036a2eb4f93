import { expect, test, type Page } from '@playwright/test'
import { accessible, staff, visitor } from './people'
import { Server } from './server'

// Who comes in, and how: passwords that are forgotten and changed, customers who may no longer, and what is
// sent twice over a bad line.
let server: Server
test.beforeAll(async () => {
  test.setTimeout(240_000)
  server = await Server.start('demo')
})
test.afterAll(() => server.stop())
const demo = 'wrenmoor-demo'

/** The link in the latest mail to an address, once it is there. */
async function linkFor(page: Page, address: string): Promise<string> {
  let link = ''
  await expect
    .poll(
      async () => {
        const mails = (await (await page.request.get(`${server.mailRoom}/mails?to=${address}`)).json()) as {
          subject: string
          text: string
        }[]
        link =
          /http\S*new-password\S*/.exec(
            mails.find((m) => m.subject === 'Set a new password')?.text ?? '',
          )?.[0] ?? ''
        return link
      },
      { timeout: 20_000 },
    )
    .not.toBe('')
  return link
}

test('staff who forgot their password set another by mail, and change it once they are in', async ({
  browser,
}) => {
  const page = await visitor(browser)
  await page.goto(server.url + '/staff/sign-in')
  await page.getByRole('link', { name: 'Forgot your password?' }).click()
  await expect(page.getByRole('heading', { name: 'Set a new password' })).toBeVisible()
  await accessible(page)
  await page.getByLabel('Mail address').fill('ilse@wrenmoor.example')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('status')).toContainText(
    'If somebody signs in with this address, a link is on its way',
  )
  await page.goto(await linkFor(page, 'ilse@wrenmoor.example'))
  await expect(page.getByText('For ilse@wrenmoor.example')).toBeVisible()
  await accessible(page)
  await page.getByLabel('The new password').fill('short')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert')).toContainText('At least 10 characters')
  await page.getByLabel('The new password').fill('a brand new password')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('status')).toContainText('holds from now on')
  await page.reload() // the link was for one use
  await expect(page.getByText('This link has ended, or was used.')).toBeVisible()

  await page.getByRole('link', { name: 'Back to signing in' }).click()
  await page.getByLabel('Mail address').fill('ilse@wrenmoor.example')
  await page.getByLabel('Password').fill('a brand new password')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible()
  await page.getByRole('link', { name: 'Ilse' }).click()
  await expect(page.getByRole('heading', { name: 'Your sign-in' })).toBeVisible()
  await accessible(page)
  await page.getByLabel('Your present password').fill('not this one')
  await page.getByLabel('The new password').fill('yet another password')
  await page.getByRole('button', { name: 'Change the password' }).click()
  await expect(page.getByRole('alert')).toContainText('This is not your present password')
  await page.getByLabel('Your present password').fill('a brand new password')
  await page.getByRole('button', { name: 'Change the password' }).click()
  await expect(page.getByText('everywhere else you are signed out')).toBeVisible()
  await page.reload()
  await expect(page.getByRole('heading', { name: 'Your sign-in' })).toBeVisible()
  await page.context().close()
})

test('an administrator disables a customer, who is signed out at once, and takes it back', async ({
  browser,
}) => {
  const wim = await visitor(browser)
  await wim.goto(server.url + '/help/sign-in')
  await wim.getByLabel('Mail address').fill('wim@post.example')
  await wim.getByLabel('Password').fill(demo)
  await wim.getByRole('button', { name: 'Sign in' }).click()
  await expect(wim.getByText('Wim Castor')).toBeVisible()

  const maren = await staff(browser, server, 'Maren', demo)
  await maren.goto(server.url + '/staff/settings')
  await maren.getByRole('link', { name: 'Customers', exact: true }).click()
  await expect(maren.getByRole('heading', { name: 'Customers', exact: true })).toBeVisible()
  await accessible(maren)
  await maren.getByLabel('Name or mail address').fill('castor')
  await maren.keyboard.press('Enter')
  await expect(maren.getByRole('status')).toHaveText('1 customer')
  await maren.getByRole('button', { name: 'Disable: Wim Castor' }).click()
  await expect(maren.getByText('Wim Castor (disabled)')).toBeVisible()
  await wim.reload()
  await expect(wim.getByText('Wim Castor')).toHaveCount(0)

  await maren.getByRole('button', { name: 'Take it back' }).click()
  await expect(maren.getByRole('button', { name: 'Disable: Wim Castor' })).toBeVisible()
  await maren.getByRole('button', { name: 'Send Wim Castor a link to set a password' }).click()
  await expect(maren.getByText('A link is on its way to wim@post.example')).toBeVisible()
  await maren.goBack() // before the search
  await expect(maren.getByLabel('Name or mail address')).toHaveValue('')
  await maren.context().close()

  await wim.goto(await linkFor(wim, 'wim@post.example'))
  await accessible(wim)
  await wim.getByLabel('The new password').fill('wim has another')
  await wim.getByRole('button', { name: 'Set the password' }).click()
  await expect(wim.getByRole('status')).toContainText('holds from now on')
  await wim.getByRole('link', { name: 'Sign in' }).first().click()
  await wim.getByLabel('Mail address').fill('wim@post.example')
  await wim.getByLabel('Password').fill('wim has another')
  await wim.getByRole('button', { name: 'Sign in' }).click()
  await wim.goto(server.url + '/help/requests')
  await wim.getByRole('link', { name: 'Change your password' }).click()
  await accessible(wim)
  await wim.getByLabel('Your present password').fill('wim has another')
  await wim.getByLabel('The new password').fill(demo)
  await wim.getByRole('button', { name: 'Set the password' }).click()
  await expect(wim.getByRole('status')).toContainText('You stay signed in here')
  await wim.context().close()
})

test('a customer who forgot their password asks for a link, and hears nothing of who is there', async ({
  browser,
}) => {
  const narrow = { viewport: { width: 360, height: 740 } }
  const seen = await visitor(browser, narrow)
  await seen.goto(server.url + '/help/forgotten')
  await accessible(seen)
  await seen.context().close()
  const page = await visitor(browser, { javaScriptEnabled: false, ...narrow })
  await page.goto(server.url + '/help/sign-in')
  await page.getByRole('link', { name: 'Forgot your password?' }).click()
  for (const address of ['nobody@post.example', 'wim@post.example']) {
    await page.goto(server.url + '/help/forgotten')
    await page.getByLabel('Mail address').fill(address)
    await page.getByRole('button', { name: 'Send me a link' }).click()
    await expect(page.getByRole('status')).toHaveText(
      'If somebody signs in with this address, a link is on its way. It works for two hours.',
    )
  }
  await page.context().close()
})

test('what a customer says over a bad line is said once', async ({ browser }) => {
  const odile = await visitor(browser)
  await odile.goto(server.url + '/chat')
  await expect(odile.getByLabel('Your message')).toBeVisible()
  let lost = 0
  await odile.route('**/api/chat/*/messages', async (route) => {
    await route.fetch() // the server has it
    if (lost++ < 2)
      await route.abort('connectionreset') // and the answer does not come
    else await route.continue()
  })
  await odile.getByLabel('Your message').fill('Is anybody there?')
  await odile.getByLabel('Your message').press('Enter')
  await expect(odile.getByText('Is anybody there?')).toHaveCount(1)
  await expect.poll(() => lost).toBeGreaterThan(2)
  await expect(odile.getByLabel('Your message')).toHaveValue('')
  await odile.unroute('**/api/chat/*/messages')
  await odile.reload()
  await expect(odile.locator('li.customer').filter({ hasText: 'Is anybody there?' })).toHaveCount(1)
  await odile.context().close()
})
