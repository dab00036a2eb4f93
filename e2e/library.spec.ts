import { expect, test, type Page } from '@playwright/test'
import { accessible, staff, visitor } from './people'
import { password, Server } from './server'

// Each test has an instance of its own: lists are counted here.
let server: Server
test.beforeEach(async () => {
  server = await Server.start()
  server.addStaff('Max', 'administrator,author,publisher,reviewer')
})
test.afterEach(() => server.stop())

async function category(page: Page, name: string) {
  await page
    .getByRole('navigation', { name: 'Categories' })
    .getByRole('button', { name: 'Add category' })
    .click()
  await page.getByLabel('Name').fill(name)
  await page.getByRole('dialog').getByRole('button', { name: 'Add category' }).click()
  await expect(page.getByRole('heading', { name })).toBeVisible()
}

async function article(page: Page, title: string, text: string) {
  await page.goto(new URL('/staff/library', page.url()).toString())
  await expect(page.getByRole('button', { name: 'New article' })).toBeVisible()
  await expect(page.getByRole('navigation', { name: 'Categories' }).getByRole('button').nth(2)).toBeVisible()
  await page.keyboard.press('n')
  await page.getByLabel('Title, as a customer would ask').fill(title)
  await page.getByRole('button', { name: 'Begin writing' }).click()
  await page.getByRole('textbox', { name: 'Text of the article' }).click()
  await page.keyboard.type(text)
  await expect(page.getByRole('button', { name: 'Send to review' })).toBeVisible()
}

test('an empty instance says what will stand where, and offers the first step', async ({ browser }) => {
  const max = await staff(browser, server, 'Max')
  await expect(max.getByText('Nothing waits for you.')).toBeVisible()
  await max.goto(server.url + '/staff/library')
  await expect(max.getByText('Articles will stand here')).toBeVisible()
  await max.goto(server.url + '/staff/review')
  await expect(max.getByText('Nothing is on its way.')).toBeVisible()
  await max.goto(server.url + '/staff/outcomes')
  await expect(max.getByText('No question has settled yet')).toBeVisible()
  await accessible(max)
  const wim = await visitor(browser)
  await wim.goto(server.url + '/help')
  await expect(wim.getByText('There are no articles to read yet.')).toBeVisible()
  await wim.goto(server.url + '/chat')
  await expect(wim.getByRole('alert')).toContainText('There is no live flow')
})

test('categories are added, changed and removed; articles are found by words, state and keys', async ({
  browser,
}) => {
  const max = await staff(browser, server, 'Max')
  await max.goto(server.url + '/staff/library')
  await category(max, 'Bills')
  await category(max, 'Old bills')
  await max.getByRole('button', { name: 'Change', exact: true }).click()
  await max.getByLabel('Name').fill('Older bills')
  await max.getByRole('button', { name: 'Save category' }).click()
  await expect(max.getByRole('heading', { name: 'Older bills' })).toBeVisible()
  await max.getByRole('button', { name: 'Change', exact: true }).click()
  await max.getByRole('button', { name: 'Remove it' }).click()
  await expect(max.getByRole('heading', { name: 'All articles' })).toBeVisible()
  await expect(max.getByRole('button', { name: 'Older bills' })).toHaveCount(0)

  await article(max, 'Why a bill is estimated', 'No reading reached us.')
  await max.getByRole('button', { name: 'Send to review' }).click()
  await expect(max.getByText('In review', { exact: true })).toBeVisible()
  await article(max, 'Move out', 'Tell us the day.')

  await max.goto(server.url + '/staff/library')
  await max.getByRole('combobox', { name: 'State' }).selectOption('In review')
  await expect(max).toHaveURL(/state=in_review/)
  await expect(max.getByRole('row')).toHaveCount(2)
  await max.reload()
  await expect(max.getByRole('row')).toHaveCount(2)
  await max.keyboard.press('/')
  await max.keyboard.type('move')
  await max.keyboard.press('Enter')
  await expect(max.getByRole('heading', { name: 'Articles with “move”' })).toBeVisible()
  await expect(
    max.getByText('No article fits.').or(max.getByRole('link', { name: 'Move out' })),
  ).toBeVisible()
  await max.goto(server.url + '/staff/library')
  await expect(max.getByRole('row')).toHaveCount(3)
  await max.keyboard.press('j')
  await max.keyboard.press('j')
  await max.keyboard.press('Enter')
  await expect(max).toHaveURL(/library\/A-\d+$/)
  await max.keyboard.press('Escape')
  await expect(max).toHaveURL(/library$/)
})

