import { expect, type Download, type Locator, type Page } from '@playwright/test'
import { readFile } from 'node:fs/promises'

/** Opens the program and waits until everything is worked out. Any error of the page fails the test. */
export async function open(page: Page, sample = 'oda-marl'): Promise<string[]> {
  const errors: string[] = []
  page.on('pageerror', e => errors.push(e.message))
  page.on('console', m => {
    if (m.type() === 'error') errors.push(m.text())
  })
  await page.goto(`/?sample=${sample}`)
  await settled(page)
  return errors
}

export async function settled(page: Page): Promise<void> {
  await expect(page.getByTestId('workbench')).toHaveAttribute('data-ready', 'true', { timeout: 120_000 })
  // a change may only just have been made
  await page.waitForTimeout(150)
  await expect(page.getByTestId('workbench')).toHaveAttribute('data-ready', 'true', { timeout: 120_000 })
}

export const stop = (page: Page, name: string): Locator =>
  page.getByRole('navigation', { name: 'Route' }).getByRole('button', { name, exact: true })

export const mark = (page: Page, id: string): Locator => page.locator(`[data-mark="${id}"]`)

export async function centreOf(locator: Locator): Promise<{ x: number; y: number }> {
  const box = (await locator.boundingBox())!
  return { x: box.x + box.width / 2, y: box.y + box.height / 2 }
}

/** Drags a mark by pixels. */
export async function drag(page: Page, id: string, dx: number, dy: number): Promise<void> {
  const { x, y } = await centreOf(mark(page, id))
  await page.mouse.move(x, y)
  await page.mouse.down()
  for (let i = 1; i <= 5; i++) await page.mouse.move(x + (dx * i) / 5, y + (dy * i) / 5)
  await page.mouse.up()
}

/**
 * What is drawn on the plate as a short word, to tell whether the picture changed: the picture that stands when nothing moves any
 * more, or any one of something that moves.
 */
export async function picture(page: Page, of: 'still' | 'moving' = 'still'): Promise<string> {
  const canvas = page.getByTestId('plate').locator(of === 'still' ? 'canvas[data-drawn="whole"]' : 'canvas')
  return canvas.evaluate(async (c: HTMLCanvasElement) => {
    const bytes = new TextEncoder().encode(c.toDataURL('image/png'))
    const digest = await crypto.subtle.digest('SHA-256', bytes)
    return Array.from(new Uint8Array(digest), b => b.toString(16).padStart(2, '0')).join('')
  })
}

export async function bytesOf(download: Download): Promise<Uint8Array> {
  return new Uint8Array(await readFile(await download.path()))
}

/** Drops a file on the window. */
export async function drop(page: Page, name: string, bytes: Uint8Array): Promise<void> {
  const encoded = Buffer.from(bytes).toString('base64')
  const transfer = await page.evaluateHandle(
    ([fileName, data]) => {
      const raw = atob(data!)
      const content = Uint8Array.from(raw, c => c.charCodeAt(0))
      const t = new DataTransfer()
      t.items.add(new File([content], fileName!))
      return t
    },
    [name, encoded],
  )
  await page.getByTestId('workbench').dispatchEvent('drop', { dataTransfer: transfer })
}

/** How many times slower the page's thread runs at the moment than this machine at full speed: at least 1. */
export async function paceOf(page: Page): Promise<number> {
  const best = await page.evaluate(() => {
    let fastest = Infinity
    for (let round = 0; round < 7; round++) {
      const from = performance.now()
      const list: { x: number }[] = []
      let sum = 0
      for (let i = 0; i < 400_000; i++) {
        list.push({ x: i * 1.0001 })
        sum += Math.sqrt(list[i >> 1]!.x) % 7
      }
      if (sum < 0) throw new Error('never')
      fastest = Math.min(fastest, performance.now() - from)
    }
    return fastest
  })
  return Math.max(1, best / FULL_SPEED_MS)
}
const FULL_SPEED_MS = 12
