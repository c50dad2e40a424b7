import { expect, type Page } from '@playwright/test'
import { test } from './browser'
import { centreOf, open, settled, stop } from './helpers'

const amount = async (page: Page, row: string): Promise<number> =>
  Number(/([\d.]+)/.exec((await page.getByTestId('walk-state').locator('p', { hasText: row }).innerText()).replace(row, ''))![1]) // prettier-ignore
const speed = async (page: Page): Promise<number> =>
  Number(/([\d.]+)/.exec(await page.getByTestId('walk-speed').innerText())![1])

test('a figure is led by keys and by the pointer: it walks, runs and stands, with its feet in place', async ({
  page,
}) => {
  const errors = await open(page)
  await stop(page, 'Trial').click()
  await settled(page)
  await expect(page.getByTestId('speed-ruler')).toContainText('brisk walk', { timeout: 60_000 })
  await expect(page.locator('[data-share="lookout idle"]')).toContainText('100 %')

  await page.keyboard.down('ArrowRight')
  await expect.poll(() => speed(page), { timeout: 20_000 }).toBeCloseTo(1.29, 1)
  await expect(page.locator('[data-share="walk"]')).toContainText('100 %')
  await expect.poll(() => amount(page, 'From where it began')).toBeGreaterThan(2)
  expect(await amount(page, 'Resting feet slide')).toBeLessThan(5)
  await expect(page.getByTestId('footprint').first()).toBeAttached()
  await page.keyboard.down('Shift')
  await expect(page.locator('[data-share="run"]')).toContainText('100 %', { timeout: 20_000 })
  await page.keyboard.up('Shift')
  await page.keyboard.up('ArrowRight')
  await expect(page.locator('[data-share="lookout idle"]')).toContainText('100 %', { timeout: 20_000 })
  expect(await speed(page)).toBe(0)

  // pressed beside itself it goes there, let go it stands
  await page.getByTestId('walk-home').click()
  await expect.poll(() => amount(page, 'From where it began')).toBe(0)
  const at = await centreOf(page.getByTestId('walk-plate'))
  await page.mouse.move(at.x - 200, at.y + 60)
  await page.mouse.down()
  await expect.poll(() => amount(page, 'From where it began'), { timeout: 20_000 }).toBeGreaterThan(1)
  await page.mouse.up()
  await expect.poll(() => speed(page), { timeout: 20_000 }).toBe(0)

  // without a take that stands it says what is missing
  for (const name of ['lookout idle', 'lantern idle']) await page.locator(`[data-led="${name}"]`).uncheck()
  await expect(page.getByTestId('walk-lacks')).toContainText('stands', { timeout: 60_000 })
  expect(errors).toEqual([])
})

test('a hound is led on four legs', async ({ page }) => {
  const errors = await open(page, 'brindle')
  await stop(page, 'Trial').click()
  await settled(page)
  await expect(page.getByTestId('speed-ruler')).toContainText('hound walk', { timeout: 60_000 })
  await page.keyboard.down('ArrowUp')
  await expect.poll(() => amount(page, 'From where it began'), { timeout: 30_000 }).toBeGreaterThan(0.8)
  await page.keyboard.up('ArrowUp')
  expect(errors).toEqual([])
})
