import { expect, test, type Page } from '@playwright/test'
import { routes } from '../web/src/staff/routes'
import { staff } from './people'
import { Server } from './server'

// What the interface shows after following a link, the find field, or the browser's back equals what it shows after a
// reload. The kinds of view come from the router's own table, so that a view that is added is walked too.

let server: Server
test.beforeAll(async () => {
  server = await Server.start('demo')
})
test.afterAll(() => server.stop())

/** The kinds of view: every line of the table that draws something for who is signed in. */
const kinds = routes.filter((r) => !('redirect' in r && r.redirect) && !r.meta?.open).map((r) => r.path)

const shape = (kind: string) =>
  new RegExp(
    '^' +
      kind
        .replace(/\/:\w+\(\.\*\)/, '/.*')
        .replace(/\/:\w+\?/g, '(?:/([^/]+))?')
        .replace(/:\w+/g, '[^/]+') +
      '$',
  )

/** The kind of view that an address leads to, as the router finds it: what is fixed before what is not. */
function kindOf(address: string): string {
  const path = address.split('?')[0]?.split('#')[0] ?? ''
  const fits = kinds.filter((k) => shape(k).test(path))
  const free = (k: string) => (k.match(/:/g)?.length ?? 0) + (k.includes('(.*)') ? 10 : 0)
  return fits.sort((a, b) => free(a) - free(b))[0] ?? ''
}

/** At least two addresses of each kind, with different objects where it shows one. */
async function objects(page: Page): Promise<Record<string, string[]>> {
  const get = async <T>(path: string) => (await (await page.request.get(server.url + path)).json()) as T
  const create = async (name: string, references: string[]) => {
    const made = await page.request.post(server.url + '/api/staff/batches', {
      data: { name, references },
    })
    return ((await made.json()) as { id: number }).id
  }
  const questions = (
    await get<{ items: { key: string }[] }>(
      '/api/staff/ledger?from=2026-01-01&to=2026-12-31&settled=true',
    ).catch(() => ({ items: [] }))
  ).items
  const ledger = questions.length
    ? questions
    : (await get<{ items: { key: string }[] }>('/api/staff/ledger?' + period())).items
  const handoffs = await get<{ reference: string; status: string }[]>('/api/staff/handoffs')
  const closed = handoffs.filter((h) => h.status === 'closed').map((h) => h.reference)
  const lanes = await get<{ kind: string; items: { reference: string }[] }[]>('/api/staff/lanes')
  const reviewing = lanes.filter((l) => l.kind === 'gate').flatMap((l) => l.items.map((i) => i.reference))
  const batches = (await get<{ id: number }[]>('/api/staff/batches')).map((b) => b.id)
  const drafting = (
    await get<{ items: { reference: string }[] }>('/api/staff/articles?state=drafting')
  ).items.map((i) => i.reference)
  if (batches.length < 2) batches.push(await create('Another batch', drafting.slice(0, 2)))
  const people = (await get<{ id: number }[]>('/api/staff/people')).map((p) => p.id)
  const sites = (await get<{ id: number }[]>('/api/staff/sites')).map((s) => s.id)
  const two = (list: (string | number)[], address: (x: string) => string) =>
    list.slice(0, 2).map((x) => address(String(x)))
  return {
    '/today': ['/today'],
    '/library': ['/library', '/library?category=2', '/library?words=bill'],
    '/library/bring-in': ['/library/bring-in'],
    '/library/:reference': [
      '/library/A-0012',
      '/library/A-0012.de',
      '/library/A-0005',
      '/library/A-0005?margin=history',
    ],
    '/library/:reference/changes': [
      '/library/A-0012/changes',
      `/library/${drafting[0]}/changes`,
      '/library/A-0012/changes?before=live&after=1',
    ],
    '/review': ['/review'],
    '/review/:reference': two(reviewing, (x) => `/review/${x}`),
    '/review/batches/:id': two(batches, (x) => `/review/batches/${x}`),
    '/news': ['/news', '/news?page=2'],
    '/trail': ['/trail', '/trail?article=A-0012'],
    '/flows': ['/flows'],
    '/flows/:slug': ['/flows/front-door', '/flows/moving-home', '/flows/street-chargers?margin=where'],
    '/flows/:slug/changes': ['/flows/front-door/changes?before=1', '/flows/moving-home/changes?before=1'],
    '/settings/hours': ['/settings/hours', '/settings/hours?of=site-1'],
    '/conversations/:reference?': two(closed, (x) => `/conversations/${x}`),
    '/outcomes': ['/outcomes', '/outcomes?outcome=person&settled=1'],
    '/outcomes/question/:id': two(
      ledger.map((q) => q.key),
      (x) => `/outcomes/question/${encodeURIComponent(x)}`,
    ),
    '/settings': ['/settings'],
    '/settings/paths': ['/settings/paths'],
    '/settings/groups': ['/settings/groups'],
    '/settings/customers': ['/settings/customers', '/settings/customers?words=wim'],
    '/me': ['/me'],
    '/settings/people/:id/hand-over': two(people, (x) => `/settings/people/${x}/hand-over`),
    '/library/templates': ['/library/templates'],
    '/settings/sites/:site/search': two(sites, (x) => `/settings/sites/${x}/search`),
    '/settings/sites/:site/form': two(sites, (x) => `/settings/sites/${x}/form`),
    '/settings/problems': ['/settings/problems'],
    '/settings/sites': ['/settings/sites'],
    '/:rest(.*)': ['/nowhere', '/no/such/view'],
  }
}

