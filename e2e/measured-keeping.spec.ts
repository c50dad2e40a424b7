import { expect, test } from '@playwright/test'
import { readFile } from 'node:fs/promises'
import { emptyRecipe, hashBytes, writeProject, type Recipe } from '@chiraxis/core/recipe'
import { centreOf, drop, mark, open, paceOf, settled, stop } from './helpers'

const STROKES = 300
const DABS = 60

/** Pim with many strokes on the skin, as a project file. */
async function painted(): Promise<Uint8Array> {
  const bytes = new Uint8Array(await readFile('public/demo/pim.glb'))
  const body = { name: 'pim.glb', hash: hashBytes(bytes), size: bytes.length }
  const edits: Recipe['skin']['edits'] = Array.from({ length: STROKES }, (_, s) => ({
    kind: 'stroke',
    tool: 'add',
    joint: s % 2 === 0 ? 'spine' : 'hips',
    dabs: Array.from({ length: DABS }, (_, d): [number, number, number, number, number, number, number] => [
      0.05 * Math.sin(s + d / 20),
      0.45 + 0.002 * ((s * 7 + d) % 60),
      0.08,
      0,
      0,
      1,
      1,
    ]),
    radius: 0.02,
    strength: 0.05,
    value: 1,
    falloff: 0.7,
    mirror: false,
    through: false,
    locked: [],
  }))
  const fresh = emptyRecipe('Painted')
  return writeProject({ ...fresh, body, skin: { ...fresh.skin, edits } }, async () => bytes)
}

test(`a project of ${STROKES} strokes of ${DABS} dabs: what saving a stroke costs, and what goes to and from the worker`, async ({
  page,
}) => {
  test.setTimeout(360_000)
  // what crosses the border is counted where it crosses
  await page.addInitScript(() => {
    const counts = { sent: 0, received: 0 }
    Object.assign(window, { counts })
    const sizeOf = (value: unknown): number => {
      const seen = new Set<object>()
      const todo: unknown[] = [value]
      let bytes = 0
      while (todo.length > 0) {
        const item = todo.pop()
        if (typeof item === 'string') bytes += item.length
        else if (item && typeof item === 'object' && !seen.has(item)) {
          seen.add(item)
          if (ArrayBuffer.isView(item)) {
            if (!seen.has(item.buffer)) bytes += item.buffer.byteLength
            seen.add(item.buffer)
          } else for (const part of Object.values(item)) todo.push(part)
        } else bytes += 8
      }
      return bytes
    }
    const post = Worker.prototype.postMessage
    Worker.prototype.postMessage = function (this: Worker, message: unknown, ...rest: never[]) {
      counts.sent += sizeOf(message)
      return post.call(this, message, ...rest)
    } as typeof post
    const listen = Worker.prototype.addEventListener
    const counted = new WeakSet<Worker>()
    Worker.prototype.addEventListener = function (this: Worker, type: string, ...rest: never[]) {
      if (type === 'message' && !counted.has(this)) {
        counted.add(this)
        listen.call(this, 'message', ((e: MessageEvent) => {
          counts.received += sizeOf(e.data)
        }) as EventListener)
      }
      return (listen as (...args: unknown[]) => void).call(this, type, ...rest)
    } as typeof listen
  })
  await open(page, 'pim')
  await drop(page, 'painted.chiraxis', await painted())
  await expect(page.getByTestId('figure-name')).toContainText('Painted')
  await settled(page)
  const crossing = async (): Promise<{ sent: number; received: number }> =>
    page.evaluate(() => {
      const { counts } = window as unknown as { counts: { sent: number; received: number } }
      const told = { ...counts }
      counts.sent = counts.received = 0
      return told
    })
  await crossing()

  await page.getByTestId('figure-name').click()
  await page.getByLabel("Figure's name").fill('Renamed')
  await page.getByLabel("Figure's name").press('Enter')
  await expect(page.getByTestId('saved')).toHaveText('saved')
  await settled(page)
  const rename = await crossing()

  await stop(page, 'Bones').click()
  const { x, y } = await centreOf(mark(page, 'chest'))
  await stop(page, 'skin').click()
  await page.getByRole('radio', { name: 'Repair', exact: true }).click()
  await settled(page)
  await crossing()
  const pace = await paceOf(page)
  await page.evaluate(() => performance.clearMeasures())
  for (let s = 0; s < 5; s++) {
    await page.mouse.move(x - 12, y - 4 * s)
    await page.mouse.down()
    for (let i = 1; i <= 6; i++) await page.mouse.move(x - 12 + 5 * i, y - 4 * s)
    await page.mouse.up()
    await settled(page)
  }
  const strokes = await crossing()
  const saved = await page.evaluate(() => performance.getEntriesByName('chiraxis:keep').map(entry => entry.duration))
  const cost = [...saved].sort((a, b) => a - b)[saved.length >> 1]!
  console.log(
    `saving a stroke among ${STROKES}: ${cost.toFixed(2)} ms of the page's thread at pace ${pace.toFixed(2)} (${saved.map(v => v.toFixed(1)).join(', ')}); ` +
      `a rename sends ${rename.sent} and brings ${rename.received} bytes; a stroke sends ${(strokes.sent / 5 / 1024).toFixed(1)} KiB and brings ${(strokes.received / 5 / 2 ** 20).toFixed(2)} MiB`,
  )
  expect(saved.length).toBeGreaterThanOrEqual(3)
  expect(cost).toBeLessThan(4 * pace)
  expect(rename.sent).toBeLessThan(4000)
  expect(rename.received).toBeLessThan(4000)
  expect(strokes.sent / 5).toBeLessThan(40_000)
})
