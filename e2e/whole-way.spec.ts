import { expect, type Locator, type Page } from '@playwright/test'
import { readGltf } from '@chiraxis/core/formats'
import { angleOf, conjugate, multiply, quatAt } from '@chiraxis/core/math'
import { test } from './browser'
import { bytesOf, centreOf, drag as dragMark, open, settled, stop } from './helpers'

/** The whole way by hand, on different figures: posed, carrying something, corrected in a take, changed below, taken back, baked. */
interface Way {
  readonly sample: string
  readonly take: string
  /** The end that is pulled, and those that stay. */
  readonly end: string
  readonly feet: readonly [string, string]
  readonly prop: string
  readonly second?: string
  /** What is changed below the layer. */
  below(page: Page): Promise<void>
}
async function otherPlan(page: Page): Promise<void> {
  await stop(page, 'Bones').click()
  await stop(page, 'skeleton').click()
  await page.getByLabel(/^Legs/).first().fill('1')
  await page.keyboard.press('Enter')
  await settled(page)
}
const WAYS: readonly Way[] = [
  {
    sample: 'oda-marl',
    take: 'haul rope North',
    end: 'rightHand',
    feet: ['leftFoot', 'rightFoot'],
    prop: 'Ferry pole',
    second: 'Right hand',
    async below(page) {
      await stop(page, 'Bones').click()
      await stop(page, 'landmarks').click()
      await dragMark(page, 'leftKnee', 4, 6)
      await settled(page)
      await otherPlan(page)
    },
  },
  {
    sample: 'pim',
    take: 'haul rope North',
    end: 'leftHand',
    feet: ['leftFoot', 'rightFoot'],
    prop: 'Signal lantern',
    async below(page) {
      await otherPlan(page)
    },
  },
  {
    sample: 'brindle',
    take: 'hound walk North',
    end: 'leftFrontFoot',
    feet: ['leftHindFoot', 'rightHindFoot'],
    prop: 'Signal lantern',
    async below(page) {
      await stop(page, 'Bones').click()
      await stop(page, 'landmarks').click()
      await dragMark(page, 'leftHindHock', 3, 3)
      await settled(page)
    },
  },
  {
    sample: 'pim-received',
    take: 'haul rope North',
    end: 'rightHand',
    feet: ['leftFoot', 'rightFoot'],
    prop: 'Ferry pole',
    second: 'Right hand',
    async below(page) {
      await page.getByTestId('findings').click()
      await page.getByTestId('mend-all').click()
      await settled(page)
      await page.getByTestId('findings').click()
    },
  },
]
const handle = (page: Page, id: string): Locator => page.locator(`[data-handle="${id}"]`)
const apart = (a: { x: number; y: number }, b: { x: number; y: number }): number => Math.hypot(a.x - b.x, a.y - b.y)
async function pull(page: Page, from: Locator, dx: number, dy: number): Promise<void> {
  const path = from.locator('path').first()
  const { x, y } = (await path.count())
    ? await path.evaluate((p: SVGPathElement) => {
        const at = p.getPointAtLength(0.3 * p.getTotalLength())
        const on = new DOMPoint(at.x, at.y).matrixTransform(p.getScreenCTM()!)
        return { x: on.x, y: on.y }
      })
    : await centreOf(from)
  await page.mouse.move(x, y)
  await page.mouse.down()
  for (let i = 1; i <= 6; i++) await page.mouse.move(x + (dx * i) / 6, y + (dy * i) / 6)
  await page.waitForTimeout(150)
  await page.mouse.up()
  await settled(page)
}

