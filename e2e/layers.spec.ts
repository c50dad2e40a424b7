import { expect, type Locator, type Page } from '@playwright/test'
import { test } from './browser'
import { centreOf, open, picture, settled, stop } from './helpers'

async function haul(page: Page): Promise<{ errors: string[]; lane: { x: number; y: number; width: number } }> {
  const errors = await open(page)
  await stop(page, 'Motion').click()
  await page.locator('[data-take="haul rope South"]').click()
  await stop(page, 'layer').click()
  await settled(page)
  const lane = (await page.getByTestId('lane').boundingBox())!
  await page.mouse.click(lane.x + lane.width * 0.4, lane.y + 30)
  // the picture of the moment that was gone to
  await expect(page.getByTestId('clock')).toContainText('3.0')
  await page.waitForTimeout(600)
  return { errors, lane }
}
const handleOn =
  (page: Page) =>
  (name: string): Locator =>
    page.locator(`[data-handle="${name}"]`)

test('a part of a carried take is dragged, keyed, told by numbers and left out again', async ({ page }) => {
  const { errors, lane } = await haul(page)
  const handle = handleOn(page)
  const start = await centreOf(handle('rightHand'))
  const other = await centreOf(handle('leftHand'))
  const before = await picture(page)

  // the hand goes where it is dragged, nothing else does
  await page.mouse.move(start.x, start.y)
  await page.mouse.down()
  for (let i = 1; i <= 5; i++) await page.mouse.move(start.x - 6 * i, start.y - 8 * i)
  const asked = async (): Promise<number> => {
    const now = await centreOf(handle('rightHand'))
    return Math.hypot(now.x - start.x + 30, now.y - start.y + 40)
  }
  await expect.poll(asked).toBeLessThan(3)
  const dragged = await centreOf(handle('rightHand'))
  await page.mouse.up()
  await settled(page)
  const kept = await centreOf(handle('rightHand'))
  expect(Math.hypot(kept.x - dragged.x, kept.y - dragged.y)).toBeLessThan(1.5)
  const still = await centreOf(handle('leftHand'))
  expect(Math.hypot(still.x - other.x, still.y - other.y)).toBeLessThan(1)
  expect(await picture(page)).not.toBe(before)
  await expect(page.getByTestId('key')).toHaveCount(1)
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /Key place of right hand: haul rope/)
  // the layer came with the drag: one step takes both back
  await page.getByTestId('undo').click()
  await settled(page)
  await expect(page.getByTestId('layers')).toContainText('None yet')
  await page.getByTestId('redo').click()
  await settled(page)
  await expect(page.getByTestId('key')).toHaveCount(1)

  // it comes and goes around the moment
  await page.getByTestId('only-here').click()
  await settled(page)
  await expect(page.getByTestId('key')).toHaveCount(3)
  await page.mouse.click(lane.x + lane.width * 0.7, lane.y + 30)
  await expect(page.getByTestId('part-in-play').getByLabel(/^Up/)).toHaveValue('0.0')

  // a key is dragged to another time, a part is told by numbers, the layer left out
  const last = await centreOf(page.getByTestId('key').nth(2))
  await page.mouse.move(last.x, last.y)
  await page.mouse.down()
  await page.mouse.move(last.x + 12, last.y)
  await page.mouse.move(last.x + 25, last.y)
  await page.mouse.up()
  await settled(page)
  expect((await centreOf(page.getByTestId('key').nth(2))).x).toBeGreaterThan(last.x + 15)
  await page.getByTestId('channel').selectOption({ label: 'Chest, turn' })
  await page.getByLabel('About up').fill('20')
  await page.getByLabel('About up').press('Enter')
  await settled(page)
  await expect(page.getByLabel('About up')).toHaveValue('20.0')
  const turned = await picture(page)
  await page.getByRole('button', { name: 'Leave it out' }).click()
  await settled(page)
  expect(await picture(page)).not.toBe(turned)
  await page.getByRole('button', { name: 'Let it count' }).click()
  await settled(page)
  await expect.poll(() => picture(page)).toBe(turned)

  expect(errors).toEqual([])
})

