import { expect, test, type Page } from '@playwright/test'
import { accessible, staff } from './people'
import { Server } from './server'

let server: Server
test.beforeAll(async () => {
  server = await Server.start()
  server.addStaff('Ada', 'author')
  server.addStaff('Bea', 'author')
})
test.afterAll(() => server.stop())

async function begin(page: Page, title: string) {
  await page.getByRole('link', { name: 'Library', exact: true }).click()
  if (!(await page.getByRole('button', { name: /^Bills/ }).isVisible())) {
    await page.getByRole('navigation', { name: 'Categories' }).getByRole('button', { name: 'Add category' }).click()
    await page.getByLabel('Name').fill('Bills')
    await page.getByRole('dialog').getByRole('button', { name: 'Add category' }).click()
  }
  await page.getByRole('button', { name: 'New article' }).click()
  await page.getByLabel('Title, as a customer would ask').fill(title)
  await page.getByRole('button', { name: 'Begin writing' }).click()
  await page.getByRole('textbox', { name: 'Text of the article' }).click()
}

const text = (page: Page) => page.getByRole('textbox', { name: 'Text of the article' })
const saying = (page: Page) => page.locator('.saying')

test('what is typed while the server is dead is delivered when it is back, even after a reload', async ({ browser }) => {
  const ada = await staff(browser, server, 'Ada')
  await begin(ada, 'The dead server')
  await ada.keyboard.type('Before. ')
  await expect(saying(ada)).toContainText('Saved')
  await server.kill()
  await ada.keyboard.type('While it is down.')
  await expect(saying(ada)).toContainText('No connection')
  await server.run()
  await expect(saying(ada)).toContainText('Saved')

  await ada.context().setOffline(true)
  await ada.keyboard.type(' And more.')
  await expect(saying(ada)).toContainText('No connection')
  ada.on('dialog', (d) => d.accept())
  await ada.context().setOffline(false)
  await ada.reload()
  await expect(text(ada)).toHaveText('Before. While it is down. And more.')
  await expect(saying(ada)).toContainText('Saved')
  await ada.reload()
  await expect(text(ada)).toHaveText('Before. While it is down. And more.')
})

test('two people: the second save is refused, and both texts are there', async ({ browser }) => {
  const ada = await staff(browser, server, 'Ada')
  await begin(ada, 'Two writers')
  await ada.keyboard.type('Ada wrote this.')
  await expect(saying(ada)).toContainText('Saved')
  const bea = await staff(browser, server, 'Bea')
  await bea.goto(ada.url())
  await text(bea).click()
  await bea.keyboard.press('Control+End')
  await bea.keyboard.type(' Bea added this.')
  await expect(saying(bea)).toContainText('Saved')
  await ada.keyboard.type(' Ada went on.')
  await expect(ada.getByRole('alert').first()).toContainText('Bea saved this article')
  await accessible(ada)
  await ada.getByRole('button', { name: /Load the newer text/ }).click()
  await expect(text(ada)).toHaveText('Ada wrote this. Bea added this.')
  await expect(ada.getByText('Ada wrote this. Ada went on.')).toBeVisible()
})

test('opening an article does not change it', async ({ browser }) => {
  const ada = await staff(browser, server, 'Ada')
  await begin(ada, 'Untouched')
  await ada.getByRole('button', { name: 'Table' }).click()
  await ada.keyboard.type('a cell')
  await expect(saying(ada)).toContainText('Saved')
  const saves: string[] = []
  ada.on('request', (r) => r.method() === 'PUT' && saves.push(r.url()))
  await ada.reload()
  await expect(text(ada)).toContainText('a cell')
  await ada.waitForTimeout(2000)
  expect(saves).toEqual([])
})

test('scripts pasted into a text are gone, pictures are kept, properties change', async ({ browser }) => {
  const ada = await staff(browser, server, 'Ada')
  await begin(ada, 'Paste')
  await ada.evaluate(() => {
    const data = new DataTransfer()
    data.setData('text/html', '<p onclick="alert(1)">Pasted <a href="javascript:alert(1)">link</a><img src="x" onerror="window.ran = true"></p><script>window.ran = true</scr' + 'ipt>')
    document.querySelector('.ProseMirror')?.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }))
  })
  await expect(text(ada)).toContainText('Pasted')
  const png = Buffer.from('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==', 'base64')
  await ada.locator('input[type=file]').setInputFiles({ name: 'the-meter.png', mimeType: 'image/png', buffer: png })
  await expect(ada.getByRole('img', { name: 'the meter' })).toBeVisible()
  await ada.locator('input[type=file]').setInputFiles({ name: 'bad.png', mimeType: 'image/png', buffer: Buffer.from('<svg onload=alert(1)>') })
  await expect(ada.getByText('This is not a picture that can be shown')).toBeVisible()
  await ada.getByLabel('For whom').selectOption('Staff only')
  await expect(ada.getByText('changed its properties')).toBeVisible()
  await expect(saying(ada)).toContainText('Saved')
  await ada.reload()
  await expect(text(ada)).toContainText('Pasted')
  expect(await ada.evaluate(() => 'ran' in window)).toBe(false)
  const kept = await ada.evaluate((ref) => fetch(`/api/staff/articles/${ref}`).then((r) => r.json()), ada.url().split('/').pop())
  expect(kept.copy.body).not.toMatch(/onclick|javascript|onerror|script/)
  expect(kept.copy.body).toContain('/files/')
  expect(kept.audience).toBe('staff')
})