for (const way of WAYS)
  test(`${way.sample}: pulled with feet held, a prop taken, a take corrected, changed below, taken back, baked and read back`, async ({
    page,
  }) => {
    const errors = await open(page, way.sample)
    await stop(page, 'Handles').click()
    await expect(page.getByTestId('chart')).toBeVisible({ timeout: 120_000 })
    await settled(page)
    await stop(page, 'pose').click()
    const undo = page.getByTestId('undo')

    // an end is pulled with the whole figure, feet stay where they are
    const drives = page.locator(`[data-drive="${way.end} end"]`)
    const turned = await centreOf(handle(page, 'turn head'))
    if (await drives.count()) await drives.click()
    await settled(page)
    expect(apart(await centreOf(handle(page, 'turn head')), turned)).toBeLessThan(0.7)
    const feet = await Promise.all(way.feet.map(f => centreOf(handle(page, `end ${f}`))))
    const before = await centreOf(handle(page, `end ${way.end}`))
    await pull(page, handle(page, `end ${way.end}`), 24, -18)
    expect(apart(await centreOf(handle(page, `end ${way.end}`)), before)).toBeGreaterThan(12)
    for (const [i, f] of way.feet.entries())
      expect(apart(await centreOf(handle(page, `end ${f}`)), feet[i]!)).toBeLessThan(2)

    await stop(page, 'props').click()
    await page.locator(`[data-offered="${way.prop}"]`).click()
    await settled(page)
    if (way.second) await page.getByLabel('Second hand').selectOption({ label: way.second })
    await settled(page)
    await expect(page.locator(`[data-prop="${way.prop}"]`)).toHaveCount(1)

    // the take is corrected on a layer
    await stop(page, 'Motion').click()
    await page.locator(`[data-take="${way.take}"]`).click()
    await settled(page)
    await stop(page, 'layer').click()
    await settled(page)
    await page.getByTestId('channel').selectOption(`reach ${way.end}`)
    await page.getByTestId('part-in-play').getByLabel(/^Up/).fill('5')
    await page.keyboard.press('Enter')
    await settled(page)
    await expect(page.getByTestId('key')).toHaveCount(1)

    // something changes below: the layer still says the same
    await way.below(page)
    await stop(page, 'Motion').click()
    await stop(page, 'layer').click()
    await settled(page)
    await expect(page.getByTestId('key')).toHaveCount(1)
    await page.getByTestId('channel').selectOption(`reach ${way.end}`)
    const told = Number(await page.getByTestId('part-in-play').getByLabel(/^Up/).inputValue())
    expect(Math.abs(told - 5)).toBeLessThan(1.5)

    // everything is taken back, and made again
    let count = 0
    while (await undo.isEnabled()) {
      await undo.click()
      await settled(page)
      expect(++count).toBeLessThan(20)
    }
    await expect(page.getByTestId('key')).toHaveCount(0)
    for (let i = 0; i < count; i++) {
      await page.getByTestId('redo').click()
      await settled(page)
    }
    await expect(page.getByTestId('key')).toHaveCount(1)

    // baked beside the take it came from, delivered with it, and alike when read back
    await page.getByTestId('bake').click()
    await settled(page)
    const name = way.take.replace(/ (North|South)$/, '')
    await expect(page.locator(`[data-take^="${name}, baked"]`)).toHaveCount(1)
    await stop(page, 'Delivery').click()
    const [file] = await Promise.all([page.waitForEvent('download'), page.getByTestId('deliver').click()])
    const { takes, document } = await readGltf(await bytesOf(file))
    const baked = takes.find(t => t.name === `${name}, baked`)!
    const twins = takes.filter(t => t.name.startsWith(name) && t !== baked && t.frames === baked.frames)
    const worst = twins.map(t => {
      let most = 0
      for (let i = 0; i < t.rotations.length / 4; i++)
        most = Math.max(most, angleOf(multiply(conjugate(quatAt(t.rotations, i)), quatAt(baked.rotations, i))))
      return (most * 180) / Math.PI
    })
    expect(worst.some(w => w < 0.1)).toBe(true)
    expect(document!.json.nodes!.some(n => n.name === way.prop)).toBe(true)
    expect(errors).toEqual([])
  })
