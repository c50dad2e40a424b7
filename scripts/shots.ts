/** Retakes every picture of docs/screenshots from the demo: `npm run shots`. */
import { spawn } from 'node:child_process'
import { mkdirSync } from 'node:fs'
import { chromium, type Page } from '@playwright/test'
import config from '../playwright.config'

const PORT = '4872'
const OUT = 'docs/screenshots'
const address = `http://127.0.0.1:${PORT}/`

async function settled(page: Page): Promise<void> {
  await page.waitForSelector('[data-testid=workbench][data-ready=true]', { timeout: 60_000 })
  await page.waitForTimeout(900)
}
const stop = (page: Page, name: string): Promise<void> => page.getByRole('navigation', { name: 'Route' }).getByRole('button', { name, exact: true }).click()

const VIEWS: Record<string, (page: Page) => Promise<void>> = {
  shape: async () => undefined,
  'bones-landmarks': async page => {
    await stop(page, 'Bones')
    await page.locator('[data-ledger="leftElbow"]').click()
  },
  'bones-skin': async page => {
    await stop(page, 'Bones')
    await stop(page, 'skin')
    await page.locator('[data-ledger="7"]').click()
  },
  motion: async page => {
    await stop(page, 'Motion')
    await settled(page)
    const lane = (await page.getByTestId('lane').boundingBox())!
    await page.mouse.click(lane.x + lane.width * 0.31, lane.y + 30)
  },
  delivery: async page => {
    await stop(page, 'Delivery')
    await page.getByTestId('deliver').click()
    await page.getByTestId('proof').waitFor({ timeout: 60_000 })
  },
}

mkdirSync(OUT, { recursive: true })
const server = spawn(process.execPath, ['.output/server/index.mjs'], { stdio: 'ignore', env: { ...process.env, HOST: '127.0.0.1', NITRO_HOST: '127.0.0.1', PORT, NITRO_PORT: PORT } })
const browser = await chromium.launch(config.use!.launchOptions)
try {
  for (let i = 0; i < 100; i++) {
    if (await fetch(`${address}api/health`).then(r => r.ok, () => false)) break
    await new Promise(done => setTimeout(done, 100))
  }
  for (const theme of ['day', 'night'] as const) {
    for (const [name, go] of Object.entries(VIEWS)) {
      const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: theme === 'day' ? 'light' : 'dark' })
      await page.goto(address)
      await settled(page)
      await go(page)
      await settled(page)
      await page.mouse.move(900, 28)
      await page.screenshot({ path: `${OUT}/${name}-${theme}.png` })
      await page.close()
      console.log(`${OUT}/${name}-${theme}.png`)
    }
  }
} finally {
  await browser.close()
  server.kill()
}
