import { expect } from '@playwright/test'
import { readGltf } from '@chiraxis/core/formats'
import { test } from './browser'
import { bytesOf, open, picture, settled, stop } from './helpers'

test('a light body is made, looked at, changed, and delivered in place of the body', async ({ page }) => {
  test.setTimeout(240_000)
  const errors = await open(page, 'pim')
  await stop(page, 'Shape').click()
  await stop(page, 'light').click()
  await page.getByTestId('make-light').click()
  await settled(page)
  const report = page.getByTestId('light-report')
  await expect(report).toContainText('nowhere', { timeout: 60_000 })
  const quads = async (): Promise<number> =>
    Number(/Quads\s*([\d ]+)/.exec((await report.textContent()) ?? '')![1]!.replaceAll(' ', ''))
  expect(Math.abs((await quads()) - 8000)).toBeLessThan(300)

  // rings of a joint are marked on the plate
  const before = await picture(page)
  await page.locator('[data-light-row="leftArm 1"]').click()
  await expect.poll(() => picture(page)).not.toBe(before)

  // fewer quads, and undone
  await page.getByRole('textbox', { name: 'Quads' }).fill('2000')
  await page.getByRole('textbox', { name: 'Quads' }).press('Enter')
  await settled(page)
  await expect.poll(quads).toBeLessThan(2200)
  await page.getByRole('button', { name: 'Undo' }).click()
  await settled(page)
  await expect.poll(quads).toBeGreaterThan(7000)

  await page.getByRole('switch', { name: 'Use it in place of the body' }).click()
  await settled(page)
  await stop(page, 'Delivery').click()
  await settled(page)
  const download = page.waitForEvent('download')
  await page.getByTestId('deliver').click()
  const { mesh, skin } = await readGltf(await bytesOf(await download))
  const triangles = mesh!.indices.length / 3
  expect(triangles).toBeGreaterThan(15_000)
  expect(triangles).toBeLessThan(17_500)
  expect(skin).toBeDefined()
  expect(errors).toEqual([])
})