test('a layer outlives another plan of the skeleton, and is taken back step by step', async ({ page }) => {
  const { errors, lane } = await haul(page)
  const handle = handleOn(page)
  // a mark that was not chosen before is dragged as well, by the end of its bone
  const crown = await centreOf(handle('head tip'))
  await page.mouse.move(crown.x, crown.y)
  await page.mouse.down()
  for (let i = 1; i <= 5; i++) await page.mouse.move(crown.x + 4 * i, crown.y + 2 * i)
  await page.mouse.up()
  await settled(page)
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /Key turn of head: haul rope/)
  await expect(page.getByTestId('remove-key')).toBeEnabled()

  await page.getByTestId('channel').selectOption({ label: 'Chest, turn' })
  await page.getByLabel('About up').fill('20')
  await page.getByLabel('About up').press('Enter')
  await settled(page)

  // keys are copied to another moment, and given to the other side
  await page.getByTestId('copy-keys').click()
  await page.mouse.click(lane.x + lane.width * 0.9, lane.y + 30)
  await page.getByTestId('paste-keys').click()
  await settled(page)
  await expect(page.locator('[data-layer="Layer 1"]')).toContainText('2 moments')
  await page.getByTestId('channel').selectOption({ label: 'Left upper arm, turn' })
  await page.getByLabel('About ahead').fill('30')
  await page.getByLabel('About ahead').press('Enter')
  await settled(page)
  await page.getByTestId('other-side').click()
  await settled(page)
  await page.getByTestId('channel').selectOption({ label: 'Right upper arm, turn' })
  await expect(page.getByLabel('About ahead')).toHaveValue('-30.0')

  // another plan of fingers: the layer still has its keys and still holds
  await stop(page, 'Bones').click()
  await stop(page, 'hands').click()
  await page.getByRole('radio', { name: '3', exact: true }).first().click()
  await settled(page)
  await stop(page, 'Motion').click()
  await stop(page, 'layer').click()
  await settled(page)
  await expect(page.locator('[data-layer="Layer 1"]')).toContainText('2 moments')
  await page.getByTestId('channel').selectOption({ label: 'Chest, turn' })
  await expect(page.getByLabel('About up')).toHaveValue('20.0')

  for (let i = 0; i < 16 && (await page.getByTestId('undo').isEnabled()); i++) {
    await page.getByTestId('undo').click()
    await settled(page)
  }
  await expect(page.getByTestId('layers')).toContainText('None yet')
  expect(errors).toEqual([])
})

test('what was corrected becomes a layer that can be edited, the figure stays where it was', async ({ page }) => {
  const { errors } = await haul(page)
  const handle = handleOn(page)
  const parts = ['rightHand', 'leftHand', 'leftFoot', 'hips']
  const before = await Promise.all(parts.map(p => centreOf(handle(p))))
  await page.getByTestId('lay-corrections').click()
  await settled(page)
  await expect(page.getByTestId('layers')).toContainText('Corrections')
  await expect(page.getByTestId('lay-corrections')).toHaveCount(0)
  const after = await Promise.all(parts.map(p => centreOf(handle(p))))
  after.forEach((p, i) => expect(Math.hypot(p.x - before[i]!.x, p.y - before[i]!.y)).toBeLessThan(2))
  // another layer over it, each alone, then both as one
  await page.getByTestId('add-layer').click()
  await page.getByTestId('channel').selectOption('reach rightHand')
  await page.getByTestId('part-in-play').getByLabel(/^Up/).fill('6')
  await page.keyboard.press('Enter')
  await settled(page)
  const raised = await centreOf(handle('rightHand'))
  expect(raised.y).toBeLessThan(after[0]!.y - 3)
  await page.getByTestId('only-this').click()
  await settled(page)
  await expect(page.getByTestId('only-this')).toHaveText('Let all count')
  await page.getByTestId('only-this').click()
  await settled(page)
  await page.getByTestId('merge-layers').click()
  await settled(page)
  await expect(page.locator('[data-layer]')).toHaveCount(1)
  const merged = await centreOf(handle('rightHand'))
  expect(Math.hypot(merged.x - raised.x, merged.y - raised.y)).toBeLessThan(2)
  for (let i = 0; i < 6; i++) await page.getByTestId('undo').click()
  await settled(page)
  await expect(page.getByTestId('lay-corrections')).toBeVisible()
  expect(errors).toEqual([])
})

