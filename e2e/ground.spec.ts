import { expect, type Page } from '@playwright/test'
import { readGltf } from '@chiraxis/core/formats'
import { vec3At } from '@chiraxis/core/math'
import { test } from './browser'
import { bytesOf, centreOf, drop, open, picture, settled, stop } from './helpers'

async function grounded(page: Page, take: string): Promise<{ errors: string[] }> {
  const errors = await open(page)
  await stop(page, 'Motion').click()
  await page.locator(`[data-take="${take}"]`).click()
  await stop(page, 'ground').click()
  await settled(page)
  return { errors }
}

test('travel goes on a root joint channel by channel, the way is bent, and the file says so', async ({ page }) => {
  const { errors } = await grounded(page, 'walk South')
  await expect(page.getByTestId('pace')).toContainText('1.29 m/s')
  await expect(page.getByTestId('ground-path')).toBeVisible()

  // asked for on a root that is not there: told, and added by one press
  const channel = (name: string) => page.getByTestId('travel').getByLabel(name)
  await channel('Ahead').selectOption('root')
  await settled(page)
  await expect(page.getByTestId('no-root')).toBeVisible()
  await expect(page.getByTestId('findings')).toContainText('1')
  await page.getByTestId('add-root').click()
  await settled(page)
  await expect(page.getByTestId('root-joint')).toHaveText('root')
  await expect(page.getByTestId('no-root')).toBeHidden()
  await channel('Height').selectOption('hips')
  await channel('Turn').selectOption('root')
  await settled(page)

  // as far on another way
  await page.getByTestId('way').getByRole('radio', { name: 'Bent' }).click()
  await settled(page)
  await expect(page.getByTestId('way')).toContainText(/turned 4[3-7]° to its left/)
  await page.getByTestId('way').getByRole('radio', { name: 'Straight' }).click()
  await settled(page)
  await expect(page.getByTestId('way')).toContainText(/turned \d° to its (left|right)|facing as it began/)
  await page.getByTestId('way').getByRole('radio', { name: 'Points' }).click()
  await settled(page)
  // the whole way is seen at once
  await page.getByTestId('way').getByRole('switch', { name: 'See all of it' }).click()
  await page.waitForTimeout(300)
  const before = await page.getByTestId('way').innerText()
  const point = await centreOf(page.locator('[data-way-point="0"]'))
  await page.mouse.move(point.x, point.y)
  await page.mouse.down()
  await page.mouse.move(point.x + 60, point.y + 4)
  await page.mouse.move(point.x + 90, point.y + 6)
  await page.mouse.up()
  await settled(page)
  expect(await page.getByTestId('way').innerText()).not.toBe(before)
  await page.getByTestId('undo').click()
  await settled(page)
  await page.getByTestId('way').getByRole('radio', { name: 'Recorded' }).click()
  await settled(page)

  // a floor that rises: the figure climbs
  const higher = await picture(page)
  await page.getByTestId('floor').getByLabel('Rises ahead by').fill('12')
  await page.getByTestId('floor').getByLabel('Rises ahead by').press('Enter')
  await settled(page)
  await page.waitForTimeout(400)
  expect(await picture(page)).not.toBe(higher)
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /The floor/)
  await page.getByTestId('undo').click()
  await settled(page)

  // a take of one's own way, and the others as they were
  await page.getByTestId('travel').getByRole('switch').last().click()
  await page.getByTestId('on-spot').click()
  await settled(page)
  await page.locator('[data-take="brisk walk South"]').click()
  await settled(page)
  await expect(channel('Ahead')).toHaveValue('root')
  await expect(page.getByTestId('pace')).toContainText('1.7')

  // the file: travel on the root, moments in its extras
  await stop(page, 'Delivery').click()
  await page.locator('[data-group="North"]').getByRole('button', { name: 'None' }).click()
  const south = page.locator('[data-group="South"]')
  await south.getByRole('button', { name: /South/ }).click()
  await south.locator('[data-deliver="brisk walk"]').check()
  await south.locator('[data-deliver="walk"]').check()
  const [file] = await Promise.all([page.waitForEvent('download'), page.getByTestId('deliver').click()])
  const read = await readGltf(await bytesOf(file))
  const root = read.skeleton!.names.indexOf('root')
  const n = read.skeleton!.names.length
  const end = (name: string) => {
    const take = read.takes.find(t => t.name.startsWith(name))!
    return vec3At(take.translations, (take.frames - 1) * n + root)
  }
  expect(end('brisk walk')[2]).toBeGreaterThan(5)
  expect(Math.abs(end('walk')[2])).toBeLessThan(0.01)
  const moments = read.takes.find(t => t.name.startsWith('brisk'))!.events!
  expect(moments.filter(e => e.name === 'footstep').length).toBeGreaterThan(5)
  expect(errors).toEqual([])
})

