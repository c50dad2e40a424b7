import { expect, type Page } from '@playwright/test'
import { test } from './browser'
import { drop, open, settled, stop } from './helpers'

const rename = async (page: Page, name: string): Promise<void> => {
  await page.getByTestId('figure-name').click()
  await page.getByLabel("Figure's name").fill(name)
  await page.getByLabel("Figure's name").press('Enter')
}
const nameOf = (page: Page): Promise<string | null> => page.getByTestId('figure-name').textContent()

test('an edit is there after a reload within the same moment, and after a crash', async ({ page, context }) => {
  await open(page, 'pim')
  await rename(page, 'At once')
  await page.reload()
  await settled(page)
  expect((await nameOf(page))!.trim()).toBe('At once')
  let now = page
  for (let i = 0; i < 4; i++) {
    await rename(now, `Kill ${i}`)
    // what was told as saved is there, whatever happens next
    await expect(now.getByTestId('saved')).toHaveText('saved')
    // the window dies without being asked
    const dead = now.waitForEvent('crash')
    const session = await context.newCDPSession(now)
    session.send('Page.crash').catch(() => undefined)
    await dead
    now = await context.newPage()
    await now.goto('/')
    await expect(now.getByTestId('figure-name')).toContainText(`Kill ${i}`)
  }
  await expect(now.getByTestId('saved')).toHaveText('saved')
  await now.getByTestId('undo').click()
  expect((await nameOf(now))!.trim()).toBe('Kill 2')
})

test('a name that is typed while the figure is worked out stands, and Escape gives it up', async ({ page }) => {
  await page.goto('/?sample=tolly')
  await page.getByTestId('figure-name').click()
  const field = page.getByLabel("Figure's name")
  await field.fill('')
  await field.pressSequentially('Typed while things change', { delay: 90 })
  await field.press('Enter')
  await expect(page.getByTestId('figure-name')).toHaveText('Typed while things change')
  await settled(page)
  await page.getByTestId('figure-name').click()
  await field.fill('Given up')
  await field.press('Escape')
  expect((await nameOf(page))!.trim()).toBe('Typed while things change')
})

test('two windows: one edits, the other looks on until it takes over; nothing is written over', async ({
  page,
  context,
}) => {
  await open(page, 'pim')
  await rename(page, 'First window')
  await expect(page.getByTestId('saved')).toHaveText('saved')
  const other = await context.newPage()
  await other.goto('/')
  await settled(other)
  await expect(other.getByTestId('refusal')).toContainText('open in another window')
  await expect(other.getByTestId('saved')).toHaveText('read only')
  await rename(other, 'Not allowed')
  expect((await nameOf(other))!.trim()).toBe('First window')
  // closing the one that only looked writes nothing
  await rename(page, 'Edited meanwhile')
  await expect(page.getByTestId('saved')).toHaveText('saved')
  await other.reload()
  await settled(other)
  expect((await nameOf(other))!.trim()).toBe('Edited meanwhile')
  await other.getByTestId('notice-action').click()
  await expect(other.getByTestId('saved')).toHaveText('saved')
  await rename(other, 'Taken over')
  await expect(other.getByTestId('saved')).toHaveText('saved')
  await expect(page.getByTestId('saved')).toHaveText('read only')
  await page.close()
  await other.reload()
  await settled(other)
  expect((await nameOf(other))!.trim()).toBe('Taken over')
})

test('projects are begun, opened, duplicated and deleted; a project file and a sample become their own', async ({
  page,
}) => {
  await open(page, 'pim')
  await rename(page, 'My pilot')
  await expect(page.getByTestId('saved')).toHaveText('saved')
  await stop(page, 'Delivery').click()
  const download = page.waitForEvent('download')
  await page.getByTestId('save-project').click()
  const chunks: Buffer[] = []
  for await (const chunk of await (await download).createReadStream()) chunks.push(chunk as Buffer)
  await drop(page, 'from-elsewhere.chiraxis', new Uint8Array(Buffer.concat(chunks)))
  await settled(page)
  await rename(page, 'From elsewhere')
  await expect(page.getByTestId('saved')).toHaveText('saved')
  await page.getByTestId('projects').click()
  const shelf = page.getByTestId('shelf')
  await expect(shelf.locator('[data-project]')).toHaveCount(2)
  await shelf.locator('[data-project="My pilot"]').getByRole('button', { name: 'Duplicate' }).click()
  await expect(shelf.locator('[data-project]')).toHaveCount(3)
  await shelf.locator('[data-project="My pilot copy"]').getByRole('button', { name: 'Open', exact: true }).click()
  await settled(page)
  expect((await nameOf(page))!.trim()).toBe('My pilot')
  // its history came along
  await page.getByTestId('undo').click()
  expect((await nameOf(page))!.trim()).toBe('Pim')
  await page.getByTestId('projects').click()
  await shelf
    .locator('[data-project="From elsewhere"]')
    .getByRole('button', { name: /^Delete/ })
    .click()
  await shelf.getByTestId('delete-surely').click()
  await expect(shelf.locator('[data-project]')).toHaveCount(2)
  await shelf.getByTestId('new-project').click()
  await expect(page.getByTestId('opening')).toBeVisible()
  await page.getByTestId('projects').click()
  await shelf.locator('[data-project="My pilot"]').getByRole('button', { name: 'Open', exact: true }).click()
  await settled(page)
  expect((await nameOf(page))!.trim()).toBe('My pilot')
})

test('after a split the bench edits the joint that was chosen; nudges are one step to take back', async ({ page }) => {
  const errors = await open(page, 'pim')
  await stop(page, 'Bones').click()
  await stop(page, 'skeleton').click()
  await page.locator('[data-ledger]').filter({ hasText: 'Left lower arm' }).click()
  await page.getByTestId('split').click()
  await settled(page)
  await expect(page.locator('[data-ledger][aria-current="true"]')).toContainText('Left lower arm')
  const height = page.getByLabel('Height')
  await height.focus()
  const before = await height.inputValue()
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowUp')
  await settled(page)
  expect(Number(await height.inputValue())).toBeCloseTo(Number(before) + 0.4, 1)
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /Undo: Move left lower arm/)
  // the keys mean the same although the number is in focus
  await page.keyboard.press('Control+z')
  await settled(page)
  await expect(height).toHaveValue(before)
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /Undo: Split/)
  expect(errors).toEqual([])
})