test('nobody approves their own text, however many roles they have; it can be taken back', async ({
  browser,
}) => {
  const max = await staff(browser, server, 'Max')
  await max.goto(server.url + '/staff/library')
  await category(max, 'Own work')
  await article(max, 'My own text', 'I wrote this.')
  const reference = max.url().split('/').pop()
  await max.getByRole('button', { name: 'Send to review' }).click()
  await expect(max.getByText('In review', { exact: true })).toBeVisible()
  await max.goto(`${server.url}/staff/review/${reference}`)
  await expect(max.getByText('somebody else must look at it')).toBeVisible()
  await expect(max.getByRole('button', { name: 'Approve' })).toHaveCount(0)
  await max.goto(`${server.url}/staff/library/${reference}`)
  await expect(max.getByText('A change to the text clears what was passed before it.')).toBeVisible()
  await max.getByRole('button', { name: 'Take back' }).click()
  await expect(max.getByText('Being written', { exact: true })).toBeVisible()
  await expect(max.getByRole('toolbar')).toBeVisible()
})

test('an administrator adds people, changes what they may do, and disables them', async ({ browser }) => {
  const max = await staff(browser, server, 'Max')
  await max.goto(server.url + '/staff/settings')
  await max.getByRole('button', { name: 'Add somebody' }).click()
  await max.getByLabel('Name').fill('Nia')
  await max.getByLabel('Mail address').fill('nonsense')
  await max.getByLabel('First password').fill(password)
  await max.getByRole('button', { name: 'Add', exact: true }).click()
  await expect(
    max.getByText('This does not read like a mail address, such as name@post.example.'),
  ).toBeVisible()
  await accessible(max)
  await max.getByLabel('Mail address').fill('nia@wrenmoor.example')
  await max.getByRole('button', { name: 'Add', exact: true }).click()
  await expect(max.getByRole('cell', { name: 'nia@wrenmoor.example' })).toBeVisible()

  const nia = await staff(browser, server, 'Nia')
  await expect(nia.getByRole('link', { name: 'Conversations' })).toHaveCount(0)
  const row = max.getByRole('row', { name: /nia@/ })
  await row.getByLabel('agent').check()
  await expect(max.getByText('Changed', { exact: true }).first()).toBeVisible()
  await nia.reload()
  await nia.getByRole('link', { name: 'Conversations' }).click()
  await expect(nia.getByText('Nobody waits.')).toBeVisible()
  await row.getByRole('button', { name: 'Disable' }).click()
  await expect(row).toContainText('has left')
  await nia.reload()
  await expect(nia.getByRole('button', { name: 'Sign in' })).toBeVisible()

  await max.getByRole('row', { name: /max@/ }).getByRole('button', { name: 'Disable' }).click()
  await expect(max.getByText('You cannot take away your own administration')).toBeVisible()
})

test('a wrong password is refused in words, and the address asked for is kept', async ({ browser }) => {
  const page = await visitor(browser)
  await page.goto(server.url + '/staff/library?state=drafting')
  await page.getByLabel('Mail address').fill('max@wrenmoor.example')
  await page.getByLabel('Password', { exact: true }).fill('not the password')
  await page.getByRole('button', { name: 'Sign in' }).click()
  await expect(page.getByRole('alert')).toContainText('is not right')
  await accessible(page)
  await page.getByLabel('Password', { exact: true }).fill(password)
  await page.getByRole('button', { name: 'Sign in' }).click()
  await expect(page).toHaveURL(/library\?state=drafting/)
})

