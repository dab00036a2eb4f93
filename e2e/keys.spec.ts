import { expect, test, type Page } from '@playwright/test'
import { keyList } from '../web/src/staff/shared/keyList'
import { staff } from './people'
import { Server } from './server'

// After each key of the list under "?", what is typed next lands where its user expects.

let server: Server
let page: Page
test.beforeAll(async ({ browser }) => {
  server = await Server.start('demo')
  page = await staff(browser, server, 'Maren', 'wrenmoor-demo')
})
test.afterAll(() => server.stop())

const text = () => page.getByRole('textbox', { name: 'Text of the article' })
const dialogs = () => page.getByRole('dialog')
const marked = () => page.locator('tr.at')
const focus = () => page.evaluate(() => document.activeElement?.id || document.activeElement?.tagName)

async function library() {
  await page.goto(server.url + '/staff/library?category=2')
  await expect(page.locator('tbody tr').nth(3)).toBeVisible()
}

/** A new article, begun by key and with the mouse nowhere. */
async function begin(title: string) {
  await library()
  await page.keyboard.press('n')
  await page.keyboard.type(title)
  await page.keyboard.press('Enter')
  await expect(text()).toBeFocused()
}

/** An article of a colleague's with a comment that suggests other words. */
async function commented(): Promise<string> {
  await begin('Words to be taken')
  await page.keyboard.type('Pay in ten days.')
  await page.keyboard.press('Control+s')
  await expect(page.locator('.saying')).toContainText('Saved')
  const reference = /A-\d+/.exec(page.url())?.[0] ?? ''
  const said = await page.request.post(`${server.url}/api/staff/articles/${reference}/comments`, {
    data: { line: 0, quote: 'ten', text: 'More.', suggestion: 'twenty' },
  })
  expect(said.ok()).toBe(true)
  await page.goto(`${server.url}/staff/library/${reference}?margin=remarks`)
  await expect(page.getByRole('article', { name: /Comment of/ })).toBeVisible()
  return reference
}

