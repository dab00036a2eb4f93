// Measures at the browser: node browser.mjs ADDRESS REFERENCE-OF-A-LONG-ARTICLE
import { chromium } from '@playwright/test'

const [address, long] = process.argv.slice(2)
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: '--no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking --disable-component-update --disable-sync'.split(' '),
})
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
await page.request.post(address + '/api/staff/session', { data: { email: 'bench@wrenmoor.example', password: 'a long password' } })
await page.goto(address + '/staff/today')
await page.waitForSelector('h1')

function print(name, list) {
  list.sort((a, b) => a - b)
  const at = (share) => list[Math.min(list.length - 1, Math.floor(list.length * share))].toFixed(1)
  console.log(`        ${name.padEnd(44)} p50 ${at(0.5).padStart(6)} ms   p99 ${at(0.99).padStart(6)} ms   most ${at(1)} ms   (${list.length} times)`)
}

/** From the click to the frame that shows what was asked for. */
async function until(click, selector) {
  return page.evaluate(
    async ([click, selector]) => {
      const began = performance.now()
      document.querySelector(click).click()
      while (!document.querySelector(selector)) await new Promise((r) => requestAnimationFrame(r))
      await new Promise((r) => requestAnimationFrame(r))
      return performance.now() - began
    },
    [click, selector],
  )
}
const lists = []
const articles = []
for (let i = 0; i < 25; i++) {
  lists.push(await until('nav a[href="/staff/library"]', 'table.data tbody tr'))
  articles.push(await until(`table.data tbody tr:nth-child(${i + 1}) a.title`, '.ProseMirror p'))
  await page.evaluate(() => document.querySelector('nav a[href="/staff/today"]').click())
  await page.waitForFunction(() => document.querySelector('h1')?.textContent === 'Today')
}
// The next page of the list is always asked of the server.
await page.evaluate(() => document.querySelector('nav a[href="/staff/library"]').click())
await page.waitForSelector('table.data tbody tr')
const pages = []
for (let i = 0; i < 20 && (await page.$('.ant-pagination-next:not(.ant-pagination-disabled) button')); i++) {
  pages.push(
    await page.evaluate(async () => {
      const first = () => document.querySelector('table.data tbody .ref').textContent
      const [was, began] = [first(), performance.now()]
      document.querySelector('.ant-pagination-next button').click()
      while (first() === was) await new Promise((r) => requestAnimationFrame(r))
      await new Promise((r) => requestAnimationFrame(r))
      return performance.now() - began
    }),
  )
}
if (pages.length) print('browser: another page of the list', pages)
print('browser: the library list, from click to frame', lists.slice(2))
print('browser: an article, from click to frame', articles.slice(2))

// A key's time is that of its handlers and what they bring about before the next frame can be drawn.
await page.goto(`${address}/staff/library/${long}`)
await page.waitForSelector('.ProseMirror p')
await page.waitForTimeout(1500)
for (const [where, nth] of [['in the middle', 250], ['at the end', 520]]) {
  await page.evaluate((nth) => {
    const lines = document.querySelectorAll('.ProseMirror p')
    const line = lines[Math.min(nth, lines.length - 1)]
    line.scrollIntoView({ block: 'center' })
    document.querySelector('.ProseMirror').focus({ preventScroll: true })
    getSelection().collapse(line.firstChild ?? line, 0)
  }, nth)
  await page.waitForTimeout(300)
  await page.evaluate(() => {
    window.keys = []
    document.querySelector('.ProseMirror').addEventListener('keydown', () => {
      const began = performance.now()
      requestAnimationFrame(() => {
        const channel = new MessageChannel()
        channel.port1.onmessage = () => window.keys.push(performance.now() - began)
        channel.port2.postMessage(0)
      })
    })
  })
  await page.keyboard.type('The reading of a meter is sent once a month, and it is used for the bill. '.repeat(2), { delay: 60 })
  await page.waitForTimeout(800)
  print(`browser: a key in 20 000 words, ${where}`, await page.evaluate(() => window.keys))
}
await browser.close()