test('categories and articles are put in order by drag and by keys, and the help centre follows', async ({
  browser,
}) => {
  const max = await staff(browser, server, 'Max')
  await max.goto(server.url + '/staff/library')
  for (const name of ['Bills', 'Meters', 'Moving']) {
    await max.getByRole('button', { name: 'All articles' }).click()
    await category(max, name)
  }
  const tree = max.getByRole('navigation', { name: 'Categories' })
  const names = () => tree.locator('[data-category]').allInnerTexts()
  await tree.getByRole('button', { name: 'Moving' }).focus()
  await max.keyboard.press('Alt+ArrowUp')
  await expect.poll(names).toEqual(['Bills', 'Moving', 'Meters'])
  await expect(tree.getByRole('button', { name: 'Moving' })).toBeFocused()
  await max.keyboard.press('Alt+ArrowRight')
  await expect(tree.locator('li', { hasText: 'Moving' })).toHaveCSS('padding-left', '14.4px')
  await expect(tree.getByRole('button', { name: 'Moving' })).toBeFocused()
  await max.keyboard.press('Alt+ArrowLeft')
  await expect(tree.locator('li', { hasText: 'Moving' })).toHaveCSS('padding-left', '0px')
  await tree.getByRole('button', { name: 'Meters' }).dragTo(tree.getByRole('button', { name: 'Bills' }), {
    targetPosition: { x: 20, y: 3 },
  })
  await expect.poll(names).toEqual(['Meters', 'Bills', 'Moving'])

  await tree.getByRole('button', { name: 'Bills' }).click()
  for (const title of ['First', 'Second', 'Third']) await article(max, title, 'Text.')
  await max.goto(server.url + '/staff/library')
  const titles = () => max.locator('tbody .title').allInnerTexts()
  await expect.poll(titles).toEqual(['First', 'Second', 'Third'])
  await max.keyboard.press('j')
  await max.keyboard.press('Alt+ArrowDown')
  await expect.poll(titles).toEqual(['Second', 'First', 'Third'])
  await max.locator('tbody tr').nth(2).dragTo(max.locator('tbody tr').nth(0))
  await expect.poll(titles).toEqual(['Third', 'Second', 'First'])
  await accessible(max)
})

test('many articles are moved at once, and that is taken back', async ({ browser }) => {
  const max = await staff(browser, server, 'Max')
  await max.goto(server.url + '/staff/library')
  await category(max, 'Bills')
  await max.getByRole('button', { name: 'All articles' }).click()
  await category(max, 'Meters')
  for (const title of ['One', 'Two', 'Three']) await article(max, title, 'Text.')
  await max.goto(server.url + '/staff/library')
  await expect(max.getByRole('row')).toHaveCount(4)
  await max.getByRole('checkbox', { name: 'Select One' }).click()
  await max.getByRole('checkbox', { name: 'Select Three' }).click({ modifiers: ['Shift'] })
  const bar = max.getByRole('region', { name: 'Selected articles' })
  await expect(bar).toContainText('3 articles selected')
  await bar.getByRole('button', { name: 'Change them' }).click()
  await max.getByLabel('What to do').selectOption('Move them to a category')
  await max.getByRole('dialog').getByLabel('Category').selectOption('Meters')
  await max.getByRole('button', { name: 'Show what will change' }).click()
  await expect(max.getByRole('dialog').getByRole('status')).toContainText(
    '3 articles will be moved to another category',
  )
  await accessible(max)
  await max.getByRole('button', { name: 'Do it' }).click()
  await expect(max.getByText('3 articles changed.')).toBeVisible()
  const tree = max.getByRole('navigation', { name: 'Categories' })
  await expect(tree.getByRole('button', { name: 'Meters 3' })).toBeVisible()
  await max.getByRole('button', { name: 'Undo' }).click()
  await expect(max.getByText('3 articles as before.')).toBeVisible()
  await expect(tree.getByRole('button', { name: 'Bills 3' })).toBeVisible()
})

