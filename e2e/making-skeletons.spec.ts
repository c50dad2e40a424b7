import { expect, type Page } from '@playwright/test'
import { writeGlb } from '../core/src/formats/gltf-write'
import { fromAxisAngle, type Vec3 } from '../core/src/math'
import { skeletonFromWorld } from '../core/src/skeleton'
import { bind } from '../core/src/skin'
import { limb } from '../core/test/figure'
import { join } from '../core/test/shapes'
import { test } from './browser'
import { bytesOf, centreOf, drag, drop, mark, open, settled, stop } from './helpers'

const row = (page: Page, name: string) =>
  page.getByRole('complementary', { name: 'Ledger' }).getByRole('button', { name, exact: true })
const numberOf = async (page: Page, name: string): Promise<string> =>
  (await row(page, name).getAttribute('data-ledger'))!

test('several joints are oriented and renamed at once, by hand, by numbers and by words', async ({ page }) => {
  const errors = await open(page, 'pim')
  await stop(page, 'Bones').click()
  await stop(page, 'axes').click()
  await row(page, 'Left upper arm').click()
  await row(page, 'Left hand').click({ modifiers: ['Shift'] })
  await expect(page.getByText('3 chosen')).toBeVisible()
  const about = (axis: string) => page.getByTestId('orient').getByLabel(`About ${axis}`)
  await page.getByTestId('align-body').click()
  await settled(page)
  for (const axis of ['x', 'y', 'z']) await expect(about(axis)).toHaveValue('0.0')
  await about('y').fill('30')
  await about('y').press('Enter')
  await settled(page)
  // every one of them, and those of the other side as their mirror image
  for (const [name, degrees] of [
    ['Left lower arm', '30.0'],
    ['Left hand', '30.0'],
    ['Right lower arm', '-30.0'],
  ]) {
    await row(page, name!).click()
    await expect(about('y')).toHaveValue(degrees!)
  }
  // the end of an axis is pulled on the plate: one step to take back
  await row(page, 'Left upper arm').click()
  const before = await about('z').inputValue()
  const tip = page.locator('[data-axis="y"]')
  const { x, y } = await centreOf(tip)
  await page.mouse.move(x, y)
  await page.mouse.down()
  await page.mouse.move(x + 30, y + 25, { steps: 4 })
  await page.mouse.up()
  await settled(page)
  await expect(about('z')).not.toHaveValue(before)
  await page.getByTestId('undo').click()
  await settled(page)
  await expect(about('z')).toHaveValue(before)

  await stop(page, 'names').click()
  await row(page, 'Left upper arm').click()
  await page.getByTestId('choose-below').first().click()
  const card = page.getByTestId('rename-card')
  await card.getByLabel('Find in names').fill('left')
  await card.getByLabel('Replace with').fill('L_')
  await card.getByLabel('Put before').fill('crew:')
  await page.getByTestId('rename-chosen').click()
  await settled(page)
  await row(page, 'Left upper arm').click()
  await expect(page.getByLabel('Joint name')).toHaveValue('crew:L_UpperArm')
  // one name for two is refused before anything is done
  await row(page, 'Left lower arm').click({ modifiers: ['Control'] })
  await card.getByLabel('Find in names').fill('UpperArm')
  await card.getByLabel('Replace with').fill('LowerArm')
  await expect(page.getByTestId('rename-clash')).toContainText('2 joints would be called crew:L_LowerArm')
  await expect(page.getByTestId('rename-chosen')).toBeDisabled()
  expect(errors).toEqual([])
})

test('a root is added above the figure, moved and removed again', async ({ page }) => {
  const errors = await open(page, 'pim')
  await stop(page, 'Bones').click()
  await stop(page, 'skeleton').click()
  const joints = page.locator('[data-ledger]')
  const count = await joints.count()
  await page.getByTestId('add-root').click()
  await settled(page)
  await expect(joints).toHaveCount(count + 1)
  await expect(joints.first()).toHaveText('root')
  await row(page, 'root').click()
  const depth = page.getByLabel('Depth')
  await depth.fill('-12')
  await depth.press('Enter')
  await settled(page)
  await expect(depth).toHaveValue('-12.0')
  await row(page, 'Hips').click()
  await expect(page.getByTestId('parent').locator('option:checked')).toHaveText('root')
  await row(page, 'root').click()
  await page.getByTestId('remove-joint').click()
  await settled(page)
  await expect(joints).toHaveCount(count)
  await expect(page.getByTestId('parent').first()).toBeVisible()
  expect(errors).toEqual([])
})

