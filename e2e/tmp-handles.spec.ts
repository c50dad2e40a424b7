import { test } from './browser'
import { centreOf, open, settled, stop } from './helpers'
const OUT = '/tmp/look'
test('look', async ({ page }) => {
  test.setTimeout(300_000)
  await page.setViewportSize({ width: 1280, height: 800 })
  const errors = await open(page, process.env.SAMPLE)
  await settled(page)
  await stop(page, 'Handles').click()
  await page.waitForSelector('[data-testid="chart"]', { timeout: 120_000 })
  await settled(page)
  await page.waitForTimeout(1500)
  if (process.env.NIGHT)
    await page
      .getByRole('button', { name: /night|theme|dark/i })
      .first()
      .click()
  await page.screenshot({ path: `${OUT}/set${process.env.SAMPLE ?? ''}.png` })
  await stop(page, 'pose').click()
  await page.waitForTimeout(800)
  const move = page.locator('[data-handle="move hips"]')
  const c = await centreOf(move)
  const box = (await page.getByTestId('plate').boundingBox())!
  void box
  await page.locator('[data-row="move hips"]').click()
  await page.waitForTimeout(500)
  await page.screenshot({ path: `${OUT}/pose0${process.env.SAMPLE ?? ''}.png` })
  void c
  await page.evaluate(() => {
    const p = document.querySelector('[data-handle="move hips"] path')!.getBoundingClientRect()
    ;(window as any).at = [p.left + 3, p.top + p.height / 2]
  })
  const at = (await page.evaluate(() => (window as any).at)) as [number, number]
  await page.mouse.move(at[0], at[1])
  await page.mouse.down()
  for (let i = 1; i <= 8; i++) await page.mouse.move(at[0] + 3 * i, at[1] + 9 * i)
  await page.waitForTimeout(500)
  await page.screenshot({ path: `${OUT}/pose1${process.env.SAMPLE ?? ''}.png` })
  await page.mouse.up()
  await settled(page)
  await stop(page, 'mass').click()
  await page.waitForTimeout(1000)
  await page.screenshot({ path: `${OUT}/mass${process.env.SAMPLE ?? ''}.png` })
  console.log(errors)
})
