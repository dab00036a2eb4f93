import { test } from '@playwright/test'
import { Server } from './server'

test('the demo world is loaded, once for all stories', async () => {
  await Server.load()
})