test('a zip is brought in after its report, and taken out again', async ({ browser }) => {
  const max = await staff(browser, server, 'Max')
  await max.goto(server.url + '/staff/library/bring-in')
  const zip = zipOf({
    'bills/high.md':
      '---\ntitle: High bill\nkeywords: [dear]\n---\n\nSee [moving](../moving/out.md).\n\n<script>x</script>\n',
    'moving/out.md': '# Move out\n\nTell us.\n',
    'moving/broken.md': '---\ntitle: [\n---\n',
  })
  await max.getByLabel('File').setInputFiles({
    name: 'set.zip',
    mimeType: 'application/zip',
    buffer: zip,
  })
  await max.getByRole('button', { name: 'Show what it would do' }).click()
  await expect(max.getByRole('status')).toContainText(
    'This would create 2 articles, change 0, skip 0 that are so already, refuse 1',
  )
  await expect(max.getByRole('row', { name: /bills\/high.md:8/ })).toContainText(
    'not kept: the element <script>',
  )
  await accessible(max)
  await max.getByRole('button', { name: 'Bring them in' }).click()
  await expect(max.getByRole('status')).toContainText('Done: create 2 articles')
  await max.getByRole('link', { name: 'High bill' }).click()
  await expect(
    max.getByRole('textbox', { name: 'Text of the article' }).getByRole('link', { name: 'moving' }),
  ).toHaveAttribute('href', /^\/help\/articles\/A-\d+$/)
  await max.goto(server.url + '/staff/library/bring-in')
  await max.getByLabel('File').setInputFiles({
    name: 'set.zip',
    mimeType: 'application/zip',
    buffer: zip,
  })
  await max.getByRole('button', { name: 'Show what it would do' }).click()
  await expect(max.getByRole('status')).toContainText('create 0 articles, change 0, skip 2')
  await expect(max.getByRole('button', { name: 'Bring them in' })).toHaveCount(0)

  await max.goto(server.url + '/staff/library')
  await max.getByRole('checkbox', { name: 'Select all on this page' }).click()
  const download = max.waitForEvent('download')
  await max.getByRole('link', { name: 'Take them out' }).click()
  expect((await download).suggestedFilename()).toBe('library.zip')
})

test('the find field finds while one types, in every state, with the match shown', async ({ browser }) => {
  const max = await staff(browser, server, 'Max')
  await max.goto(server.url + '/staff/library')
  await category(max, 'Bills')
  await article(max, 'Why a bill is estimated', 'No reading reached us in the smart way.')
  await expect(max.locator('.saying')).toContainText('Saved')
  await max.goto(server.url + '/staff/today')
  await expect(max.getByRole('heading', { name: 'Today' })).toBeVisible()
  await max.keyboard.press('/')
  await max.keyboard.type('readi')
  const option = max.getByRole('option', { name: /Why a bill is estimated/ })
  await expect(option.locator('mark')).toHaveText(['reading']) // what was found for the first letters gives way
  await accessible(max)
  await max.keyboard.press('ArrowDown')
  await max.keyboard.press('Enter')
  await expect(max).toHaveURL(/library\/A-0001$/)
})

/** An archive of stored files, made by hand: PKWARE's format, without compression. */
function zipOf(files: Record<string, string>): Buffer {
  const crc = (b: Buffer) => {
    let c = ~0
    for (const x of b) {
      c ^= x
      for (let k = 0; k < 8; k++) c = c & 1 ? (c >>> 1) ^ 0xedb88320 : c >>> 1
    }
    return ~c >>> 0
  }
  const parts: Buffer[] = []
  const directory: Buffer[] = []
  let at = 0
  for (const [name, text] of Object.entries(files)) {
    const [n, b] = [Buffer.from(name), Buffer.from(text)]
    const head = Buffer.alloc(26)
    head.writeUInt16LE(20, 0)
    head.writeUInt32LE(crc(b), 10)
    head.writeUInt32LE(b.length, 14)
    head.writeUInt32LE(b.length, 18)
    head.writeUInt16LE(n.length, 22)
    const tail = Buffer.alloc(14)
    tail.writeUInt32LE(at, 10)
    parts.push(Buffer.from('PK\x03\x04'), head, n, b)
    directory.push(Buffer.from('PK\x01\x02\x14\x00'), head, tail, n)
    at += 4 + 26 + n.length + b.length
  }
  const list = Buffer.concat(directory)
  const end = Buffer.alloc(18)
  end.writeUInt16LE(parts.length / 4, 4)
  end.writeUInt16LE(parts.length / 4, 6)
  end.writeUInt32LE(list.length, 8)
  end.writeUInt32LE(at, 12)
  return Buffer.concat([...parts, list, Buffer.from('PK\x05\x06'), end])
}
