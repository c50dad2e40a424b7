import { expect } from '@playwright/test'
import { test } from './browser'
import { centreOf, drag, drop, mark, open, picture, settled, stop } from './helpers'

const heightField = (page: import('@playwright/test').Page) => page.getByLabel('Height')
const clock = async (page: import('@playwright/test').Page): Promise<number> =>
  parseFloat((await page.getByTestId('clock').textContent())!)

test('a newcomer sees the figure move in one press', async ({ page }) => {
  const errors = await open(page)
  await expect(page.getByText('Oda Marl').first()).toBeVisible()
  await page.getByTestId('see-it-move').click()
  await expect.poll(() => clock(page), { timeout: 20_000 }).toBeGreaterThan(0.3)
  const before = await picture(page, 'moving')
  await expect.poll(async () => (await picture(page, 'moving')) !== before).toBe(true)
  expect(errors).toEqual([])
})

test('landmarks are dragged in any view, mirrored or alone, and taken back by name', async ({ page }) => {
  const errors = await open(page)
  await stop(page, 'Bones').click()
  await expect(page.locator('[data-callout]')).toHaveCount(24)
  const rightBefore = await centreOf(mark(page, 'rightElbow'))
  const leftBefore = await centreOf(mark(page, 'leftElbow'))

  await drag(page, 'leftElbow', 10, -30)
  await settled(page)
  const left = await centreOf(mark(page, 'leftElbow'))
  expect(left.y).toBeCloseTo(leftBefore.y - 30, 0)
  expect((await centreOf(mark(page, 'rightElbow'))).y).toBeCloseTo(rightBefore.y - 30, 0)
  await expect(page.locator('[data-callout="leftElbow"]')).toContainText('by hand')
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /Undo: Place left elbow/)

  await page.getByTestId('undo').click()
  await settled(page)
  expect((await centreOf(mark(page, 'leftElbow'))).y).toBeCloseTo(leftBefore.y, 0)
  await page.keyboard.press('Control+Shift+z')
  await settled(page)
  expect((await centreOf(mark(page, 'leftElbow'))).y).toBeCloseTo(leftBefore.y - 30, 0)

  // alone, in a sheet
  await page.getByRole('switch', { name: 'Mirror to the other side' }).click()
  const other = await centreOf(mark(page, 'rightKnee'))
  const knee = await centreOf(mark(page, 'leftKnee'))
  await drag(page, 'side:leftKnee', 0, 6)
  await settled(page)
  expect((await centreOf(mark(page, 'leftKnee'))).y).toBeGreaterThan(knee.y + 8)
  expect((await centreOf(mark(page, 'rightKnee'))).y).toBeCloseTo(other.y, 0)

  // the skeleton followed: the joint stands where the landmark does
  const placed = await centreOf(mark(page, 'leftElbow'))
  await stop(page, 'skeleton').click()
  const joint = await centreOf(mark(page, '8'))
  expect(Math.hypot(joint.x - placed.x, joint.y - placed.y)).toBeLessThan(8)
  expect(errors).toEqual([])
})

test('numbers, the section lens and its centring place a landmark', async ({ page }) => {
  await open(page)
  await stop(page, 'Bones').click()
  await page.locator('[data-ledger="leftWrist"]').click()
  await expect(page.getByRole('img', { name: 'Cut across the limb' })).toBeVisible()
  const before = Number(await heightField(page).inputValue())
  await heightField(page).fill(String(before + 2))
  await heightField(page).press('Enter')
  await settled(page)
  expect(Number(await heightField(page).inputValue())).toBeCloseTo(before + 2, 1)
  await expect(page.getByText(/[1-9]\.\d cm off centre/)).toBeVisible()
  await page.getByTestId('centre').click()
  await settled(page)
  await expect(page.getByText(/0\.[0-4] cm off centre/)).toBeVisible()
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /Undo: Centre left wrist/)
  await page.getByRole('button', { name: 'Find it again' }).click()
  await settled(page)
  expect(Number(await heightField(page).inputValue())).toBeCloseTo(before, 1)
})

test("one joint's weights are shown as a heat map", async ({ page }) => {
  await open(page)
  await stop(page, 'Bones').click()
  await stop(page, 'skin').click()
  await settled(page)
  await page.locator('[data-ledger="7"]').click()
  await expect(page.getByText('Vertices it moves')).toBeVisible()
  await page.waitForTimeout(400)
  const arm = await picture(page)
  await page.locator('[data-ledger="14"]').click()
  await expect.poll(async () => (await picture(page)) !== arm).toBe(true)
  await page.getByRole('radio', { name: '8' }).click()
  await settled(page)
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /Limit influences to 8/)
})