/** The last two weeks, as the Ledger asks for them. */
function period(): string {
  const day = (ago: number) => new Date(Date.now() - ago * 86_400_000).toISOString().slice(0, 10)
  return `from=${day(14)}&to=${day(0)}`
}

/** Everything that is shown: words, what stands in fields and what is chosen; without what runs on by itself. */
async function shown(page: Page): Promise<string> {
  const all = await page.evaluate(() => {
    const fields = [
      ...document.querySelectorAll<HTMLInputElement>('input:not([type=hidden]), textarea, select'),
    ]
    const state = [...document.querySelectorAll('[aria-selected=true], [aria-pressed=true], [aria-current]')]
    return [
      document.title,
      document.querySelector('header')?.innerText ?? '',
      ...[...document.querySelectorAll<HTMLElement>('#main, aside')].map((e) => e.innerText),
      ...fields.map(
        (f) => `${f.id || f.name || f.type}=${/checkbox|radio/.test(f.type) ? String(f.checked) : f.value}`,
      ),
      ...state.map((e) => `* ${e.textContent ?? ''}`),
    ].join('\n')
  })
  // Counts of what is going on, and as of when, go on while the walk does.
  return all
    .replace(/As of [^\n]*/g, 'As of …')
    .replace(/Saved [^\n]*/g, 'Saved …')
    .replace(/\s+/g, ' ')
}

const before = (address: string) => address.split('?')[0]

class Walk {
  private readonly fresh = new Map<string, string>()
  steps = 0

  private readonly asked = new Set<unknown>() // what the other page waits for

  constructor(
    readonly page: Page,
    readonly other: Page, // in which every address is loaded anew
  ) {
    other.on('request', (r) => r.resourceType() === 'fetch' && this.asked.add(r))
    other.on('requestfinished', (r) => this.asked.delete(r))
    other.on('requestfailed', (r) => this.asked.delete(r))
  }

  /** What an address shows that is loaded anew. */
  async anew(address: string, again = false): Promise<string> {
    const known = this.fresh.get(address)
    if (known !== undefined && !again) return known
    await this.other.goto(`${server.url}/staff${address}`)
    const now = await this.steady()
    this.fresh.set(address, now)
    return now
  }

  /** Compares the page with its address loaded anew. */
  async check(how: string) {
    this.steps++
    const address = decodeURI(await this.page.evaluate(() => location.pathname + location.search)).replace(
      /^\/staff/,
      '',
    )
    let want = await this.anew(address)
    let got = ''
    for (let i = 0; i < 100; i++) {
      got = await shown(this.page)
      if (got === want) return
      await this.page.waitForTimeout(i < 10 ? 40 : 150)
      if (i % 20 === 19) want = await this.anew(address, true) // time goes on in the world, too
    }
    expect.soft(got, `${how}: ${address}`).toBe(want)
  }

  /** What the other page shows once everything has come and nothing moves any more. */
  private async steady(): Promise<string> {
    let last = ''
    let same = 0 // looks at which it stood still, with nothing on its way
    for (let i = 0; i < 100; i++) {
      await this.other.waitForTimeout(50)
      const now = await shown(this.other)
      same = now === last && !this.asked.size && (await this.other.locator('#main').count()) ? same + 1 : 0
      if (same === 2) return now
      last = now
    }
    return last
  }

  /** Goes to an address without a reload, as the browser's back and forward do. */
  async hop(address: string) {
    await this.page.evaluate((to) => {
      history.pushState(null, '', to)
      dispatchEvent(new PopStateEvent('popstate', { state: null }))
    }, '/staff' + address)
  }
}

