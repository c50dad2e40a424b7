import { expect, test } from '@playwright/test'
import { settled, stop } from './helpers'

// a browser of its own, with the worker that keeps the program
test.use({ serviceWorkers: 'allow' })

test('after the first visit everything works without the server, every step and the delivery', async ({
  page,
  context,
}) => {
  const missing: string[] = []
  page.on('pageerror', e => missing.push(e.message))
  await page.goto('/')
  await expect(page.getByTestId('opening')).toBeVisible()
  // fetched in the background
  await page.evaluate(async () => {
    await navigator.serviceWorker.ready
  })
  await expect
    .poll(() => page.evaluate(async () => (await caches.keys()).length), { timeout: 60_000 })
    .toBeGreaterThan(0)
  await context.setOffline(true)
  await page.reload()
  await page.getByTestId('opening').locator('[data-sample="tolly"]').click()
  await settled(page)
  const route = page.getByRole('navigation', { name: 'Route' })
  let seen = 0
  for (const phase of ['Shape', 'Bones', 'Handles', 'Motion', 'Trial', 'Delivery']) {
    await stop(page, phase).click()
    await settled(page)
    const steps = await route.locator('ol').nth(1).getByRole('button').allTextContents()
    for (const step of steps.map(s => s.trim())) {
      await stop(page, step).click()
      await expect(page.getByRole('complementary', { name: 'Bench' }).getByRole('heading').first(), step).toBeVisible()
      seen++
    }
  }
  expect(seen).toBeGreaterThan(23)
  const file = page.waitForEvent('download')
  await page.getByTestId('deliver').click()
  expect((await file).suggestedFilename()).toMatch(/^Tolly/)
  expect(missing).toEqual([])
})
