import { WebIO } from '@gltf-transform/core'
import { ALL_EXTENSIONS } from '@gltf-transform/extensions'
import { expect } from '@playwright/test'
import { MeshoptDecoder } from 'meshoptimizer/decoder'
import { strFromU8, unzipSync } from 'fflate'
import { readFile } from '@chiraxis/core/formats'
import type { Manifest } from '@chiraxis/core/delivery'
import { test } from './browser'
import { bytesOf, open, settled, stop } from './helpers'

test('a profile is made, kept and used: an archive of BVH in other axes with a manifest, every file proven', async ({
  page,
}) => {
  const errors = await open(page)
  await stop(page, 'Delivery').click()
  await settled(page)
  await page.getByTestId('profiles').selectOption('BVH: Z up, metres, turns XYZ')
  await settled(page)
  const card = page.getByTestId('profile')
  await expect(card.getByLabel('Up')).toHaveValue('+z')
  await card.getByLabel('Unit').selectOption('cm')
  await card.getByLabel('Frames').selectOption('24')
  await card.getByLabel('Files are called').fill('{performer}_{take}')
  await card.getByLabel('Files are called').press('Enter')
  await expect(page.getByTestId('profiles')).toContainText('changed')
  await page.getByTestId('keep-profile').click()
  await page.getByTestId('profile-name').fill('Quay stage')
  await page.getByTestId('profile-name').press('Enter')
  await expect(page.getByTestId('profiles')).toHaveValue('Quay stage')

  // axes along one line are refused in words, and nothing changes
  await card.getByLabel('Ahead').selectOption('+z')
  await expect(page.getByTestId('refusal')).toContainText('one line')
  await page.getByTestId('dismiss').click()

  // three takes of the first performer
  const north = page.locator('[data-group="North"]')
  await north.getByRole('button', { name: 'None' }).click()
  await north.getByRole('button', { name: /North/ }).click()
  for (const take of ['walk', 'run', 'wave']) await north.locator(`[data-deliver="${take}"]`).check()
  const [file] = await Promise.all([page.waitForEvent('download'), page.getByTestId('deliver').click()])
  expect(file.suggestedFilename()).toBe('Oda Marl.zip')
  await expect(page.getByTestId('proof')).toContainText('Files, each read back')
  const entries = unzipSync(await bytesOf(file))
  expect(Object.keys(entries).sort()).toEqual(['North_run.bvh', 'North_walk.bvh', 'North_wave.bvh', 'manifest.json'])
  const manifest = JSON.parse(strFromU8(entries['manifest.json']!)) as Manifest
  expect(manifest.profile).toMatchObject({ name: 'Quay stage', unit: 'cm', up: '+z' })
  expect(manifest.takes.find(t => t.name === 'run')!.cues.filter(c => c.name === 'footstep').length).toBeGreaterThan(6)
  const read = await readFile(entries['North_walk.bvh']!, 'walk.bvh')
  expect(read.takes[0]!.fps).toBe(24)
  // Z is up, in centimetres
  const hips = read.skeleton!.names.indexOf('hips')
  expect(read.takes[0]!.translations[3 * hips + 2]).toBeGreaterThan(60)

  // it is there after a reload, and with the project
  await page.reload()
  await settled(page)
  await stop(page, 'Delivery').click()
  await expect(page.getByTestId('profiles')).toHaveValue('Quay stage')
  await expect(page.getByTestId('delivered-takes')).toContainText('Takes · 3')
  const [alone] = await Promise.all([page.waitForEvent('download'), page.getByTestId('export-profile').click()])
  const told = await bytesOf(alone)
  await page.getByTestId('profiles').selectOption('USD text: Y up, metres')
  await page
    .getByTestId('import-profile')
    .setInputFiles({ name: 'quay.json', mimeType: 'application/json', buffer: Buffer.from(told) })
  await expect(page.getByTestId('profiles')).toHaveValue('Quay stage')
  await page
    .getByTestId('import-profile')
    .setInputFiles({ name: 'no.json', mimeType: 'application/json', buffer: Buffer.from('[]') })
  await expect(page.getByTestId('refusal')).toContainText('no delivery profile')
  expect(errors).toEqual([])
})

test('a figure goes out as USD text, VRM and OBJ, each proven', async ({ page }) => {
  const errors = await open(page, 'pim')
  await stop(page, 'Delivery').click()
  await settled(page)
  for (const [format, ending] of [
    ['usda', '.usda'],
    ['vrm', '.vrm'],
    ['obj', '.zip'],
  ] as const) {
    await page.getByTestId('profile').getByLabel('Format').selectOption(format)
    await settled(page)
    // one take is enough
    if (format === 'usda') {
      const first = page.locator('[data-group]').first()
      await first.getByRole('button', { name: 'None' }).click()
    }
    const [file] = await Promise.all([
      page.waitForEvent('download', { timeout: 90_000 }),
      page.getByTestId('deliver').click(),
    ])
    expect(file.suggestedFilename()).toMatch(new RegExp(`\\${ending}$`))
    await expect(page.getByTestId('proof')).toContainText('Largest shift of a point')
  }
  expect(errors).toEqual([])
})

test('a small GLB comes out compressed, is read by another reader, and its cost is told', async ({ page }) => {
  const errors = await open(page, 'pim')
  await stop(page, 'Delivery').click()
  await settled(page)
  const north = page.locator('[data-group="North"]')
  await north.getByRole('button', { name: 'None' }).click()
  await north.getByRole('button', { name: /North/ }).click()
  await north.locator('[data-deliver="walk"]').check()
  const write = async (): Promise<Uint8Array> => {
    const [file] = await Promise.all([page.waitForEvent('download'), page.getByTestId('deliver').click()])
    return bytesOf(file)
  }
  const whole = await write()
  await page.getByTestId('profiles').selectOption('GLB, small: whole numbers, compressed, images of 1024')
  await settled(page)
  const small = await write()
  expect(small.length).toBeLessThan(0.6 * whole.length)
  await expect(page.getByTestId('proof')).toContainText(/Packing shifts a point by\s*0\.0\d+ mm/)
  await MeshoptDecoder.ready
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS).registerDependencies({ 'meshopt.decoder': MeshoptDecoder })
  const [a, b] = [(await io.readBinary(whole)).getRoot(), (await io.readBinary(small)).getRoot()]
  expect(b.listSkins()[0]!.listJoints().length).toBe(a.listSkins()[0]!.listJoints().length)
  expect(b.listAnimations().map(x => x.getName())).toEqual(a.listAnimations().map(x => x.getName()))
  const triangles = (root: typeof a): number =>
    root
      .listMeshes()
      .flatMap(m => m.listPrimitives())
      .reduce((n, p) => n + p.getIndices()!.getCount() / 3, 0)
  expect(triangles(b)).toBe(triangles(a))

  // arms at another angle at rest, images left out
  const card = page.getByTestId('profile')
  await card.getByLabel('Rests').selectOption('arms')
  await card.getByRole('radio', { name: 'Left out' }).click()
  const bare = (await io.readBinary(await write())).getRoot()
  expect(bare.listTextures()).toHaveLength(0)
  expect(errors).toEqual([])
})
