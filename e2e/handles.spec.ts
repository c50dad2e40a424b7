import { expect, type Locator, type Page } from '@playwright/test'
import { test } from './browser'
import { centreOf, open, picture, settled, stop } from './helpers'

const handle = (page: Page, id: string): Locator => page.locator(`[data-handle="${id}"]`)
async function handles(page: Page, sample?: string): Promise<string[]> {
  const errors = await open(page, sample)
  await stop(page, 'Handles').click()
  await expect(page.getByTestId('chart')).toBeVisible({ timeout: 120_000 })
  await settled(page)
  return errors
}
/** A place on the drawn line of a handle. */
async function onLine(page: Page, id: string): Promise<{ x: number; y: number }> {
  return handle(page, id)
    .locator('path')
    .first()
    .evaluate((path: SVGPathElement) => {
      const p = path.getPointAtLength(0.3 * path.getTotalLength())
      const at = new DOMPoint(p.x, p.y).matrixTransform(path.getScreenCTM()!)
      return { x: at.x, y: at.y }
    })
}
async function pull(page: Page, id: string, dx: number, dy: number): Promise<void> {
  const { x, y } = await onLine(page, id)
  await page.mouse.move(x, y)
  await page.mouse.down()
  for (let i = 1; i <= 6; i++) await page.mouse.move(x + (dx * i) / 6, y + (dy * i) / 6)
  await page.waitForTimeout(200)
  await page.mouse.up()
  await settled(page)
}
const apart = (a: { x: number; y: number }, b: { x: number; y: number }): number => Math.hypot(a.x - b.x, a.y - b.y)

test('a figure is pulled by its handles while feet and a held hand stay, kept as a pose, and taken back', async ({
  page,
}) => {
  const errors = await handles(page)
  // the chart, the list and the figure choose the same handles
  await page.locator('[data-part="turn leftUpperArm"]').click()
  await expect(page.locator('[data-row="turn leftUpperArm"]')).toHaveClass(/border-madder/)
  await expect(page.getByTestId('handle-shape')).toContainText('Left upper arm')
  await page.getByTestId('handle-shape').getByRole('button', { name: 'Hide' }).click()
  await expect(handle(page, 'turn leftUpperArm')).toHaveCount(0)
  await page.getByTestId('undo').click()
  await expect(handle(page, 'turn leftUpperArm')).toHaveCount(1)

  // hips go down, feet stay
  await stop(page, 'pose').click()
  const feet = await Promise.all(['end leftFoot', 'end rightFoot'].map(id => centreOf(handle(page, id))))
  const before = await centreOf(handle(page, 'turn head'))
  await pull(page, 'move hips', 0, 60)
  const after = await centreOf(handle(page, 'turn head'))
  expect(after.y - before.y).toBeGreaterThan(35)
  for (const [i, id] of ['end leftFoot', 'end rightFoot'].entries())
    expect(apart(await centreOf(handle(page, id)), feet[i]!)).toBeLessThan(1.5)
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /Pull Hips, place/)

  // a hand that is held stays while the other one is pulled; how it is driven does not change the pose
  await page.locator('[data-row="turn leftHand"]').click()
  await page.getByTestId('hold-place').getByRole('switch').click()
  await expect(page.locator('[data-held]')).toHaveText('place held')
  const standing = await picture(page)
  await page.locator('[data-drive="rightHand end"]').click()
  await settled(page)
  await expect.poll(() => picture(page)).toBe(standing)
  const held = await centreOf(handle(page, 'turn leftHand'))
  const right = await centreOf(handle(page, 'end rightHand'))
  await pull(page, 'end rightHand', 60, 40)
  const moved = await centreOf(handle(page, 'end rightHand'))
  expect(apart(moved, { x: right.x + 60, y: right.y + 40 })).toBeLessThan(16)
  expect(apart(await centreOf(handle(page, 'turn leftHand')), held)).toBeLessThan(6)

  // a foot is rolled over its ball: the heel rises, the other foot stays
  await page.locator('[data-row="end leftFoot"]').click()
  const other = await centreOf(handle(page, 'end rightFoot'))
  const ankle = await centreOf(handle(page, 'turn leftFoot'))
  await page.getByTestId('roll-foot').getByLabel(/^Roll/).first().fill('40')
  await page.keyboard.press('Enter')
  await settled(page)
  expect((await centreOf(handle(page, 'turn leftFoot'))).y).toBeLessThan(ankle.y - 4)
  expect(apart(await centreOf(handle(page, 'end rightFoot')), other)).toBeLessThan(1)
  await page.getByTestId('undo').click()
  await settled(page)

  // kept, brought to rest, taken up again
  await page.getByLabel('Name of the pose').fill('Bow')
  await page.getByTestId('keep-figure-pose').click()
  await expect(page.locator('[data-pose="Bow"]')).toBeVisible()
  const posed = await centreOf(handle(page, 'turn head'))
  await page.getByTestId('all-to-rest').click()
  await settled(page)
  expect(apart(await centreOf(handle(page, 'turn head')), before)).toBeLessThan(1.5)
  await page.locator('[data-pose="Bow"]').click()
  await settled(page)
  expect(apart(await centreOf(handle(page, 'turn head')), posed)).toBeLessThan(1.5)
  // another plan of the skeleton leaves the pose and the hold as they are
  await stop(page, 'Bones').click()
  await stop(page, 'skeleton').click()
  await page.getByTestId('undo').click()
  await page.getByTestId('redo').click()
  await stop(page, 'Handles').click()
  await stop(page, 'pose').click()
  await settled(page)
  await expect(page.locator('[data-held]')).toHaveCount(1)
  expect(apart(await centreOf(handle(page, 'turn head')), posed)).toBeLessThan(1.5)
  expect(errors).toEqual([])
})

