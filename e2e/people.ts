import { AxeBuilder } from '@axe-core/playwright'
import { expect, type Browser, type BrowserContextOptions, type Page } from '@playwright/test'
import { password, type Server } from './server'

/** Somebody with a browser of their own. */
export async function visitor(browser: Browser, options: BrowserContextOptions = {}): Promise<Page> {
  return (await browser.newContext(options)).newPage()
}

/** A member of staff, signed in. */
export async function staff(
  browser: Browser,
  server: Server,
  name: string,
  secret = password,
  options: BrowserContextOptions = {},
): Promise<Page> {
  const page = await visitor(browser, options)
  const signedIn = await page.request.post(server.url + '/api/staff/session', {
    data: { email: `${name.toLowerCase()}@wrenmoor.example`, password: secret },
  })
  expect(signedIn.ok(), await signedIn.text()).toBe(true)
  await page.goto(server.url + '/staff/today')
  await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible()
  return page
}

/** Whether the library has a category of this name. */
export async function hasCategory(page: Page, server: Server, name: string): Promise<boolean> {
  const answer = await page.request.get(server.url + '/api/staff/categories')
  return ((await answer.json()) as { name: string }[]).some((c) => c.name === name)
}

/**
 * Fails if axe-core finds anything on the page as it stands. What it finds is looked at once more a little later: a notice
 * that is just fading away has no contrast, and is nobody's fault.
 */
export async function accessible(page: Page) {
  const look = async () => {
    const { violations } = await new AxeBuilder({ page }).analyze()
    return violations
      .map(
        (v) => `${v.id}: ${v.help}\n  ${v.nodes.map((n) => n.html + ' | ' + n.failureSummary).join('\n  ')}`,
      )
      .join('\n')
  }
  let found = await look()
  if (found) {
    await page.waitForTimeout(1_000)
    found = await look()
  }
  expect.soft(found, page.url()).toBe('')
}
