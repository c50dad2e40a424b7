import { expect, test } from '@playwright/test'
import { readFile } from 'node:fs/promises'
import { centreOf, drop, mark, open, paceOf, settled, stop } from './helpers'

test('a body of 100 000 vertices is rigged while the window keeps answering', async ({ page }) => {
  await open(page, 'pim')
  await page.evaluate(() => {
    const gaps: number[] = []
    let last = performance.now()
    const tick = (): void => {
      const now = performance.now()
      gaps.push(now - last)
      last = now
      setTimeout(tick, 10)
    }
    tick()
    Object.assign(window, { gaps })
  })
  const started = Date.now()
  await drop(page, 'pim-dense.glb', new Uint8Array(await readFile('public/demo/pim-dense.glb')))
  await expect(page.getByText('pim-dense.glb')).toBeVisible({ timeout: 20_000 })
  await expect(page.getByTestId('workbench')).toHaveAttribute('data-ready', 'false')
  await settled(page)
  const seconds = (Date.now() - started) / 1000
  const gaps = await page.evaluate(() => (window as unknown as { gaps: number[] }).gaps)
  const longest = Math.max(...gaps)
  const long = gaps.filter(g => g > 250).length
  console.log(`100 k vertices in the window: ${seconds.toFixed(1)} s from drop to skinned, longest stall ${longest.toFixed(0)} ms, stalls over 250 ms: ${long}`)
  expect(seconds).toBeLessThan(30)
  // drawing 200 000 triangles in software stalls a little; the work itself must not
  expect(longest).toBeLessThan(3000)
})

test('dragging a landmark on a dense body keeps the window free: under 16 ms of scripts, style and layout a move', async ({ page }) => {
  await open(page, 'pim')
  await drop(page, 'pim-dense.glb', new Uint8Array(await readFile('public/demo/pim-dense.glb')))
  await settled(page)
  await stop(page, 'Bones').click()
  const session = await page.context().newCDPSession(page)
  await session.send('Performance.enable')
  /** Seconds spent in scripts, style and layout; painting goes on beside it. */
  const spent = async (): Promise<{ work: number; all: number }> => {
    const { metrics } = await session.send('Performance.getMetrics')
    const of = (name: string): number => metrics.find(m => m.name === name)!.value
    return { work: of('ScriptDuration') + of('LayoutDuration') + of('RecalcStyleDuration'), all: of('TaskDuration') }
  }
  const { x, y } = await centreOf(mark(page, 'leftElbow'))
  await page.mouse.move(x, y)
  await page.mouse.down()
  await page.mouse.move(x + 2, y)
  await page.waitForTimeout(400)
  const pace = await paceOf(page)
  const moves = 40
  const before = await spent()
  for (let i = 1; i <= moves; i++) {
    await page.mouse.move(x + (i % 9), y - (i % 14))
    await page.waitForTimeout(40)
  }
  const after = await spent()
  const each = ((after.work - before.work) / moves) * 1000
  await page.mouse.up()
  console.log(`landmark drag at 100 k vertices: ${each.toFixed(1)} ms of scripts, style and layout a move at pace ${pace.toFixed(2)}; ${(((after.all - before.all) / moves) * 1000).toFixed(1)} ms with painting in software and everything else`)
  // the bar holds at full speed; a machine that runs slower at the moment is given as much more
  expect(each).toBeLessThan(16 * pace)
})

test('painting on a dense body: under 16 ms of scripts, style and layout a step', async ({ page }) => {
  await open(page, 'pim')
  await drop(page, 'pim-dense.glb', new Uint8Array(await readFile('public/demo/pim-dense.glb')))
  await settled(page)
  await stop(page, 'Bones').click()
  const chest = await centreOf(mark(page, 'chest'))
  await stop(page, 'skin').click()
  await page.getByRole('radio', { name: 'Repair', exact: true }).click()
  await settled(page)
  await page.waitForTimeout(1500)
  const session = await page.context().newCDPSession(page)
  await session.send('Performance.enable')
  const spent = async (): Promise<number> => {
    const { metrics } = await session.send('Performance.getMetrics')
    const of = (name: string): number => metrics.find(m => m.name === name)!.value
    return of('ScriptDuration') + of('LayoutDuration') + of('RecalcStyleDuration')
  }
  await page.mouse.move(chest.x - 20, chest.y)
  await page.mouse.down()
  await page.mouse.move(chest.x - 19, chest.y)
  await page.waitForTimeout(600)
  const pace = await paceOf(page)
  const steps = 24
  const before = await spent()
  for (let i = 1; i <= steps; i++) {
    await page.mouse.move(chest.x - 20 + 2 * i, chest.y + (i % 5) * 3)
    await page.waitForTimeout(60)
  }
  const each = ((await spent() - before) / steps) * 1000
  await page.mouse.up()
  console.log(`painting at 100 k vertices: ${each.toFixed(1)} ms of scripts, style and layout a step at pace ${pace.toFixed(2)}`)
  await settled(page)
  await expect(page.getByTestId('repair-count')).toHaveText('1')
  expect(each).toBeLessThan(16 * pace)
})