test('a take is chosen, played, scrubbed and looped', async ({ page }) => {
  await open(page)
  await stop(page, 'Motion').click()
  await page.locator('[data-take="run South"]').click()
  await expect(page.getByTestId('score').getByText('run')).toBeVisible()
  await settled(page)
  const lane = (await page.getByTestId('lane').boundingBox())!
  await page.mouse.click(lane.x + lane.width / 2, lane.y + 30)
  const half = await clock(page)
  expect(half).toBeCloseTo(1.8, 1)
  await page.getByTestId('plate').click({ position: { x: 30, y: 300 } })
  await page.keyboard.press('ArrowRight')
  await expect(page.getByTestId('frame')).toHaveText('55')
  await page.getByTestId('rate').selectOption('2')
  await page.keyboard.press('Space')
  // past the end and round again
  await expect.poll(() => clock(page), { timeout: 15_000 }).toBeLessThan(half)
  await page.keyboard.press('Space')
  const still = await clock(page)
  await page.waitForTimeout(300)
  expect(await clock(page)).toBe(still)

  const beside = await picture(page)
  await page.getByRole('radio', { name: 'Over' }).click()
  await expect.poll(async () => (await picture(page)) !== beside).toBe(true)
})

test('a refused file says why in one sentence and changes nothing', async ({ page }) => {
  await open(page)
  const name = await page.locator('header input, header button').first().textContent()
  const text = (s: string): Uint8Array => new TextEncoder().encode(s)
  const cases: [string, Uint8Array, RegExp][] = [
    ['empty.glb', new Uint8Array(0), /empty\.glb is empty/],
    ['wrong.glb', text('hello'), /named a GLB but is none/],
    ['cut.bvh', text('HIERARCHY\nROOT a\n{\nOFFSET 0 0 0\n'), /cut short/],
    ['nan.obj', text('v 0 0 0\nv nan 1 1\nv 1 0 0\nf 1 2 3\n'), /not a number/],
    ['range.obj', text('v 0 0 0\nv 0 1 1\nv 1 0 0\nf 1 2 9\n'), /does not exist/],
    ['none.obj', text('v 0 0 0\n'), /no triangles/],
    ['ring.gltf', text('{"asset":{"version":"2.0"},"nodes":[{"children":[1]},{"children":[0]}]}'), /tree/],
    ['odd.xyz', text('what'), /cannot be read/],
  ]
  for (const [file, bytes, message] of cases) {
    await drop(page, file, bytes)
    await expect(page.getByTestId('refusal'), file).toContainText(message)
    await expect(page.getByTestId('refusal')).toContainText('Your project is unchanged')
    await page.getByRole('button', { name: 'Dismiss' }).click()
  }
  expect(await page.locator('header input, header button').first().textContent()).toBe(name)
  await expect(page.getByTestId('undo')).toBeDisabled()
})

test('a body that is no biped is told so where the landmarks would be', async ({ page }) => {
  await open(page, 'pim')
  const cube =
    'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 0 0 1\nv 1 0 1\nv 1 1 1\nv 0 1 1\nf 4 3 2 1\nf 5 6 7 8\nf 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n'
  await drop(page, 'cube.obj', new TextEncoder().encode(cube))
  await expect(page.locator('header').getByText('cube', { exact: true })).toBeVisible()
  await settled(page)
  await stop(page, 'Bones').click()
  await expect(page.getByRole('alert')).toContainText('does not look like a standing figure')
  await stop(page, 'Shape').click()
  await page.getByTestId('sample-pim').click()
  await settled(page)
  await stop(page, 'Bones').click()
  await expect(page.locator('[data-callout]')).toHaveCount(24)
})

test('the sample Pim can be opened, both themes stand, findings and palette open', async ({ page }) => {
  const errors = await open(page)
  await page.getByTestId('sample-pim').click()
  await expect(page.getByText('pim.glb')).toBeVisible({ timeout: 20_000 })
  await settled(page)
  await page.getByTestId('theme').click()
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'night')
  await page.getByTestId('findings').click()
  await expect(page.getByTestId('findings-drawer')).toBeVisible()
  await page.keyboard.press('Escape')
  await page.keyboard.press('Control+k')
  await expect(page.getByPlaceholder(/^Find an action/)).toBeFocused()
  await page.keyboard.type('landmark left knee')
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-ledger="leftKnee"]')).toHaveClass(/border-madder/)
  expect(errors).toEqual([])
})