test('a take is begun from rest, the whole figure follows, keys wait to be told, lie between others, and are told by the limb’s joints', async ({
  page,
}) => {
  const errors = await open(page)
  await stop(page, 'Motion').click()
  await page.getByTestId('from-rest').click()
  await settled(page)
  await expect(page.locator('[data-take^="from rest"]')).toHaveCount(1)
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /Begin a take from rest/)
  const handle = handleOn(page)
  const lane = (await page.getByTestId('lane').boundingBox())!
  const goTo = async (share: number): Promise<void> => {
    await page.mouse.click(lane.x + lane.width * share, lane.y + 30)
    await page.waitForTimeout(500)
  }
  const pull = async (name: string, dx: number, dy: number): Promise<void> => {
    const { x, y } = await centreOf(handle(name))
    await page.mouse.move(x, y)
    await page.mouse.down()
    for (let i = 1; i <= 5; i++) await page.mouse.move(x + (dx * i) / 5, y + (dy * i) / 5)
    await page.waitForTimeout(200)
    await page.mouse.up()
    await settled(page)
  }
  // the hips are pulled down, feet stay
  await page.getByRole('radio', { name: 'Whole figure' }).click()
  await goTo(0.25)
  const feet = await Promise.all(['leftFoot', 'rightFoot'].map(f => centreOf(handle(f))))
  const head = await centreOf(handle('head tip'))
  await pull('hips', 0, 40)
  await expect(page.getByTestId('key')).toHaveCount(1)
  const lower = await centreOf(handle('head tip'))
  expect(lower.y - head.y).toBeGreaterThan(20)
  const after = await Promise.all(['leftFoot', 'rightFoot'].map(f => centreOf(handle(f))))
  after.forEach((p, i) => expect(Math.hypot(p.x - feet[i]!.x, p.y - feet[i]!.y)).toBeLessThan(3))

  // a drag that sets no keys waits; another moment lets it go
  await page.getByTestId('auto-key').getByRole('switch').click()
  await goTo(0.75)
  await pull('hips', 0, -20)
  await expect(page.getByTestId('pending')).toBeVisible()
  await expect(page.getByTestId('key')).toHaveCount(1)
  await goTo(0.8)
  await expect(page.getByTestId('pending')).toHaveCount(0)
  await pull('rightHand', 30, -50)
  await page.getByTestId('settle').click()
  await settled(page)
  await expect(page.getByTestId('key')).toHaveCount(2)

  // between both the figure at either is drawn, and a dial lays keys
  await goTo(0.5)
  await expect(page.locator('[data-ghost]')).toHaveCount(2)
  await page.getByTestId('between').getByRole('slider').first().focus()
  await page.keyboard.press('ArrowRight')
  await settled(page)
  await expect(page.getByTestId('key')).toHaveCount(3)

  // the hand told by its joints: the figure stays as it is
  await page.getByTestId('channel').selectOption('reach rightHand')
  await goTo(0.8)
  const told = await picture(page)
  const way = page.getByTestId('limb-told').getByRole('button')
  const other = await way.first().getAttribute('data-tell')
  await way.first().click()
  await settled(page)
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /Right hand (by its end|joint by joint)/)
  await expect(page.locator(`[data-tell="${other}"]`)).toBeHidden()
  const hand = await centreOf(handle('rightHand'))
  await page.getByTestId('undo').click()
  await settled(page)
  const undone = await centreOf(handle('rightHand'))
  expect(Math.hypot(hand.x - undone.x, hand.y - undone.y)).toBeLessThan(1)
  await expect.poll(() => picture(page)).toBe(told)

  // the curve: a key dragged up
  const dot = page.getByTestId('curve-key').first()
  await expect(dot).toBeVisible()
  const at = await centreOf(dot)
  await page.mouse.move(at.x, at.y)
  await page.mouse.down()
  await page.mouse.move(at.x, at.y - 6)
  await page.mouse.move(at.x, at.y - 14)
  await page.mouse.up()
  await settled(page)
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /Key place of right hand/)
  expect(errors).toEqual([])
})