const stories: Record<string, () => Promise<void>> = {
  '/': async () => {
    await library()
    await page.keyboard.press('/')
    await page.keyboard.type('next? n t')
    await expect(page.locator('#find')).toHaveValue('next? n t')
    await expect(dialogs()).toHaveCount(0)
    await page.keyboard.press('Escape')
    await page.keyboard.press('j') // the page has the keys again
    await expect(marked()).toHaveCount(1)
  },
  '?': async () => {
    await library()
    await page.keyboard.press('?')
    await expect(dialogs()).toHaveCount(1)
    await page.keyboard.type('n/x?tj')
    await expect(dialogs()).toHaveCount(1)
    await expect(page.locator('#find')).toHaveValue('')
    await expect(marked()).toHaveCount(0)
    await page.keyboard.press('Escape')
    await expect(page.getByRole('heading', { name: 'Keys' })).toBeHidden()
    await page.keyboard.press('j')
    await expect(marked()).toHaveCount(1)
  },
  n: async () => {
    await library()
    await page.keyboard.press('n')
    await page.keyboard.type('What changed last month? Next: x, t and /')
    await expect(page.getByLabel('Title, as a customer would ask')).toHaveValue(
      'What changed last month? Next: x, t and /',
    )
    await expect(dialogs()).toHaveCount(1)
    await page.keyboard.press('Enter')
    await expect(text()).toBeFocused()
    await page.keyboard.type('catch a train, next')
    await expect(text()).toHaveText('catch a train, next')
    await expect(dialogs()).toHaveCount(0)
  },
  'j  k': async () => {
    await library()
    await page.keyboard.type('jjk')
    await expect(page.locator('tbody tr').first()).toHaveClass(/at/)
    await page.keyboard.press('x')
    await expect(page.getByRole('region', { name: 'Selected articles' })).toContainText('1 article')
  },
  Enter: async () => {
    await library()
    await page.keyboard.type('jj')
    const reference = (await marked().textContent())?.match(/A-\d+/)?.[0] ?? ''
    await page.keyboard.press('Enter')
    await expect(page).toHaveURL(new RegExp(reference))
    await expect(page.locator('.saying')).toBeVisible()
    await page.keyboard.type('xnac')
    await expect(dialogs()).toHaveCount(0)
    await expect(page.locator('.saying')).toContainText('Saved')
  },
  x: async () => {
    await library()
    await page.keyboard.press('x') // nothing is marked: nothing is selected
    await expect(page.getByRole('region', { name: 'Selected articles' })).toHaveCount(0)
    await page.keyboard.type('jxjx')
    await expect(page.getByRole('region', { name: 'Selected articles' })).toContainText('2 articles')
    await page.keyboard.type('x')
    await expect(page.getByRole('region', { name: 'Selected articles' })).toContainText('1 article')
  },
  'Alt+↑ ↓': async () => {
    await library()
    await page.keyboard.press('j')
    const moved = await marked().getByRole('link').first().textContent()
    await page.keyboard.press('Alt+ArrowDown')
    await expect(page.locator('tbody tr').nth(1).getByRole('link').first()).toHaveText(moved ?? '')
    await expect(marked().getByRole('link').first()).toHaveText(moved ?? '')
    await page.keyboard.press('Alt+ArrowUp') // the mark went with it
    await expect(page.locator('tbody tr').first().getByRole('link').first()).toHaveText(moved ?? '')
  },
  '## - 1. > !note': async () => {
    await begin('Marks at the beginning of a line')
    for (const [mark, inside] of [
      ['## ', 'h2'],
      ['- ', 'ul'],
      ['1. ', 'ol'],
      ['> ', 'blockquote'],
      ['!note ', '[data-callout]'],
    ] as const) {
      await page.keyboard.type(`${mark}next`)
      await expect(text().locator(inside)).toContainText('next')
      await page.keyboard.press('Enter')
      await page.keyboard.press('Enter')
    }
  },
  c: async () => {
    await begin('Words to speak of')
    await page.keyboard.type('Pay in ten days.')
    const reference = /A-\d+/.exec(page.url())?.[0] ?? ''
    await expect(page.locator('.saying')).toContainText('Saved')
    await page.goto(`${server.url}/staff/library/${reference}?margin=remarks`)
    await text().click()
    await page.keyboard.press('Escape')
    await page.keyboard.press('c') // nothing is marked
    await expect(page.getByText('Mark the words it is about first')).toBeVisible()
    await text().getByText('Pay in ten days.').selectText()
    await page.locator('#main').focus()
    await page.evaluate(() => {
      const line = document.querySelector('.ProseMirror p')
      if (line) getSelection()?.selectAllChildren(line)
    })
    await page.keyboard.press('c')
    await page.keyboard.type('can that be right, next time?')
    await expect(page.locator('#comment-text')).toHaveValue('can that be right, next time?')
    // Sending it sends the comment, and not the article.
    await page.keyboard.press('Control+Enter')
    await expect(page.getByRole('article', { name: /Comment of/ })).toContainText('next time?')
    await expect(page.getByText('Being written')).toBeVisible()
  },
  a: async () => {
    await commented()
    await page.locator('#main').focus()
    await page.keyboard.press('a') // no comment is marked
    await expect(text()).toHaveText('Pay in ten days.')
    await page.keyboard.press('j')
    await page.keyboard.press('a')
    await expect(text()).toHaveText('Pay in twenty days.')
    await page.getByRole('button', { name: 'Take it back' }).click()
    await expect(text()).toHaveText('Pay in ten days.')
    await expect(
      page.getByRole('article', { name: /Comment of/ }).getByRole('button', { name: 'Take these words' }),
    ).toBeVisible()
  },
  t: async () => {
    await library()
    await page.keyboard.press('t') // no line is marked
    await expect(page.getByText(/is confirmed as still true/)).toHaveCount(0)
    await page.keyboard.type('jt')
    await expect(page.getByText(/is confirmed as still true/)).toBeVisible()
    await page.getByRole('button', { name: 'Take it back' }).click()
    await expect(page.getByText('Taken back')).toBeVisible()
    // In an article the first chooses, and only the second does it.
    await page.goto(server.url + '/staff/library/A-0005')
    await expect(text()).toBeVisible()
    await page.keyboard.press('t')
    await expect(page.getByRole('button', { name: 'Still true' })).toBeFocused()
    await expect(page.getByText(/is confirmed as still true/)).toHaveCount(0)
    await page.keyboard.press('t')
    await expect(page.getByText('A-0005 is confirmed as still true')).toBeVisible()
  },
  'Ctrl+S': async () => {
    await begin('Saved by hand')
    await page.keyboard.type('One')
    await page.keyboard.press('Control+s')
    await page.keyboard.type(' two')
    await expect(text()).toHaveText('One two')
    await expect(page.locator('.saying')).toContainText('Saved')
    await page.reload()
    await expect(text()).toHaveText('One two')
  },
  'Ctrl+K': async () => {
    await begin('A link')
    await page.keyboard.type('See ')
    await page.keyboard.press('Control+k')
    await page.keyboard.type('https://wrenmoor.example/next')
    await page.keyboard.press('Enter')
    await page.keyboard.type(' then go on')
    await expect(text()).toContainText('then go on')
    await page.keyboard.press('Control+k')
    await page.keyboard.press('Escape')
    await page.keyboard.type(', still')
    await expect(text()).toContainText('then go on, still')
    await expect(page).toHaveURL(/library\/A-/)
  },
  'Ctrl+Enter': async () => {
    await page.goto(server.url + '/staff/conversations')
    await expect(page).toHaveURL(/conversations\/[HR]-/) // the longest waiting opened by itself
    await page.getByRole('button', { name: 'Accept' }).click()
    await expect(page.locator('#reply')).toBeFocused()
    await page.keyboard.type('Next, ')
    await expect(page.locator('.suggestion').first()).toBeVisible()
    await page.keyboard.press('Control+k')
    await page.keyboard.press('Enter')
    await expect(page.locator('#reply')).toBeFocused()
    await page.keyboard.type('read this.')
    await page.keyboard.press('Control+Enter')
    await expect(page.locator('.messages .agent')).toContainText('Next, read this.')
    await expect(page.locator('.messages .agent .cards')).toHaveCount(1)
    await page.keyboard.type('And more')
    await expect(page.locator('#reply')).toHaveValue('And more')
  },
  Esc: async () => {
    await begin('Out again')
    await page.keyboard.type('One')
    await page.keyboard.press('Escape')
    expect(await focus()).toBe('main')
    await page.keyboard.type('nxt') // no letters for the text any more
    await expect(text()).toHaveText('One')
    await page.keyboard.press('Escape')
    await expect(page).toHaveURL(/\/staff\/library$/)
  },
}

test('every key of the list has its story', () => {
  expect(Object.keys(stories).sort()).toEqual(keyList.map(([key]) => key as string).sort())
})
for (const [key, story] of Object.entries(stories))
  test(`after ${key} what is typed lands where it is meant`, story)
