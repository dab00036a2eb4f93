import { defineConfig } from '@playwright/test'

// Debian's Chromium, never a browser download.
export default defineConfig({
  // What the browser does by itself, without a page; then the stories, in a real browser.
  projects: [
    { name: 'logic', testDir: '../web/src' },
    { name: 'world', testDir: '.', testMatch: 'world.setup.ts' },
    { name: 'stories', testDir: '.', dependencies: ['world'] },
  ],
  timeout: 240_000,
  expect: { timeout: 10_000 },
  fullyParallel: false,
  workers: 2, // one for each core; each file has a server and a database of its own
  retries: process.env.CI ? 1 : 0,
  reporter: process.env.CI
    ? [['line'], ['json', { outputFile: 'test-results/report.json' }]]
    : [['list'], ['json', { outputFile: 'test-results/report.json' }]],
  use: {
    viewport: { width: 1280, height: 800 },
    screenshot: 'only-on-failure',
    userAgent: 'Mozilla/5.0 (X11; Linux x86_64) Trial',
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
})