test('every view that is gone to shows what its address shows loaded anew', async ({ browser }) => {
  test.setTimeout(600_000)
  const page = await staff(browser, server, 'Maren', 'wrenmoor-demo')
  const other = await page.context().newPage()
  for (const p of [page, other]) await p.clock.setFixedTime(Date.now())
  const table = await objects(page)
  expect(Object.keys(table).sort(), 'every kind of view of the router has its objects here').toEqual(
    [...kinds].sort(),
  )
  const walk = new Walk(page, other)

  for (const [kind, addresses] of Object.entries(table)) {
    if (/:\w+(?!\()/.test(kind.replace(':rest(.*)', '')))
      expect(new Set(addresses.map(before)).size, `two objects of ${kind}`).toBeGreaterThan(1)
    for (const address of addresses) expect(kindOf(address), address).toBe(kind)
    const [first = ''] = addresses
    // From each object to every other of its kind and back, in the page as it stands.
    await page.goto(`${server.url}/staff${first}`)
    await walk.check('loaded')
    for (const address of [...addresses.slice(1), first, addresses.at(-1) ?? first]) {
      await walk.hop(address)
      await walk.check(`from another of its kind (${kind})`)
    }
    // To one of every kind that it leads to, by its links, and back again.
    await page.goto(`${server.url}/staff${first}`)
    await walk.check('loaded')
    const links = await page.evaluate(() =>
      [...document.querySelectorAll<HTMLAnchorElement>('a[href^="/staff/"]')]
        .filter((a) => a.checkVisibility() && !a.target)
        .map((a) => a.getAttribute('href') ?? ''),
    )
    const led = new Set<string>()
    for (const href of links) {
      const to = href.replace(/^\/staff/, '')
      const key = kindOf(to) === kind && before(to) !== before(first) ? 'another of its kind' : kindOf(to)
      if (led.has(key) || to === first || !key) continue
      led.add(key)
      await page.evaluate(
        (h) =>
          [...document.querySelectorAll<HTMLAnchorElement>('a')]
            .find((a) => a.getAttribute('href') === h && a.checkVisibility())
            ?.click(),
        href,
      )
      await expect(page, `${href} of ${first} leads somewhere`).not.toHaveURL(`${server.url}/staff${first}`, {
        timeout: 15_000,
      })
      await walk.check(`by a link of ${first}`)
      await page.goBack()
      await walk.check(`back from ${to}`)
    }
  }
  expect(walk.steps).toBeGreaterThan(250)
})

test('from an article to another: the find field, its editions and its references, and what is typed goes where the address says', async ({
  browser,
}) => {
  const page = await staff(browser, server, 'Maren', 'wrenmoor-demo')
  const text = page.getByRole('textbox', { name: 'Text of the article' })
  const title = page.locator('#title')
  const body = async (reference: string) =>
    (
      (await (await page.request.get(`${server.url}/api/staff/articles/${reference}`)).json()) as {
        copy: { title: string; body: string }
      }
    ).copy
  await page.goto(server.url + '/staff/library/A-0012')
  await expect(title).toHaveValue((await body('A-0012')).title)
  await page.getByRole('link', { name: 'Deutsch' }).click()
  await expect(title).toHaveValue((await body('A-0012.de')).title)
  await page.goBack()
  await expect(title).toHaveValue((await body('A-0012')).title)

  await page.keyboard.press('/')
  await page.keyboard.type('estimated')
  await expect(page.getByRole('option').first()).toBeVisible()
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Enter')
  await expect(page).not.toHaveURL(/A-0012/)
  const there = /A-\d+/.exec(page.url())?.[0] ?? ''
  const [was, kept] = [await body(there), await body('A-0012')]
  await expect(title).toHaveValue(was.title)
  await text.click()
  await page.keyboard.press('Control+End')
  await page.keyboard.type(' Typed after going there.')
  // Away at once, before it has saved itself.
  await page.keyboard.press('Escape')
  await page.keyboard.press('/')
  await page.keyboard.type('move into')
  await expect(page.getByRole('option').first()).toBeVisible()
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Enter')
  await expect(page).not.toHaveURL(new RegExp(there))
  await expect.poll(async () => (await body(there)).body).toContain('Typed after going there.')
  expect((await body('A-0012')).body).toBe(kept.body)
  await page.goBack()
  await expect(title).toHaveValue(was.title)
  await expect(text).toContainText('Typed after going there.')
})

test('addresses from before lead to where the view stands now, with what they named', async ({ browser }) => {
  const page = await staff(browser, server, 'Maren', 'wrenmoor-demo')
  const list = await page.request.get(`${server.url}/api/staff/handoffs`)
  const handoff = ((await list.json()) as { reference: string }[])[0]?.reference ?? ''
  expect(handoff).toMatch(/^[HR]-\d+$/)
  for (const [before, now, shown] of [
    [`/handoffs/${handoff}`, `/conversations/${handoff}`, page.getByText(handoff).first()],
    ['/settings/templates', '/library/templates', page.getByRole('heading', { name: 'Templates', level: 1 })],
    [
      '/library/A-0001?leaf=said',
      '/library/A-0001?margin=remarks',
      page.getByRole('tab', { name: /^Said/, selected: true }),
    ],
    [
      '/library/A-0001?leaf=properties',
      '/library/A-0001?margin=about',
      page.getByRole('region', { name: 'About' }),
    ],
    [
      '/library/A-0001?leaf=history',
      '/library/A-0001?margin=history',
      page.getByRole('region', { name: 'History' }),
    ],
    [
      '/settings/sites/1/search?leaf=quality',
      '/settings/sites/1/search?part=quality',
      page.getByRole('link', { name: 'How well it does' }),
    ],
  ] as const) {
    await page.goto(server.url + '/staff' + before)
    await expect(page).toHaveURL(server.url + '/staff' + now)
    await expect(shown, before).toBeVisible()
  }
})
