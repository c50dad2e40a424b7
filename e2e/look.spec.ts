import { test } from './browser'
import { open, settled, stop } from './helpers'
test('look', async ({ page }) => {
  page.setDefaultTimeout(20000)
  await open(page)
  await stop(page, 'Delivery').click()
  await settled(page)
  await page.waitForTimeout(800)
  await page.screenshot({ path: '/tmp/l1.png' })
  await page.getByTestId('profiles').selectOption('BVH: Z up, metres, turns XYZ')
  await settled(page)
  await page.getByRole('button', { name: /night|theme|dark/i }).first().click()
  await page.locator('[data-group="North"]').getByRole('button', { name: /North/ }).click()
  await Promise.all([page.waitForEvent('download', { timeout: 60000 }), page.getByTestId('deliver').click()])
  await page.waitForTimeout(1200)
  await page.screenshot({ path: '/tmp/l2.png' })
})
