import { readFileSync } from 'node:fs'
import { WebIO } from '@gltf-transform/core'
import { ALL_EXTENSIONS } from '@gltf-transform/extensions'
import { expect } from '@playwright/test'
import { test } from './browser'
import { io, rich, richRigged } from '../core/test/round-trip/rich'
import { missingFrom } from '../core/test/round-trip/same'
import { bytesOf, drop, open, settled, stop } from './helpers'

const deliver = async (page: Parameters<typeof open>[0]): Promise<Uint8Array> => {
  await stop(page, 'Delivery').click()
  await settled(page)
  const [file] = await Promise.all([
    page.waitForEvent('download', { timeout: 90_000 }),
    page.getByTestId('deliver').click(),
  ])
  return bytesOf(file)
}

test('a file of many meshes is rigged, a piece told otherwise, and delivered with nothing lost', async ({ page }) => {
  const errors = await open(page, 'pim')
  const bytes = await io().writeBinary(rich().document)
  await drop(page, 'meadow.glb', bytes)
  await settled(page)
  await stop(page, 'pieces').click()
  await expect(page.locator('[data-piece]')).toHaveCount(5)
  await expect(page.locator('[data-piece="Hat"]')).toContainText('hat, rigid')
  await expect(page.locator('[data-piece="Eye.L"]')).toContainText('eyes, rigid')
  await page.locator('[data-piece="Hat"]').getByRole('button', { name: /^Hat/ }).click()
  await expect(page.getByTestId('piece-why')).toContainText('by its name')
  await page.getByRole('radio', { name: /As part of the body/ }).click()
  await expect(page.getByTestId('piece-why')).toContainText('You chose this.')
  await settled(page)
  const out = await deliver(page)
  await expect(page.getByText('Same as the file it came in')).toBeVisible()
  const reader = new WebIO().registerExtensions(ALL_EXTENSIONS)
  expect(missingFrom(await reader.readBinary(bytes), await reader.readBinary(out), { moved: true })).toEqual([])
  expect(errors).toEqual([])
})

test('what a file with a body is, is asked in the bench: motion for this figure, a new version, a piece, another figure', async ({
  page,
}) => {
  const errors = await open(page, 'pim')
  await stop(page, 'straighten').click()
  await page.getByTestId('up-axis').selectOption('+y')
  await settled(page)
  const moving = await io().writeBinary((await richRigged()).document)
  await drop(page, 'dancer.glb', moving)
  const card = page.getByTestId('arrival')
  await expect(card).toContainText('dancer.glb')
  await card.locator('[data-arrival="clips"]').click()
  await card.getByRole('checkbox').nth(1).uncheck()
  await page.getByTestId('arrival-take').click()
  await expect(card).toHaveCount(0)
  await expect(page.locator('[data-take="nod dancer"]')).toBeVisible()
  await expect(page.locator('[data-take="wave dancer"]')).toHaveCount(0)
  await settled(page)
  // a new version keeps what was settled by hand
  await drop(page, 'pim_v2.glb', new Uint8Array(readFileSync('public/demo/pim.glb')))
  await expect(card.locator('[data-arrival="version"]')).toContainText('likely')
  await page.getByTestId('arrival-take').click()
  await settled(page)
  await stop(page, 'straighten').click()
  await expect(page.getByText('by hand').first()).toBeVisible()
  await drop(page, 'brindle.glb', new Uint8Array(readFileSync('public/demo/brindle.glb')))
  await expect(card.locator('[data-arrival="figure"]')).toContainText('likely')
  await page.getByTestId('arrival-aside').click()
  await expect(card).toHaveCount(0)
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /New version: pim_v2/)
  expect(errors).toEqual([])
})