test('the mass of a figure tells whether it is in balance, and settles it', async ({ page }) => {
  const errors = await handles(page)
  await stop(page, 'pose').click()
  await page.locator('[data-row="turn spine"]').click()
  await page
    .getByTestId('handle-numbers')
    .getByLabel(/^About its left/)
    .fill('75')
  await page.keyboard.press('Enter')
  await page.locator('[data-row="move hips"]').click()
  await page
    .getByTestId('handle-numbers')
    .getByLabel(/^Ahead/)
    .fill('22')
  await page.keyboard.press('Enter')
  await settled(page)
  await stop(page, 'mass').click()
  await expect(page.getByTestId('room')).toContainText('outside')
  await page.getByTestId('settle-balance').click()
  await settled(page)
  await expect(page.getByTestId('room')).toContainText('inside')
  // by published shares it weighs what is told, a part may be told by hand
  await page.getByRole('radio', { name: 'Living bodies' }).click()
  await page.getByTestId('mass').getByLabel(/^Mass/).fill('61')
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('mass').getByLabel(/^Mass/)).toHaveValue('61.0')
  await page.locator('[data-row="turn head"]').click()
  await page.getByTestId('part-mass').getByLabel(/^Mass/).fill('6')
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('mass').getByLabel(/^Mass/)).not.toHaveValue('61.0')
  for (let i = 0; i < 12 && (await page.getByTestId('undo').isEnabled()); i++) await page.getByTestId('undo').click()
  await settled(page)
  await expect(page.getByTestId('room')).toContainText('inside')
  expect(errors).toEqual([])
})

test('a hound has handles of its own: paws, tail and ears', async ({ page }) => {
  const errors = await handles(page, 'brindle')
  await stop(page, 'pose').click()
  const paw = await centreOf(handle(page, 'end leftHindFoot'))
  await pull(page, 'move hips', 0, 25)
  expect(apart(await centreOf(handle(page, 'end leftHindFoot')), paw)).toBeLessThan(2)
  // a tail is pulled by its tip, and what it hangs on stays
  await page.getByRole('radio', { name: 'Limb', exact: true }).click()
  const tip = page.locator('[data-handle^="end tail"]')
  const hips = await centreOf(handle(page, 'turn hips'))
  const from = await centreOf(tip)
  const id = (await tip.getAttribute('data-handle'))!
  await pull(page, id, 10, -40)
  expect(apart(await centreOf(tip), from)).toBeGreaterThan(15)
  expect(apart(await centreOf(handle(page, 'turn hips')), hips)).toBeLessThan(1)
  expect(errors).toEqual([])
})
