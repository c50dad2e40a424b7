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

test('a file that was damaged while it was written is kept back, and told in words', async ({ page, context }) => {
  // the worker of this test alone spoils what it writes: once a GLB lies whole in memory, some of its data is overwritten
  const spoil = `const was = DataView.prototype.setUint32
DataView.prototype.setUint32 = function (at, value, little) {
  was.call(this, at, value, little)
  if (at === 0 && value === 0x46546c67)
    queueMicrotask(() => {
      const bytes = new Uint8Array(this.buffer)
      bytes.fill(0x3f, Math.floor(bytes.length * 0.5), Math.floor(bytes.length * 0.5) + 4096)
    })
}
`
  await context.route(/core\.worker.*\.js$/, async route => {
    const answer = await route.fetch()
    await route.fulfill({ response: answer, body: spoil + (await answer.text()) })
  })
  let downloads = 0
  page.on('download', () => downloads++)
  await open(page, 'pim')
  await stop(page, 'Delivery').click()
  await settled(page)
  await page.getByTestId('deliver').click()
  await expect(page.getByText(/kept back|does not keep to its format|was not handed over/).first()).toBeVisible({
    timeout: 90_000,
  })
  expect(downloads).toBe(0)
  await expect(page.getByTestId('proof')).toHaveCount(0)
  await context.unroute(/core\.worker.*\.js$/)
  // as it is written without a fault, it is handed over
  await page.reload()
  await settled(page)
  await stop(page, 'Delivery').click()
  const [file] = await Promise.all([
    page.waitForEvent('download', { timeout: 90_000 }),
    page.getByTestId('deliver').click(),
  ])
  expect((await bytesOf(file)).length).toBeGreaterThan(100_000)
})

test('faults of a surface are stepped through and mended one by one, each a step to take back', async ({ page }) => {
  const errors = await open(page, 'pim')
  const { document } = rich()
  // of the body of the rich file two faces are turned apart from each other, one is missing, and one lies there twice
  const body = document.getRoot().listMeshes().find(m => m.getName() === 'BodyMesh')! // prettier-ignore
  const indices = body.listPrimitives()[0]!.getIndices()!
  const own = [...indices.getArray()!]
  const turn = (f: number): void => {
    ;[own[3 * f + 1], own[3 * f + 2]] = [own[3 * f + 2]!, own[3 * f + 1]!]
  }
  const faces = own.length / 3
  turn(Math.floor(faces / 4))
  turn(Math.floor(faces / 2))
  own.push(...own.slice(30, 33))
  own.splice(3 * Math.floor((3 * faces) / 4), 3)
  indices.setArray(Uint16Array.from(own))
  await drop(page, 'dented.glb', await io().writeBinary(document))
  await settled(page)
  await stop(page, 'check').click()
  const card = page.getByTestId('faults')
  const kind = (name: RegExp) => card.getByRole('radio', { name })
  await expect(kind(/^Turned 2/)).toBeVisible()
  await kind(/^Turned/).click()
  await page.getByTestId('next-fault').click()
  await expect(page.getByTestId('fault-at')).toHaveText('2 of 2')
  await expect(page.getByTestId('fault-mark')).toBeVisible()
  await page.getByTestId('mend-fault').click()
  await settled(page)
  await expect(kind(/^Turned 1/)).toBeVisible()
  await page.getByTestId('undo').click()
  await settled(page)
  await expect(kind(/^Turned 2/)).toBeVisible()
  await kind(/^Crowded/).click()
  await page.getByTestId('mend-fault').click()
  await settled(page)
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /Remove doubled faces/)
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
