import { test } from './browser'
import { open, settled, stop } from './helpers'
test('look', async ({ page }) => {
  test.setTimeout(240_000)
  page.on('pageerror', e => console.log('PAGEERROR', e.message))
  await open(page, 'oda-marl')
  await settled(page)
  
  await stop(page, 'Bones').click(); await settled(page); await stop(page, 'face').click()
  await settled(page)
  await page.waitForTimeout(2500)
  await page.screenshot({ path: '/tmp/s1.png' })
  await page.getByRole('switch', { name: /Make them/ }).click()
  await settled(page)
  await page.waitForTimeout(5000)
  await page.locator('[data-expression="oh"]').click()
  await page.waitForTimeout(800)
  await page.screenshot({ path: '/tmp/s2.png' })
  
  await stop(page, 'Motion').click(); await settled(page); await stop(page, 'voice').click()
  await settled(page)
  await page.getByTestId('voice-file').setInputFiles('/tmp/line.wav')
  await settled(page)
  await page.waitForTimeout(1500)
  await page.locator('[data-said="oh"]').first().click()
  await settled(page)
  await page.waitForTimeout(800)
  await page.screenshot({ path: '/tmp/s3.png' })
})