test('a contact is dragged, split and joined, and a moment moved, named and taken out', async ({ page }) => {
  const { errors } = await grounded(page, 'walk South')
  const lane = (await page.getByTestId('lane').boundingBox())!
  const runs = page.getByTestId('run-left')
  const count = await runs.count()
  const wide = async (i: number): Promise<number> => (await runs.nth(i).boundingBox())!.width
  const was = await wide(1)
  const middle = await centreOf(runs.nth(1))
  await page.mouse.click(middle.x, middle.y)
  await expect(page.getByTestId('chosen-contact')).toBeVisible()
  const edge = await centreOf(page.getByTestId('contact-end'))
  await page.keyboard.down('Alt')
  await page.mouse.move(edge.x, edge.y)
  await page.mouse.down()
  await page.mouse.move(edge.x + 10, edge.y)
  await page.mouse.move(edge.x + 18, edge.y)
  await page.mouse.up()
  await page.keyboard.up('Alt')
  await settled(page)
  expect(await wide(1)).toBeGreaterThan(was + 10)
  await expect(page.getByTestId('told-contact')).toHaveCount(1)
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /Change contact/)

  // split where the playhead stands, then joined again
  const again = await centreOf(runs.nth(1))
  await page.mouse.click(again.x, again.y)
  await page.getByTestId('split-contact').click()
  await settled(page)
  await expect(runs).toHaveCount(count + 1)
  const first = await centreOf(runs.nth(1))
  await page.mouse.click(first.x, first.y)
  await page.getByTestId('join-contact').click()
  await settled(page)
  await expect(runs).toHaveCount(count)

  // a found moment is dragged: it is told by hand from then on
  const steps = page.locator('[data-cue="footstep"]')
  const all = await steps.count()
  const flag = await centreOf(steps.nth(2))
  await page.mouse.move(flag.x, flag.y)
  await page.mouse.down()
  await page.mouse.move(flag.x + 12, flag.y)
  await page.mouse.move(flag.x + 25, flag.y)
  await page.mouse.up()
  await settled(page)
  await expect(steps).toHaveCount(all)
  await expect(page.locator('[data-cue="footstep"][data-told]')).toHaveCount(1)
  await page.getByLabel('Name of the moment').fill('splash')
  await page.getByLabel('Name of the moment').press('Enter')
  await settled(page)
  await expect(page.locator('[data-cue="splash"]')).toHaveCount(1)
  await expect(steps).toHaveCount(all - 1)
  // one of one's own at the playhead
  await page.mouse.click(lane.x + lane.width * 0.5, lane.y + 30)
  await page.getByTestId('add-cue').click()
  await settled(page)
  await expect(page.locator('[data-cue="cue"]')).toHaveCount(1)
  await page.getByTestId('remove-cue').click()
  await settled(page)
  await expect(page.locator('[data-cue="cue"]')).toHaveCount(0)

  // a curve of one's own, keyed at two moments
  await page.getByTestId('add-curve').click()
  await settled(page)
  await page.getByLabel('Name of the curve').fill('fear')
  await page.getByLabel('Name of the curve').press('Enter')
  await settled(page)
  await page.mouse.click(lane.x + lane.width * 0.8, lane.y + 30)
  await page.getByTestId('curves').getByLabel('Here').fill('2.5')
  await page.getByTestId('curves').getByLabel('Here').press('Enter')
  await settled(page)
  await expect(page.getByTestId('curves')).toContainText('2 keys')
  await expect(page.getByTestId('own-curve')).toBeVisible()

  // what is found is chosen by kind
  await page.getByTestId('cues').getByRole('switch', { name: 'Feet passing' }).click()
  await settled(page)
  await expect(page.locator('[data-cue="crossing"]')).toHaveCount(0)
  expect(errors).toEqual([])
})

