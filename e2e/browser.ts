import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { test as base, type BrowserContext } from '@playwright/test'

/**
 * Tests that share one browser, as an artist's days do: every one starts without a project and without settings, but
 * what was worked out for the samples before is still kept. What is measured must not use this.
 */
export const test = base.extend<object, { shared: BrowserContext }>({
  shared: [
    async ({ playwright }, use, info) => {
      const { baseURL, viewport, colorScheme, acceptDownloads, serviceWorkers, launchOptions } = info.project.use
      // a profile on disk: there the browser keeps the code it has compiled, as it does for an artist
      const profile = mkdtempSync(join(tmpdir(), 'chiraxis-e2e-'))
      const context = await playwright.chromium.launchPersistentContext(profile, {
        ...launchOptions,
        baseURL,
        viewport,
        colorScheme,
        acceptDownloads,
        serviceWorkers,
      })
      await use(context)
      await context.close()
      rmSync(profile, { recursive: true, force: true })
    },
    { scope: 'worker' },
  ],
  context: async ({ shared }, use, info) => {
    // bodies with fewer vertices, where nothing is measured: `light-demo.mjs` gives them to who carries this
    await shared.addCookies([{ name: 'demo', value: 'light', url: info.project.use.baseURL! }])
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
