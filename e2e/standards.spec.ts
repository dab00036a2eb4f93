import { execFileSync } from 'node:child_process'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { expect, test, type APIRequestContext } from '@playwright/test'
import { HtmlValidate } from 'html-validate'
import { Server } from './server'

// What customers and programs are served, against the published standards.
let server: Server
test.beforeAll(async () => {
  test.setTimeout(240_000)
  server = await Server.start('demo')
})
test.afterAll(() => server.stop())

const pages = [
  '/help',
  '/help?lang=de',
  '/help/search?q=bill+estimated&lang=en',
  '/help/search?q=zebra',
  '/help/articles/A-0001',
  '/help/articles/A-0001.de',
  '/help/categories/1',
  '/help/request?kind=I+am+moving&subject=moving+out',
  '/help/requests',
  '/help/sign-in',
  '/help/nowhere',
]

async function text(request: APIRequestContext, path: string) {
  return (await request.get(server.url + path)).text()
}

test('every page is valid HTML', async ({ request }) => {
  // The rules of style are left out: how a template breaks its lines is nobody's concern.
  const off = 'off' as const
  const rules = {
    'no-trailing-whitespace': off,
    'doctype-style': off,
    'void-style': off,
  }
  const checker = new HtmlValidate({
    extends: ['html-validate:recommended'],
    rules,
  })
  for (const path of pages) {
    const report = await checker.validateString(await text(request, path))
    const found = report.results.flatMap((r) =>
      r.messages.map((m) => `${m.line}: ${m.message} (${m.ruleId})`),
    )
    expect.soft(found.join('\n'), path).toBe('')
  }
})

const here = createRequire(import.meta.url)
const scratch = mkdtempSync(join(tmpdir(), 'hermeneus-standards-'))

function xmllint(kind: '--schema' | '--relaxng', schema: string, document: string) {
  const file = join(scratch, 'document.xml')
  writeFileSync(file, document)
  execFileSync('xmllint', ['--noout', kind, schema, file], { stdio: 'pipe' })
}

test('the sitemap and the feeds keep to their schemas', async ({ request }) => {
  // sitemaps.org's schema for protocol 0.9, as the npm package sitemap carries it.
  const schema = join(dirname(here.resolve('sitemap/package.json')), 'schema', 'sitemap.xsd')
  const map = await text(request, '/sitemap.xml')
  expect(map).toContain('/help/articles/A-0001/')
  xmllint('--schema', schema, map)
  expect(() =>
    xmllint('--schema', schema, map.replace('<loc>', '<place>').replace('</loc>', '</place>')),
  ).toThrow()
  const atom = join(import.meta.dirname, 'atom.rng')
  const feed = await text(request, '/help/categories/1/feed.atom')
  expect(feed).toContain('<entry>')
  xmllint('--relaxng', atom, feed)
  expect(() => xmllint('--relaxng', atom, feed.replace(/<updated>[^<]*<\/updated>/, ''))).toThrow()
})

test('the linked data keeps to the vocabulary of schema.org', async ({ request }) => {
  // The vocabulary as types, from the npm package schema-dts; the compiler compares.
  const found: string[] = []
  for (const path of ['/help', '/help/articles/A-0001']) {
    const match = /<script type="application\/ld\+json">(.*?)<\/script>/s.exec(await text(request, path))
    expect(match, path).not.toBeNull()
    found.push(match?.[1] ?? '')
  }
  const [home = '', article = ''] = found
  const check = (name: string, site: string, page: string) => {
    const file = join(import.meta.dirname, `${name}.check.ts`)
    writeFileSync(
      file,
      `import type { Graph, SearchAction, WebSite, WithActionConstraints, WithContext } from 'schema-dts'
       type Site = Exclude<WithContext<WebSite>, string> & { potentialAction: WithActionConstraints<SearchAction> }
       export const site: Site = ${site}
       export const page: Graph = ${page}\n`,
    )
    try {
      return execFileSync(
        'npx',
        ['--no', '--', 'tsc', '--noEmit', '--strict', '--skipLibCheck', '--module', 'nodenext', file],
        { stdio: 'pipe', cwd: import.meta.dirname },
      ).toString()
    } catch (e) {
      return String((e as { stdout: Buffer }).stdout)
    } finally {
      writeFileSync(file, '')
      execFileSync('rm', [file])
    }
  }
  expect(check('good', home, article)).toBe('')
  expect(check('bad', home, article.replace('"headline"', '"heading"'))).toContain('heading')
})