test('a take recorded in place gets its travel from its feet', async ({ page }) => {
  const { errors } = await grounded(page, 'treadmill walk South')
  await expect(page.getByTestId('in-place')).toBeVisible()
  await expect(page.getByTestId('pace')).toContainText(/1\.[34]\d m\/s/)
  await page.getByTestId('travel').getByRole('switch', { name: 'Travel told from the feet' }).click()
  await settled(page)
  await expect(page.getByTestId('in-place')).toBeHidden()
  await expect(page.getByTestId('way')).toContainText(/Ends [56]\.\d+ m from/)
  expect(errors).toEqual([])
})

test('stairs are climbed, heels are told apart from balls, and a take that came with the body takes contacts too', async ({
  page,
}) => {
  const { errors } = await grounded(page, 'walk South')
  const before = await picture(page)
  await page.getByRole('switch', { name: 'Stairs' }).click()
  await settled(page)
  await expect(page.getByTestId('stairs')).toBeVisible()
  const rise = page.getByTestId('floor').getByLabel('Each rises by')
  await rise.fill('12')
  await rise.press('Enter')
  await settled(page)
  await page.waitForTimeout(300)
  expect(await picture(page)).not.toBe(before)
  await page.getByRole('switch', { name: 'Every part apart' }).click()
  for (const lane of ['Left heel', 'Left ball', 'Right heel', 'Right ball'])
    await expect(page.getByTestId('score').getByText(lane)).toBeVisible()
  const heel = await centreOf(page.getByTestId('run-leftHeel').nth(1))
  await page.mouse.click(heel.x, heel.y)
  await page.getByTestId('remove-contact').click()
  await settled(page)
  await expect(page.getByTestId('told-contact')).toContainText('Left heel rests')

  // the file climbs, and the same file comes back as a body with a take of its own
  await stop(page, 'Delivery').click()
  await page.locator('[data-group="North"]').getByRole('button', { name: 'None' }).click()
  const south = page.locator('[data-group="South"]')
  await south.getByRole('button', { name: /South/ }).click()
  await south.locator('[data-deliver="walk"]').check()
  const [file] = await Promise.all([page.waitForEvent('download'), page.getByTestId('deliver').click()])
  const bytes = await bytesOf(file)
  const read = await readGltf(bytes)
  const J = read.skeleton!.names.length
  const hips = read.skeleton!.names.indexOf('hips')
  const up = (f: number): number => read.takes[0]!.translations[3 * (f * J + hips) + 1]!
  expect(up(read.takes[0]!.frames - 1) - up(0)).toBeGreaterThan(0.3)

  await drop(page, 'climber.glb', bytes)
  await page.locator('[data-arrival="figure"]').click()
  await page.getByTestId('arrival-take').click()
  await settled(page)
  await stop(page, 'Motion').click()
  await page.locator('[data-take^="walk"]').first().click()
  await stop(page, 'ground').click()
  await settled(page)
  const run = await centreOf(page.getByTestId('run-leftBall').nth(1))
  await page.mouse.click(run.x, run.y)
  await page.getByTestId('remove-contact').click()
  await settled(page)
  await expect(page.getByTestId('told-contact')).toHaveCount(1)
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /walk.*Remove contact/)
  expect(errors).toEqual([])
})
