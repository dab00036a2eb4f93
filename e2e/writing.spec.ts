import { expect, test, type Page } from '@playwright/test'
import { accessible, hasCategory, staff } from './people'
import { Server } from './server'

let server: Server
test.beforeAll(async () => {
  server = await Server.start()
  server.addStaff('Ada', 'author')
  server.addStaff('Bea', 'author')
  server.addStaff('Pia', 'author,publisher')
})
test.afterAll(() => server.stop())

// Each test can begin on an empty library, as one that is tried again does.
async function library(page: Page) {
  await page.getByRole('link', { name: 'Library', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Add category' })).toBeVisible()
  if (!(await hasCategory(page, server, 'Bills'))) {
    await page
      .getByRole('navigation', { name: 'Categories' })
      .getByRole('button', { name: 'Add category' })
      .click()
    await page.getByLabel('Name').fill('Bills')
    await page.getByRole('dialog').getByRole('button', { name: 'Add category' }).click()
    await expect(page.getByRole('dialog')).toHaveCount(0)
  }
}

async function begin(page: Page, title: string) {
  await library(page)
  await page.getByRole('button', { name: 'New article' }).click()
  await page.getByLabel('Title, as a customer would ask').fill(title)
  await page.getByRole('button', { name: 'Begin writing' }).click()
  await page.getByRole('textbox', { name: 'Text of the article' }).click()
}

const text = (page: Page) => page.getByRole('textbox', { name: 'Text of the article' })
const saying = (page: Page) => page.locator('.saying')

test('what is typed while the server is dead is delivered when it is back, even after a reload', async ({
  browser,
}) => {
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

test('what was typed offline and what somebody else saved meanwhile are laid side by side and made one', async ({
  browser,
}) => {
  const ada = await staff(browser, server, 'Ada')
  await begin(ada, 'Two texts')
  await ada.keyboard.type('The first line.')
  await ada.keyboard.press('Enter')
  await ada.keyboard.type('The second line.')
  await expect(saying(ada)).toContainText('Saved')
  await ada.context().setOffline(true)
  await ada.keyboard.type(' Ada went on.')
  await expect(saying(ada)).toContainText('No connection')
  server.moveClock('3m') // Ada has been silent for two minutes, as far as the server knows
  const bea = await staff(browser, server, 'Bea')
  await bea.goto(ada.url())
  await text(bea).click()
  await bea.keyboard.press('Control+End')
  await bea.keyboard.type(' Bea added this.')
  await expect(saying(bea)).toContainText('Saved')
  await bea.getByRole('link', { name: 'Today', exact: true }).click()

  await ada.context().setOffline(false)
  const two = ada.getByRole('region', { name: 'Two texts' })
  await expect(two).toContainText('Bea saved a newer text', {
    timeout: 15_000,
  })
  await expect(two).toContainText('The second line. Ada went on.')
  await expect(two).toContainText('The second line. Bea added this.')
  await accessible(ada)
  // Even a reload keeps both.
  ada.on('dialog', (d) => d.accept())
  await ada.reload()
  await expect(two).toContainText('Ada went on.')
  await two.getByLabel('Both').check()
  await two.getByRole('button', { name: 'Save the text made of both' }).click()
  await expect(text(ada)).toHaveText(
    'The first line.The second line. Bea added this.The second line. Ada went on.',
  )
  await expect(saying(ada)).toContainText('Saved')
  server.moveClock('0s')
})

test('two people: the second reads along, a publisher takes over, the displaced text is kept', async ({
  browser,
}) => {
  const ada = await staff(browser, server, 'Ada')
  await begin(ada, 'One at a time')
  await ada.keyboard.type('Ada begins.')
  await expect(saying(ada)).toContainText('Saved')

  const bea = await staff(browser, server, 'Bea')
  await bea.goto(ada.url())
  await expect(bea.getByText('Ada has been writing this since')).toBeVisible()
  await expect(bea.getByRole('toolbar', { name: 'Formatting' })).toHaveCount(0)
  await expect(bea.getByRole('button', { name: 'Take over' })).toHaveCount(0)
  await accessible(bea)
  await ada.keyboard.type(' She goes on.')
  await expect(text(bea)).toHaveText('Ada begins. She goes on.')

  // Two tabs of one person are one.
  const again = await ada.context().newPage()
  await again.goto(ada.url())
  await expect(again.getByRole('toolbar', { name: 'Formatting' })).toBeVisible()
  await again.close()

  const pia = await staff(browser, server, 'Pia')
  await pia.goto(ada.url())
  await expect(pia.getByText('Ada has been writing this since')).toBeVisible()
  // What Ada types now cannot arrive: it must not be lost when Pia takes over.
  await ada.route('**/api/staff/articles/A-*', (r) =>
    r.request().method() === 'PUT' ? r.abort() : r.continue(),
  )
  await ada.keyboard.type(' Unsaved words.')
  await expect(saying(ada)).toContainText('No connection')
  await pia.getByRole('button', { name: 'Take over' }).click()
  await expect(pia.getByRole('toolbar', { name: 'Formatting' })).toBeVisible()
  await expect(ada.getByText(/Pia took over. Your unsaved text is kept as revision 1/)).toBeVisible({
    timeout: 15_000,
  })
  await expect(ada.getByRole('toolbar', { name: 'Formatting' })).toHaveCount(0)
  await text(pia).click()
  await pia.keyboard.press('Control+End')
  await pia.keyboard.type(' Pia ends it.')
  await expect(text(ada)).toHaveText('Ada begins. She goes on. Pia ends it.')
  await pia.getByRole('tab', { name: 'History' }).click()
  await expect(pia.getByText('unsaved text of Ada')).toBeVisible()

  // Leaving ends it at once.
  await pia.getByRole('link', { name: 'Today', exact: true }).click()
  await expect(ada.getByRole('toolbar', { name: 'Formatting' })).toBeVisible()
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

test('a first article: from a template, through the margin, to review', async ({ browser }) => {
  const ada = await staff(browser, server, 'Ada')
  await library(ada)
  await expect(ada.getByRole('button', { name: /^Bills/ })).toBeVisible()
  await ada.keyboard.press('n')
  await ada.getByLabel('Title, as a customer would ask').fill('The street light is off')
  await ada.getByLabel('Begin with').selectOption('Fix a problem')
  await expect(ada.getByRole('dialog')).toContainText('One thing to do in each step')
  await accessible(ada)
  await ada.getByRole('button', { name: 'Begin writing' }).click()
  await expect(ada.getByRole('heading', { name: 'What to do' })).toBeVisible()
  await expect(ada.getByText('The template asks for “What to do”')).toBeVisible()
  await accessible(ada)

  await text(ada).locator('p').first().click()
  await ada.keyboard.type('A lamp of ours is dark.')
  await text(ada).locator('li p').click()
  await ada.keyboard.type('The number on the pole.')
  await ada.keyboard.press('Enter')
  await ada.keyboard.type('Simply call us.')
  await expect(ada.getByText('A step says what to do: begin with a verb.')).toBeVisible()
  await expect(ada.getByText('“Simply” helps nobody')).toBeVisible()
  // A note stands at the height of its line, or below the note before it.
  const line = await text(ada).locator('li').first().boundingBox()
  const note = await ada.locator('.note.at', { hasText: 'begin with a verb' }).boundingBox()
  expect(Math.abs((note?.y ?? 0) - (line?.y ?? 0))).toBeLessThan(140)
  await text(ada).locator('li p').first().click()
  await ada.keyboard.press('Home')
  await ada.keyboard.press('Shift+End')
  await ada.keyboard.type('Read the number on the pole.')
  await expect(ada.getByText('begin with a verb')).toHaveCount(0)
  const vague = ada.locator('.note', { hasText: '“Simply” helps nobody' })
  await vague.getByRole('button', { name: 'Set aside' }).click()
  await vague.getByLabel('Why it can stay').fill('It is meant so.')
  await vague.getByRole('button', { name: 'Set aside' }).last().click()
  await expect(ada.getByText('1 note set aside')).toBeVisible()
  await text(ada)
    .locator('h2', { hasText: 'If that did not help' })
    .locator('xpath=following-sibling::p[1]')
    .click()
  await ada.keyboard.type('Tell us the street.')
  await expect(ada.getByText('The template asks for')).toHaveCount(0)
  await ada.getByRole('tab', { name: 'About' }).click()
  await ada.getByLabel('Keywords', { exact: true }).fill('lamp post')
  await ada.getByLabel('Keywords', { exact: true }).press('Enter')
  await accessible(ada)
  await expect(saying(ada)).toContainText('Saved')
  await ada.getByRole('button', { name: 'Send to review' }).click()
  await expect(ada.getByText('In review', { exact: true })).toBeVisible()
})

test('an earlier text is compared and restored', async ({ browser }) => {
  const ada = await staff(browser, server, 'Ada')
  await begin(ada, 'Had back')
  await ada.keyboard.type('Pay within ten days of the bill.')
  await expect(saying(ada)).toContainText('Saved')
  await ada.getByRole('button', { name: 'Send to review' }).click()
  await ada.getByRole('button', { name: 'Take back' }).click()
  await expect(ada.getByText('Being written')).toBeVisible()
  await text(ada).click()
  await ada.keyboard.press('Control+a')
  await ada.keyboard.type('Pay within twenty days of the bill.')
  await expect(saying(ada)).toContainText('Saved')
  await ada.getByRole('tab', { name: 'History' }).click()
  await ada.getByLabel('From revision 1').check()
  await accessible(ada)
  await ada.getByRole('button', { name: 'Compare them' }).click()
  await expect(ada.locator('.compared del').first()).toHaveText('ten')
  await expect(ada.locator('.compared ins').first()).toHaveText('twenty')
  await expect(ada.getByText('1 line changed')).toBeVisible()
  await accessible(ada)
  await ada.goBack()
  await ada.getByRole('tab', { name: 'History' }).click()
  await ada.getByRole('button', { name: 'Restore revision 1' }).click()
  await ada.getByRole('button', { name: 'Restore it' }).click()
  await expect(text(ada)).toHaveText('Pay within ten days of the bill.')
})

/** Puts something on the clipboard into the text, as a program would. */
async function paste(page: Page, html: string) {
  await page.evaluate((html) => {
    const data = new DataTransfer()
    data.setData('text/html', html)
    document.querySelector('.ProseMirror')?.dispatchEvent(
      new ClipboardEvent('paste', {
        clipboardData: data,
        bubbles: true,
        cancelable: true,
      }),
    )
  }, html)
}
const kept = (page: Page): Promise<{ copy: { body: string } }> =>
  page.evaluate(
    (ref) => fetch(`/api/staff/articles/${ref}`).then((r) => r.json()),
    page.url().split('/').pop(),
  )

test('a page pasted from a word processor comes out clean', async ({ browser }) => {
  const ada = await staff(browser, server, 'Ada')
  await begin(ada, 'From a word processor')
  const item = (level: number, mark: string, words: string) =>
    `<p class=MsoListParagraph style='text-indent:-18pt;mso-list:l0 level${level} lfo1'><!--[if !supportLists]--><span style='mso-list:Ignore'>${mark}<span style='font:7pt serif'>&nbsp;&nbsp;</span></span><!--[endif]-->${words}<o:p></o:p></p>`
  await paste(
    ada,
    `<html xmlns:o="urn:x"><head><style>p.MsoNormal{margin:0}</style></head><body lang=EN-GB>
    <h1 style='color:red'><a name="_Toc1"></a><span lang=EN-GB>Read your meter</span></h1>
    <p class=MsoNormal><b style='mso-bidi-font-weight:normal'><span style='font-size:14pt'>Do it</span></b> on the <span style='font-weight:700'>last</span> <i>day</i>.<o:p>&nbsp;</o:p></p>
    ${item(1, '1.', 'Open the box.')}${item(1, '2.', 'Read the digits.')}${item(2, 'a.', 'Black ones only.')}
    <p class=MsoNormal><o:p>&nbsp;</o:p></p>
    <table class=MsoTableGrid style='border:none'><tr><td width=100 style='border:solid'><p class=MsoNormal>Rate</p></td><td><p class=MsoNormal>Pence</p></td></tr></table>
    <img src="file:///C:/Temp/clip_image001.png"></body></html>`,
  )
  await expect(text(ada)).toContainText('Black ones only.')
  await expect(saying(ada)).toContainText('Saved')
  const { copy } = await kept(ada)
  expect(copy.body).toContain(
    '<h2>Read your meter</h2><p><strong>Do it</strong> on the <strong>last</strong> <em>day</em>.</p>',
  )
  expect(copy.body).toContain(
    '<ol><li><p>Open the box.</p></li><li><p>Read the digits.</p><ol><li><p>Black ones only.</p></li></ol></li></ol>',
  )
  expect(copy.body).toMatch(/<table>.*Rate.*Pence.*<\/table>/)
  expect(copy.body).not.toMatch(/mso|style|class=|o:p|<span|file:|&nbsp;/i)
})

test('callouts, expandable parts, films and the source: typed, kept and served', async ({ browser }) => {
  const ada = await staff(browser, server, 'Ada')
  await begin(ada, 'Every part')
  await ada.keyboard.type('## A heading')
  await ada.keyboard.press('Enter')
  await ada.keyboard.type('!danger Keep away.')
  await ada.keyboard.press('Enter')
  await ada.keyboard.press('Enter')
  await ada.getByRole('button', { name: 'Expandable' }).click()
  await ada.keyboard.type('Why it is so')
  await ada.keyboard.press('Enter')
  await ada.keyboard.type('Because.')
  await expect(saying(ada)).toContainText('Saved')
  let body = (await kept(ada)).copy.body
  expect(body).toContain('<aside data-callout="danger"><p>Keep away.</p></aside>')
  expect(body).toContain('<details><summary>Why it is so</summary><p>Because.</p></details>')

  await ada.getByRole('button', { name: 'Source' }).click()
  await accessible(ada)
  const source = ada.getByLabel('The HTML of the text.')
  await source.fill(
    (await source.inputValue()) + '\n<p onclick="x">More</p>\n<script>window.ran = true</script>',
  )
  await ada.getByRole('button', { name: 'Take it over' }).click()
  await expect(ada.getByRole('alert')).toContainText('the script in onclick of <p>')
  await expect(ada.getByRole('alert')).toContainText('the element <script>')
  await ada.getByRole('button', { name: 'Take it over without these' }).click()
  await expect(text(ada)).toContainText('More')
  await text(ada).locator('p', { hasText: 'More' }).click()
  await ada.getByRole('button', { name: 'Film' }).click()
  await ada.getByLabel('The address of the film').fill('https://films.wrenmoor.example/meter')
  await ada.getByRole('button', { name: 'Put it in' }).click()
  await expect(saying(ada)).toContainText('Saved')
  await accessible(ada)
  body = (await kept(ada)).copy.body
  expect(body).toContain('<figure data-video="https://films.wrenmoor.example/meter">')
  expect(body).not.toContain('script')
  await ada.reload()
  await expect(text(ada).locator('details')).toContainText('Because.')
  expect((await kept(ada)).copy.body).toBe(body)
})

test('scripts pasted into a text are gone, pictures are kept, properties change', async ({ browser }) => {
  const ada = await staff(browser, server, 'Ada')
  await begin(ada, 'Paste')
  await paste(
    ada,
    '<p onclick="alert(1)">Pasted <a href="javascript:alert(1)">link</a><img src="x" onerror="window.ran = true"></p><script>window.ran = true</scr' +
      'ipt>',
  )
  await expect(text(ada)).toContainText('Pasted')
  const png = Buffer.from(
    'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
    'base64',
  )
  const chooser = ada.locator('input[type=file]').first()
  await chooser.setInputFiles({
    name: 'the-meter.png',
    mimeType: 'image/png',
    buffer: png,
  })
  await ada.getByRole('button', { name: 'Put it in' }).click()
  await expect(ada.getByRole('alert')).toContainText('Say what it shows')
  await ada.getByLabel('What does it show?').fill('The meter')
  await ada.getByLabel('Caption beneath it').fill('By the door')
  await accessible(ada)
  await ada.getByRole('button', { name: 'Put it in' }).click()
  await expect(text(ada).getByRole('img', { name: 'The meter' })).toBeVisible()
  await ada
    .locator('input[type=file]')
    .nth(1)
    .setInputFiles({
      name: 'form.txt',
      mimeType: 'text/plain',
      buffer: Buffer.from('Print me'),
    })
  await expect(text(ada).getByRole('link', { name: 'form.txt' })).toBeVisible()
  await chooser.setInputFiles({
    name: 'bad.png',
    mimeType: 'image/png',
    buffer: Buffer.from('<svg onload=alert(1)>'),
  })
  await expect(ada.getByText('This is not a picture that can be shown')).toBeVisible()
  await ada.getByRole('tab', { name: 'About' }).click()
  await ada.getByLabel('For whom').selectOption('Staff only')
  await expect(ada.getByText('no customer sees it')).toBeVisible()
  await expect(saying(ada)).toContainText('Saved')
  await ada.reload()
  await expect(text(ada)).toContainText('Pasted')
  expect(await ada.evaluate(() => 'ran' in window)).toBe(false)
  const now = (await kept(ada)) as unknown as {
    copy: { body: string }
    audience: string
  }
  expect(now.copy.body).not.toMatch(/onclick|javascript|onerror|script/)
  expect(now.copy.body).toMatch(
    /<figure><img src="\/files\/[0-9a-f]{64}" alt="The meter".*<figcaption>By the door<\/figcaption><\/figure>/,
  )
  expect(now.copy.body).toContain('download="form.txt"')
  expect(now.audience).toBe('staff')
})
