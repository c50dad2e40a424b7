import { expect, type Locator } from '@playwright/test'
import { test } from './browser'
import { open, settled, stop } from './helpers'

test('who comes for the first time is told what this is, and is shown around', async ({ page }) => {
  const errors: string[] = []
  page.on('pageerror', e => errors.push(e.message))
  await page.goto('/')
  const opening = page.getByTestId('opening')
  await expect(opening).toContainText('Chiraxis builds skeleton and skin')
  await expect(opening.getByText('A project you worked on')).toHaveCount(0)
  await opening.getByTestId('begin-tour').click()
  const card = page.getByTestId('tour')
  const steps = ['straighten', 'landmarks', 'skin', 'pose', 'takes', 'Delivery']
  for (const [i, step] of steps.entries()) {
    await expect(card).toContainText(`${i + 1} of 6`)
    await expect(stop(page, step)).toHaveAttribute('aria-current', 'step')
    // the next press is under the hand
    await expect(card.locator('[data-next]')).toBeFocused()
    if (i === 3) {
      await card.getByRole('button', { name: 'Back' }).press('Enter')
      await expect(card).toContainText('3 of 6')
      await page.keyboard.press('Enter')
      await expect(card).toContainText('4 of 6')
    }
    await page.keyboard.press('Enter')
  }
  await expect(card).toHaveCount(0)
  await settled(page)
  // left at any time
  await page.keyboard.press('Control+k')
  await page.getByPlaceholder(/^Find an action/).fill('short tour')
  await page.keyboard.press('Enter')
  await expect(card).toContainText('1 of 6')
  await page.keyboard.press('Escape')
  await expect(card).toHaveCount(0)
  expect(errors).toEqual([])
})

test('a project without a body offers a sample and the projects of before', async ({ page }) => {
  await page.goto('/')
  await page.getByTestId('opening').locator('[data-sample="pim"]').click()
  await settled(page)
  await page.getByTestId('figure-name').click()
  await page.getByRole('textbox', { name: "Figure's name" }).fill('Pim of the morning')
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('saved')).toHaveText('saved')
  await page.getByTestId('projects').click()
  await page.getByTestId('new-project').click()
  const opening = page.getByTestId('opening')
  await expect(opening).toContainText('A project you worked on')
  await opening.getByRole('button', { name: /Pim/ }).filter({ hasText: /\d/ }).click()
  await settled(page)
  await expect(page.getByTestId('figure-name')).toHaveText('Pim of the morning')
})

test('a name that is cut is told whole where it is pointed at; parts of the window keep their widths', async ({
  page,
}) => {
  const errors = await open(page, 'pim')
  const long = 'A deckhand whose name is far longer than any place for it in this window'
  await page.getByTestId('figure-name').click()
  await page.getByRole('textbox', { name: "Figure's name" }).fill(long)
  await page.keyboard.press('Enter')
  await stop(page, 'Motion').click()
  await settled(page)
  await page.getByTestId('take-name').fill(long)
  await page.keyboard.press('Enter')
  const row = page.locator(`[data-take^="${long.slice(0, 30)}"] .truncate`)
  await row.hover()
  await expect(row).toHaveAttribute('title', long)
  // wider by a drag, and so after a reload; by arrow keys too
  const bench = page.getByRole('complementary', { name: 'Bench' })
  const ledger = page.getByRole('complementary', { name: 'Ledger' })
  const widthOf = async (part: Locator): Promise<number> => (await part.boundingBox())!.width
  const before = await widthOf(bench)
  const edge = (await bench.boundingBox())!
  await page.mouse.move(edge.x, edge.y + 300)
  await page.mouse.down()
  await page.mouse.move(edge.x - 90, edge.y + 300, { steps: 5 })
  await page.mouse.up()
  await expect.poll(async () => Math.round((await widthOf(bench)) - before)).toBe(90)
  const narrow = await widthOf(ledger)
  await page.getByRole('separator', { name: 'Width of the ledger' }).focus()
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowRight')
  await expect.poll(() => widthOf(ledger)).toBeGreaterThan(narrow + 20)
  const wide = await widthOf(ledger)
  await page.reload()
  await settled(page)
  await expect.poll(async () => Math.abs((await widthOf(ledger)) - wide)).toBeLessThan(3)
  await expect.poll(async () => Math.abs((await widthOf(bench)) - before - 90)).toBeLessThan(3)
  expect(errors).toEqual([])
})