test('a rest pose is made by posing on the plate, and kept as a check pose', async ({ page }) => {
  const errors = await open(page, 'pim')
  await stop(page, 'Bones').click()
  await stop(page, 'rest').click()
  await settled(page)
  const make = page.getByTestId('make-rest')
  await expect(make).toBeDisabled()
  const hand = await numberOf(page, 'Left hand')
  const place = await centreOf(mark(page, hand))
  await drag(page, await numberOf(page, 'Left lower arm'), -20, 70)
  const now = await centreOf(mark(page, hand))
  expect(now.y - place.y).toBeGreaterThan(40)
  // the other side follows as a mirror shows it
  const right = await centreOf(mark(page, await numberOf(page, 'Right hand')))
  expect(Math.abs(right.y - now.y)).toBeLessThan(8)
  // a turn that is no part of the figure yet is undone first
  await page.keyboard.press('Control+z')
  expect(Math.abs((await centreOf(mark(page, hand))).y - place.y)).toBeLessThan(2)
  await page.keyboard.press('Control+Shift+z')
  await row(page, 'Left upper leg').click()
  const ahead = page.getByLabel('About ahead')
  await ahead.fill('12')
  await ahead.press('Enter')
  await page.getByLabel('Name of the pose').fill('at the rail')
  await page.getByTestId('keep-pose').click()
  await settled(page)
  await make.click()
  await settled(page)
  await expect(make).toBeDisabled()
  expect((await centreOf(mark(page, hand))).y - place.y).toBeGreaterThan(40)
  await expect(ahead).toHaveValue('12.0')
  // the body itself stays bound where it was: its joints are edited there
  await stop(page, 'skeleton').click()
  expect(Math.abs((await centreOf(mark(page, hand))).y - place.y)).toBeLessThan(8)
  await stop(page, 'skin').click()
  await page.getByRole('radio', { name: 'Check', exact: true }).click()
  await settled(page)
  await expect(page.locator('[data-pose^="own-"]')).toHaveAttribute('aria-label', 'at the rail')
  expect(errors).toEqual([])
})

test('a body of no plan is rigged by chains drawn on the plate, and the drawing is kept as a plan', async ({
  page,
}) => {
  const errors = await open(page, 'reed')
  await stop(page, 'Bones').click()
  await stop(page, 'skeleton').click()
  const joints = page.locator('[data-ledger]')
  const drawn = await joints.count()
  expect(drawn).toBe(31)
  // a strap on its back, drawn with three clicks
  await row(page, 'back 2').click()
  await page.getByLabel('Name of the chain').fill('strap')
  await page.getByTestId('draw-chain').click()
  const from = await centreOf(mark(page, await numberOf(page, 'back 2')))
  for (const [dx, dy] of [
    [14, -12],
    [20, 8],
    [24, 30],
  ])
    await page.mouse.click(from.x + dx!, from.y + dy!)
  await expect(page.getByTestId('draw-bar')).toContainText('3 points, 4 joints')
  await page.keyboard.press('Backspace')
  await expect(page.getByTestId('draw-bar')).toContainText('2 points')
  await page.keyboard.press('Control+z')
  await expect(page.getByTestId('draw-bar')).toContainText('Click where it goes on.')
  await page.mouse.click(from.x + 24, from.y + 30)
  await page.keyboard.press('Enter')
  await settled(page)
  // on both sides, since it was drawn beside the middle
  await expect(joints).toHaveCount(drawn + 8)
  await expect(row(page, 'strap left 1')).toBeVisible()
  await expect(row(page, 'strap right 4')).toBeVisible()
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Save as a plan' }).click(),
  ])
  const plan = JSON.parse(Buffer.from(await bytesOf(file)).toString()) as { plan: { kind: string }; edits: object[] }
  expect(plan.plan.kind).toBe('drawn')
  expect(plan.edits).toHaveLength(7)
  // brought back after everything was given up
  await page.getByRole('button', { name: 'Edits by hand' }).click()
  for (let i = 0; i < 7; i++) {
    await page
      .getByRole('button', { name: /^Take back:/ })
      .last()
      .click()
    await settled(page)
  }
  await expect(joints).toHaveCount(1)
  await drop(page, 'heron.plan.json', await bytesOf(file))
  await settled(page)
  await expect(joints).toHaveCount(drawn + 8)
  expect(errors).toEqual([])
})

