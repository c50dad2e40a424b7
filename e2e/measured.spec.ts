import { expect, test, type CDPSession, type Page } from '@playwright/test'
import { readFile } from 'node:fs/promises'
import { centreOf, drop, mark, open, paceOf, settled, stop } from './helpers'

/** Seconds the page's thread has spent in scripts, style and layout; painting goes on beside it. */
async function spent(session: CDPSession): Promise<number> {
  const { metrics } = await session.send('Performance.getMetrics')
  const of = (name: string): number => metrics.find(m => m.name === name)!.value
  return of('ScriptDuration') + of('LayoutDuration') + of('RecalcStyleDuration')
}

/** Milliseconds of the page's thread a pointer move takes, with the button held. */
async function costOfMoves(
  page: Page,
  session: CDPSession,
  moves: readonly { x: number; y: number }[],
): Promise<number> {
  const before = await spent(session)
  for (const { x, y } of moves) {
    await page.mouse.move(x, y)
    await page.waitForTimeout(60)
  }
  return (((await spent(session)) - before) / moves.length) * 1000
}

test('a body of 100 000 vertices: rigged while the window keeps answering, dragged and painted within 16 ms a move', async ({
  page,
}) => {
  // 200 000 triangles drawn in software: every picture may take a second
  test.setTimeout(360_000)
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
  await expect(page.getByText('pim-dense.glb')).toBeVisible({ timeout: 30_000 })
  await expect(page.getByTestId('workbench')).toHaveAttribute('data-ready', 'false')
  await settled(page)
  const seconds = (Date.now() - started) / 1000
  const gaps = await page.evaluate(() => (window as unknown as { gaps: number[] }).gaps)
  const longest = Math.max(...gaps)
  const long = gaps.filter(g => g > 250).length
  console.log(
    `100 k vertices in the window: ${seconds.toFixed(1)} s from drop to skinned, longest stall ${longest.toFixed(0)} ms, stalls over 250 ms: ${long}`,
  )
  expect(seconds).toBeLessThan(60)
  // drawing 200 000 triangles in software stalls a little; the work itself must not
  expect(longest).toBeLessThan(6000)

  await stop(page, 'Bones').click()
  const session = await page.context().newCDPSession(page)
  await session.send('Performance.enable')
  const chest = await centreOf(mark(page, 'chest'))
  const { x, y } = await centreOf(mark(page, 'leftElbow'))
  await page.mouse.move(x, y)
  await page.mouse.down()
  await page.mouse.move(x + 2, y)
  await page.waitForTimeout(400)
  // the bar holds at full speed; a machine that runs slower at the moment is given as much more
  const dragPace = await paceOf(page)
  const dragged = await costOfMoves(
    page,
    session,
    Array.from({ length: 10 }, (_, i) => ({ x: x + (i % 9), y: y - (i % 7) })),
  )
  await page.mouse.up()
  console.log(
    `landmark drag at 100 k vertices: ${dragged.toFixed(1)} ms of scripts, style and layout a move at pace ${dragPace.toFixed(2)}`,
  )
  expect(dragged).toBeLessThan(16 * dragPace)
  await settled(page)

  await stop(page, 'skin').click()
  await page.getByRole('radio', { name: 'Repair', exact: true }).click()
  await settled(page)
  await page.waitForTimeout(1500)
  await page.mouse.move(chest.x - 20, chest.y)
  await page.mouse.down()
  await page.mouse.move(chest.x - 19, chest.y)
  await page.waitForTimeout(600)
  const paintPace = await paceOf(page)
  const painted = await costOfMoves(
    page,
    session,
    Array.from({ length: 10 }, (_, i) => ({ x: chest.x - 18 + 3 * i, y: chest.y + (i % 5) * 3 })),
  )
  await page.mouse.up()
  console.log(
    `painting at 100 k vertices: ${painted.toFixed(1)} ms of scripts, style and layout a step at pace ${paintPace.toFixed(2)}`,
  )
  await settled(page)
  await expect(page.getByTestId('repair-count')).toHaveText('1', { timeout: 20_000 })
  expect(painted).toBeLessThan(16 * paintPace)
})
