import { expect } from '@playwright/test'
import { unzipSync } from 'fflate'
import { readGltf } from '@chiraxis/core/formats'
import { writeBvh } from '@chiraxis/core/formats'
import { MOVES, NORTH, record } from '@chiraxis/demo/takes'
import { test } from './browser'
import { bytesOf, open, settled, stop } from './helpers'

test('the pole is taken in both hands, moved, keyed from hand to ground in a take, and delivered as a node of its own', async ({
  page,
}) => {
  const errors = await open(page)
  await stop(page, 'Handles').click()
  await settled(page)
  await stop(page, 'props').click()
  await expect(page.getByTestId('props')).toContainText('None yet', { timeout: 120_000 })
  await page.locator('[data-offered="Ferry pole"]').click()
  await settled(page)
  await expect(page.locator('[data-prop="Ferry pole"]')).toContainText('Left hand')
  await expect(page.locator('[data-prop-handle="Ferry pole"]')).toHaveCount(1)
  await expect(page.locator('[data-prop-place="lower"]')).toHaveCount(1)

  // the other hand takes hold as well; arms that are held out do not reach, and that is told
  await page.getByLabel('Second hand').selectOption({ label: 'Right hand' })
  await expect(page.locator('[data-prop="Ferry pole"]')).toContainText('Left hand and right hand')
  await page.getByTestId('undo').click()
  await expect(page.locator('[data-prop="Ferry pole"]')).not.toContainText('right hand')
  await settled(page)

  // pulled by its outline it lies otherwise in the hand; one step takes that back
  const outline = page.locator('[data-prop-handle="Ferry pole"] path')
  const where = async (): Promise<string> => (await outline.getAttribute('d'))!
  const before = await where()
  const at = await outline.evaluate((path: SVGPathElement) => {
    const p = path.getPointAtLength(0.1 * path.getTotalLength())
    const q = new DOMPoint(p.x, p.y).matrixTransform(path.getScreenCTM()!)
    return { x: q.x, y: q.y }
  })
  await page.mouse.move(at.x, at.y)
  await page.mouse.down()
  for (let i = 1; i <= 5; i++) await page.mouse.move(at.x, at.y + 12 * i)
  await page.mouse.up()
  await expect.poll(where).not.toBe(before)
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /Move Ferry pole/)
  await page.getByTestId('undo').click()
  await expect.poll(where).toBe(before)

  // what it weighs counts with the figure
  await page.getByTestId('prop-mass').getByLabel('Mass').fill('4')
  await page.keyboard.press('Enter')
  await stop(page, 'mass').click()
  await expect(page.getByTestId('carried-mass')).toContainText('4.00 kg')

  // its take asks for both hands; from a moment on it lies on the ground
  await stop(page, 'Motion').click()
  await settled(page)
  await page.getByText('pole push', { exact: true }).first().click()
  await settled(page)
  await stop(page, 'layer').click()
  await settled(page)
  await expect(page.getByTestId('prop-lane')).toContainText('Right hand and left hand')
  await page.getByTestId('lane').click({ position: { x: 300, y: 10 } })
  await page.getByTestId('put-down').click()
  await settled(page)
  await expect(page.getByTestId('prop-lane')).toContainText('Ground')
  await expect(page.getByTestId('prop-key')).toHaveCount(2)
  await page.getByTestId('undo').click()
  await settled(page)
  await expect(page.getByTestId('prop-key')).toHaveCount(1)
  await page.getByTestId('redo').click()
  await settled(page)
  await expect(page.getByTestId('prop-key')).toHaveCount(2)

  await stop(page, 'Delivery').click()
  const [file] = await Promise.all([page.waitForEvent('download'), page.getByTestId('deliver').click()])
  const { document } = await readGltf(await bytesOf(file))
  const { json } = document!
  const mount = json.nodes!.findIndex(n => (n.extras as { prop?: string } | undefined)?.prop)
  expect(json.nodes![mount]!.name).toBe('Ferry pole')
  // it moves by itself in every take, because in one it is laid down
  const moved = json.animations!.filter(a => a.channels.filter(c => c.target.node === mount).length === 2)
  expect(moved).toHaveLength(json.animations!.length)
  expect(moved.map(a => a.name)).toContain('pole push')
  expect(errors).toEqual([])
})

test('a file that holds nothing to carry is refused in words, and nothing is changed', async ({ page }) => {
  const errors = await open(page, 'brindle')
  await stop(page, 'Handles').click()
  await settled(page)
  await stop(page, 'props').click()
  const { skeleton, take } = record(MOVES[0]!, NORTH)
  const [chooser] = await Promise.all([page.waitForEvent('filechooser'), page.getByTestId('bring-prop').click()])
  await chooser.setFiles({ name: 'idle.bvh', mimeType: 'text/plain', buffer: Buffer.from(writeBvh(skeleton, take)) })
  await expect(page.getByText('idle.bvh holds nothing that could be carried.')).toBeVisible()
  await expect(page.getByTestId('props')).toContainText('None yet')
  // a hound has no hands: what it is given hangs on its hips
  await page.locator('[data-offered="Signal lantern"]').click()
  await settled(page)
  await expect(page.locator('[data-prop="Signal lantern"]')).toContainText('Hips')
  expect(errors).toEqual([])
})

test('a batch on the server and here carries the pole along, in the same bytes', async ({ page }) => {
  const errors = await open(page)
  await stop(page, 'Handles').click()
  await settled(page)
  await stop(page, 'props').click()
  await page.locator('[data-offered="Ferry pole"]').click({ timeout: 120_000 })
  await settled(page)
  await stop(page, 'Motion').click()
  await settled(page)
  await stop(page, 'batch').click()
  await page.getByText('pole push', { exact: true }).first().click()
  await page.getByTestId('batch-profile').selectOption('GLB: Y up, metres, +Z ahead')
  const made: Uint8Array[] = []
  for (const where of ['In this window', 'On the server']) {
    await page.getByRole('radio', { name: where }).click()
    await page.getByTestId('batch-start').click()
    await expect(page.getByTestId('batch-state')).toHaveText('1 of 1 done', { timeout: 120_000 })
    const [archive] = await Promise.all([page.waitForEvent('download'), page.getByTestId('batch-save').click()])
    const entries = unzipSync(await bytesOf(archive))
    made.push(Object.entries(entries).find(([name]) => name.endsWith('.glb'))![1])
    await page.getByTestId('batch-anew').click()
  }
  const { document } = await readGltf(made[0]!)
  const told = (n: { extras?: unknown }): boolean => (n.extras as { prop?: string } | undefined)?.prop !== undefined
  expect(document!.json.nodes!.filter(told)).toHaveLength(1)
  expect(Buffer.compare(Buffer.from(made[0]!), Buffer.from(made[1]!))).toBe(0)
  expect(errors).toEqual([])
})