test('a part is added where it usually is, and moves with a piece of its own', async ({ page }) => {
  const errors = await open(page, 'oda-marl')
  await stop(page, 'Bones').click()
  await stop(page, 'skeleton').click()
  const joints = page.locator('[data-ledger]')
  const count = await joints.count()
  await page.getByTestId('part').selectOption('skirt')
  await page.getByTestId('part-piece').selectOption('coat')
  await page.getByTestId('add-part').click()
  await settled(page)
  await expect(joints).toHaveCount(count + 24)
  await page.getByTestId('part').selectOption('jaw')
  await page.getByTestId('add-part').click()
  await settled(page)
  await expect(joints).toHaveCount(count + 25)
  await expect(page.getByText('It is there already.')).toBeVisible()
  await stop(page, 'Shape').click()
  await stop(page, 'pieces').click()
  await page.locator('[data-piece="coat"] button').first().click()
  await expect(page.getByRole('radio', { name: /As an appendage/ })).toBeChecked()
  await expect(page.getByTestId('piece-joint').locator('option:checked')).toHaveText('Hips')
  expect(errors).toEqual([])
})

test('an appendage with joints of its own is attached, put elsewhere, delivered and taken off', async ({ page }) => {
  const errors = await open(page, 'pim')
  const line = [0, 1, 2, 3].map((i): Vec3 => [0, 0.45 - 0.02 * i, -0.12 - 0.07 * i])
  const mesh = join(...line.slice(1).map((b, i) => limb(line[i]!, b, 0.025)))
  const skeleton = skeletonFromWorld(
    ['hips', 'spine', 'tip'].map((name, j) => ({
      name,
      parent: j - 1,
      position: line[j]!,
      rotation: fromAxisAngle([1, 0, 0], 0.2 * j),
      tip: line[j + 1],
    })),
  )
  const skin = await bind(mesh, skeleton, { cells: 50 })
  // a project that somebody works in is asked about, a sample is not
  await page.getByTestId('up-axis').selectOption('+y')
  await settled(page)
  await drop(page, 'tassel.glb', await writeGlb({ name: 'tassel', mesh, skeleton, skin }))
  await page.getByTestId('arrival').waitFor()
  await page.locator('[data-arrival="appendage"]').click()
  await page.getByTestId('attach-joint').selectOption('hips')
  await page.getByTestId('attach-prefix').fill('t_')
  await page.getByTestId('arrival-take').click()
  await settled(page)
  const card = page.getByTestId('appendage')
  await expect(card).toContainText('3 joints of its own')
  await stop(page, 'Bones').click()
  await stop(page, 'skeleton').click()
  for (const name of ['t_hips', 't_spine', 't_tip']) await expect(row(page, name)).toBeVisible()
  await row(page, 't_hips').click()
  await expect(page.getByTestId('parent').locator('option:checked')).toHaveText('Hips')
  await stop(page, 'Shape').click()
  await stop(page, 'pieces').click()
  await card.getByTestId('attached-to').selectOption('spine')
  await settled(page)
  await card.getByLabel('Scale').fill('1.5')
  await card.getByLabel('Scale').press('Enter')
  await settled(page)
  await expect(card.getByLabel('Scale')).toHaveValue('1.500')
  await stop(page, 'Delivery').click()
  await settled(page)
  const [file] = await Promise.all([
    page.waitForEvent('download', { timeout: 90_000 }),
    page.getByTestId('deliver').click(),
  ])
  const glb = Buffer.from(await bytesOf(file))
  const json = JSON.parse(glb.subarray(20, 20 + glb.readUInt32LE(12)).toString()) as {
    nodes: { name?: string; children?: number[] }[]
  }
  const at = (name: string): number => json.nodes.findIndex(n => n.name === name)
  expect(json.nodes[at('spine')]!.children).toContain(at('t_hips'))
  await stop(page, 'Shape').click()
  await stop(page, 'pieces').click()
  await card.getByTestId('take-off').click()
  await settled(page)
  await expect(card).toHaveCount(0)
  expect(errors).toEqual([])
})
