import { expect, type Locator, type Page } from '@playwright/test'
import { test } from './browser'
import { centreOf, mark, open, picture, settled, stop } from './helpers'

/** Goes on by Tab until something has the focus. */
async function tabTo(page: Page, wanted: Locator): Promise<void> {
  await wanted.waitFor()
  for (let i = 0; i < 120; i++) {
    if (await wanted.evaluate(e => e === document.activeElement)) return
    await page.keyboard.press('Tab')
  }
  throw new Error('Tab never came there.')
}

test('from the body to the written file by keyboard alone', async ({ page }) => {
  const errors: string[] = []
  page.on('pageerror', e => errors.push(e.message))
  await page.goto('/')
  await tabTo(page, page.getByTestId('opening').locator('[data-sample="tolly"]'))
  await page.keyboard.press('Enter')
  await settled(page)
  const bench = page.getByRole('complementary', { name: 'Bench' })
  // from bench to bench the focus goes along
  await tabTo(page, bench.getByRole('button', { name: 'Go on to the check' }))
  await page.keyboard.press('Enter')
  await expect(stop(page, 'check')).toHaveAttribute('aria-current', 'step')
  await expect(bench).toBeFocused()
  await tabTo(page, bench.getByRole('button', { name: 'Go on to the pieces' }))
  await page.keyboard.press('Enter')
  await expect(bench).toBeFocused()
  // steps by their keys
  for (const step of ['light', 'landmarks', 'hands', 'skeleton']) {
    await page.keyboard.press(']')
    await expect(stop(page, step)).toHaveAttribute('aria-current', 'step')
  }
  await tabTo(page, stop(page, 'Motion'))
  await page.keyboard.press('Enter')
  await settled(page)
  await page.locator('body').press('Space')
  await tabTo(page, stop(page, 'Delivery'))
  await page.keyboard.press('Enter')
  await tabTo(page, page.getByTestId('deliver'))
  const file = page.waitForEvent('download')
  await page.keyboard.press('Enter')
  expect((await file).suggestedFilename()).toBe('Tolly.glb')
  expect(errors).toEqual([])
})

test('marks are chosen and moved, and the view is turned, by arrows', async ({ page }) => {
  const errors = await open(page, 'pim')
  await stop(page, 'Bones').click()
  await settled(page)
  const large = page.getByRole('application', { name: /^Large view/ })
  await large.focus()
  await page.keyboard.press('ArrowDown')
  const row = page.locator('[data-ledger][aria-current="true"]')
  await expect(row).toHaveCount(1)
  const first = await row.getAttribute('data-ledger')
  await page.keyboard.press('ArrowDown')
  await expect(row).not.toHaveAttribute('data-ledger', first!)
  // what is not on the midline can be moved aside
  for (let i = 0; i < 30 && !/Knee/.test((await row.getAttribute('data-ledger'))!); i++)
    await page.keyboard.press(i % 3 === 2 ? 'ArrowRight' : 'ArrowDown')
  const chosen = (await row.getAttribute('data-ledger'))!
  expect(chosen).toMatch(/Knee/)
  const before = (await mark(page, chosen).boundingBox())!
  for (let i = 0; i < 4; i++) await page.keyboard.press('Shift+ArrowRight')
  await settled(page)
  const after = (await mark(page, chosen).boundingBox())!
  expect(after.x - before.x).toBeGreaterThan(5)
  expect(after.x - before.x).toBeLessThan(11)
  // the four presses are one step to take back
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /^Undo: Place/)
  await page.keyboard.press('Control+z')
  await settled(page)
  await expect(page.getByTestId('undo')).toHaveAttribute('title', 'Nothing to undo')
  await page.keyboard.press('0')
  await settled(page)
  await large.focus()
  for (const key of ['Alt+ArrowLeft', 'Alt+ArrowUp', '+', '-']) {
    const seen = await picture(page)
    await page.keyboard.press(key)
    await expect.poll(() => picture(page), { message: key }).not.toBe(seen)
  }
  expect(errors).toEqual([])
})

test('the list of what was done goes back and forward to any moment', async ({ page }) => {
  const errors = await open(page, 'pim')
  for (const name of ['One', 'Two', 'Three']) {
    await page.getByTestId('figure-name').click()
    await page.getByRole('textbox', { name: "Figure's name" }).fill(name)
    await page.keyboard.press('Enter')
    await expect(page.getByTestId('figure-name')).toHaveText(name)
  }
  await page.getByTestId('history').click()
  const rows = page.getByTestId('history-list').getByRole('menuitem')
  await expect(rows).toHaveCount(4)
  await rows.nth(2).click()
  await expect(page.getByTestId('figure-name')).toHaveText('One')
  await page.getByTestId('history').click()
  await expect(rows.nth(0)).toContainText('undone')
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('figure-name')).toHaveText('Three')
  await expect(page.getByTestId('saved')).toHaveText('saved')
  await page.reload()
  await settled(page)
  await expect(page.getByTestId('figure-name')).toHaveText('Three')
  expect(errors).toEqual([])
})

test('rows and marks tell what can be done with them; takes are put in another order', async ({ page }) => {
  const errors = await open(page, 'pim')
  await stop(page, 'Motion').click()
  await settled(page)
  const names = (): Promise<string[]> =>
    page.locator('[data-take$=" North"]').evaluateAll(rows => rows.map(r => r.getAttribute('data-take')!))
  const before = await names()
  await page.locator(`[data-take="${before[2]}"]`).click({ button: 'right' })
  const menu = page.getByTestId('row-menu')
  await menu.getByRole('menuitem', { name: 'Earlier in the list' }).click()
  await expect.poll(names).toEqual([before[0], before[2], before[1], ...before.slice(3)])
  // by keyboard as well
  await page.locator(`[data-take="${before[0]}"]`).focus()
  await page.locator(`[data-take="${before[0]}"]`).dispatchEvent('contextmenu')
  await expect(menu.getByRole('menuitem', { name: 'Earlier in the list' })).toHaveAttribute('data-disabled', '')
  await page.keyboard.press('End')
  await page.keyboard.press('Enter')
  await expect.poll(names).toEqual([before[2], before[1], ...before.slice(3)])
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /^Undo: Remove/)
  // a mark on the plate
  await stop(page, 'Bones').click()
  await settled(page)
  const dot = await centreOf(mark(page, 'leftKnee'))
  await page.mouse.click(dot.x, dot.y, { button: 'right' })
  await expect(menu.getByRole('menuitem', { name: 'Find it again' })).toHaveAttribute('data-disabled', '')
  await menu.getByRole('menuitem', { name: 'Edit this side alone' }).click()
  await expect(page.getByRole('switch', { name: 'Mirror to the other side' })).not.toBeChecked()
  expect(errors).toEqual([])
})
