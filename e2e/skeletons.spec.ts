import { readFileSync } from 'node:fs'
import { expect } from '@playwright/test'
import { readFile } from '../core/src/formats'
import { writeGlb } from '../core/src/formats/gltf-write'
import { STYLES } from '../core/test/rigs/styles'
import { test } from './browser'
import { bytesOf, drop, open, settled, stop } from './helpers'

/** A GLB with its joints renamed. */
function renamed(path: string, name: (old: string) => string): Uint8Array {
  const glb = readFileSync(path)
  const length = glb.readUInt32LE(12)
  const json = JSON.parse(glb.subarray(20, 20 + length).toString()) as { nodes: { name?: string }[] }
  for (const n of json.nodes) if (n.name) n.name = name(n.name)
  const text = Buffer.from(JSON.stringify(json))
  const padded = Buffer.concat([text, Buffer.alloc((4 - (text.length % 4)) % 4, 0x20)])
  const head = Buffer.from(glb.subarray(0, 20))
  head.writeUInt32LE(20 + padded.length + (glb.length - 20 - length), 8)
  head.writeUInt32LE(padded.length, 12)
  return Buffer.concat([head, padded, glb.subarray(20 + length)])
}

test('a skeleton that may be read wrongly is told, and settled by hand', async ({ page }) => {
  const errors = await open(page, 'pim')
  // left and right are named the other way round
  const bytes = renamed('public/demo/pim-received.glb', n =>
    n.replace(/(^|:)([lr])_/, (_, before: string, side: string) => before + (side === 'l' ? 'r_' : 'l_')),
  )
  await drop(page, 'mirrored.glb', bytes)
  await settled(page)
  await stop(page, 'Bones').click()
  await stop(page, 'names').click()
  const card = page.getByTestId('reading')
  await expect(page.getByTestId('doubts')).toContainText('Left and right?')
  const side = async (): Promise<number> => {
    const box = (await page.getByTestId('plate').getByText('Left hand', { exact: true }).boundingBox())!
    return box.x
  }
  const before = await side()
  await card.getByRole('switch', { name: /Left and right/ }).click()
  await settled(page)
  await expect(page.getByTestId('doubts')).toHaveCount(0)
  expect(Math.abs((await side()) - before)).toBeGreaterThan(100)
  await page.getByTestId('undo').click()
  await settled(page)
  await expect(page.getByTestId('doubts')).toBeVisible()
  await page.getByTestId('settle-reading').click()
  await settled(page)
  await expect(card).toContainText('You said that this is right.')
  await expect(page.getByTestId('doubts')).toHaveCount(0)
  expect(errors).toEqual([])
})

test('the skeleton of a file is laid on a body as it is, skinned and delivered', async ({ page }) => {
  const errors = await open(page, 'pim')
  const { skeleton } = STYLES.find(s => s.name === 'twists in line')!.make(7)
  await drop(page, 'studio.glb', await writeGlb({ name: 'studio', skeleton }))
  await settled(page)
  await expect(page.getByRole('heading', { name: 'Skeleton' }).first()).toBeVisible()
  await expect(page.getByText('studio.glb, as it is')).toBeVisible()
  await expect(page.locator('[data-ledger]')).toHaveCount(skeleton.names.length)
  // saved alone, it is the same skeleton again
  const [saved] = await Promise.all([page.waitForEvent('download'), page.getByTestId('save-skeleton').click()])
  const alone = await readFile(await bytesOf(saved), 'alone.glb')
  expect(alone.mesh).toBeUndefined()
  expect([...alone.skeleton!.names]).toEqual([...skeleton.names])
  expect([...alone.skeleton!.parents]).toEqual([...skeleton.parents])
  await stop(page, 'Delivery').click()
  await settled(page)
  const [file] = await Promise.all([
    page.waitForEvent('download', { timeout: 90_000 }),
    page.getByTestId('deliver').click(),
  ])
  const glb = Buffer.from(await bytesOf(file))
  const json = JSON.parse(glb.subarray(20, 20 + glb.readUInt32LE(12)).toString()) as {
    nodes: { name?: string }[]
    skins: { joints: number[] }[]
  }
  expect(json.skins[0]!.joints.map(j => json.nodes[j]!.name)).toEqual([...skeleton.names])
  // back to the plan and to the file again, without choosing it anew
  await stop(page, 'Bones').click()
  await stop(page, 'skeleton').click()
  await page.getByRole('radio', { name: 'On landmarks' }).click()
  await settled(page)
  await expect(page.locator('[data-ledger]')).not.toHaveCount(skeleton.names.length)
  await page.getByRole('radio', { name: 'Of a file' }).click()
  await settled(page)
  await expect(page.locator('[data-ledger]')).toHaveCount(skeleton.names.length)
  expect(errors).toEqual([])
})
