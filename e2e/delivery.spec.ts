import { expect } from '@playwright/test'
import { test } from './browser'
import { readFileSync } from 'node:fs'
import validator from 'gltf-validator'
import { GLTFLoader, type GLTF } from 'three/examples/jsm/loaders/GLTFLoader.js'
import { SkinnedMesh } from 'three'
import { bytesOf, centreOf, drag, drop, mark, open, settled, stop } from './helpers'

test('a delivered GLB is read by independent readers', async ({ page }) => {
  await open(page)
  await stop(page, 'Delivery').click()
  const waiting = page.waitForEvent('download')
  await page.getByTestId('deliver').click()
  const download = await waiting
  expect(download.suggestedFilename()).toBe('Oda-Marl.glb')
  await expect(page.getByTestId('proof')).toContainText('Validator errors')
  const bytes = await bytesOf(download)

  const report = await validator.validateBytes(bytes)
  expect(report.issues.numErrors).toBe(0)

  Object.assign(globalThis, { self: globalThis })
  const gltf = await new Promise<GLTF>((resolve, reject) => {
    new GLTFLoader().parse(
      bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer,
      '',
      resolve,
      reject,
    )
  })
  const skinned: SkinnedMesh[] = []
  gltf.scene.traverse(o => {
    if (o instanceof SkinnedMesh) skinned.push(o)
  })
  expect(skinned.length).toBeGreaterThan(0)
  expect(skinned[0]!.skeleton.bones.map(b => b.name)).toContain('leftLowerArm')
  expect(gltf.animations).toHaveLength(27)
  expect(gltf.animations.map(a => a.name)).toEqual(
    expect.arrayContaining(['lookout idle', 'run', 'walk', 'wave', 'point and talk']),
  )
  expect(gltf.animations[0]!.tracks.length).toBeGreaterThan(20)
})

test('everything is there after a reload, undo included, and in a saved project', async ({ page }) => {
  await open(page)
  await stop(page, 'Bones').click()
  await drag(page, 'leftWrist', -8, -25)
  await settled(page)
  const placed = await centreOf(mark(page, 'leftWrist'))
  await expect(page.getByTestId('saved')).toHaveText('saved')
  await page.reload()
  await settled(page)
  await stop(page, 'Bones').click()
  await page.waitForTimeout(300)
  const again = await centreOf(mark(page, 'leftWrist'))
  expect(Math.hypot(again.x - placed.x, again.y - placed.y)).toBeLessThan(1.5)
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /Undo: Place left wrist/)

  await stop(page, 'Delivery').click()
  const waiting = page.waitForEvent('download')
  await page.getByTestId('save-project').click()
  const project = await waiting
  expect(project.suggestedFilename()).toBe('oda-marl.chiraxis')
  const bytes = await bytesOf(project)

  // somewhere else entirely: a browser that never saw this figure
  const elsewhere = await page
    .context()
    .browser()!
    .newContext({ viewport: { width: 1280, height: 800 } })
  const other = await elsewhere.newPage()
  await other.goto(page.url())
  await settled(other)
  await drop(other, 'oda-marl.chiraxis', bytes)
  await settled(other)
  await stop(other, 'Bones').click()
  await other.waitForTimeout(300)
  await expect(other.locator('[data-callout="leftWrist"]')).toContainText('by hand')
  const there = await centreOf(mark(other, 'leftWrist'))
  expect(Math.hypot(there.x - placed.x, there.y - placed.y)).toBeLessThan(1.5)
  await elsewhere.close()
})

test('the page runs only its own scripts and is kept on loopback', async ({ request }) => {
  const answer = await request.get('/')
  const policy = answer.headers()['content-security-policy'] ?? ''
  expect(policy).toContain("default-src 'none'")
  expect(policy).not.toContain('unsafe-eval')
  expect(policy).toMatch(/script-src 'self' 'sha256-/)
  expect(policy).not.toContain('unsafe-inline')
})

test('the server tells what a file holds', async ({ request }) => {
  const told = await request.post('/api/inspect?name=walk.bvh', {
    data: readFileSync('public/demo/walk.south.bvh'),
    headers: { 'content-type': 'application/octet-stream' },
  })
  expect(await told.json()).toMatchObject({ ok: true, takes: [{ frames: 131 }] })
  const refused = await request.post('/api/inspect?name=x.glb', {
    data: Buffer.from('hello'),
    headers: { 'content-type': 'application/octet-stream' },
  })
  expect(refused.status()).toBe(422)
  expect(await refused.json()).toMatchObject({ ok: false, error: { code: 'wrong-format' } })
})
