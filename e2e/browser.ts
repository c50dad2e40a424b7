import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { test as base, type BrowserContext } from '@playwright/test'

/** The demo figures made light. */
export const LIGHT = '.demo-light'

/**
 * Tests that share one browser, as an artist's days do: every one starts without a project and without settings, but
 * what was worked out for the samples before is still kept. What is measured must not use this.
 */
export const test = base.extend<object, { shared: BrowserContext }>({
  shared: [
    async ({ browser }, use, info) => {
      const { baseURL, viewport, colorScheme, acceptDownloads } = info.project.use
      const context = await browser.newContext({ baseURL, viewport, colorScheme, acceptDownloads })
      // bodies with fewer vertices, where nothing is measured
      await context.route('**/demo/*', route => {
        const path = join(LIGHT, new URL(route.request().url()).pathname.replace(/^.*\//, ''))
        return existsSync(path) ? route.fulfill({ path }) : route.continue()
      })
      await use(context)
      await context.close()
    },
    { scope: 'worker' },
  ],
  context: async ({ shared }, use, info) => {
    await use(shared)
    for (const page of shared.pages()) await page.close()
    // a page of the same place that runs nothing
    const page = await shared.newPage()
    await page.goto(`${info.project.use.baseURL}/mark.svg`)
    await page.evaluate(async () => {
      localStorage.clear()
      await new Promise<void>((done, fail) => {
        const gone = indexedDB.deleteDatabase('chiraxis')
        gone.onsuccess = () => done()
        gone.onerror = () => fail(gone.error)
      })
    })
    await page.close()
  },
})
