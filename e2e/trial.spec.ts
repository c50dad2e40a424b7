import { expect, type Page } from '@playwright/test'
import { unzipSync } from 'fflate'
import { parseCrowd, parseStates } from '@chiraxis/core/trial'
import { test } from './browser'
import { bytesOf, centreOf, open, picture, settled, stop } from './helpers'

const amount = async (page: Page, row: string): Promise<number> =>
  Number(/([\d.]+)/.exec((await page.getByTestId('walk-state').locator('p', { hasText: row }).innerText()).replace(row, ''))![1]) // prettier-ignore
const speed = async (page: Page): Promise<number> =>
  Number(/([\d.]+)/.exec(await page.getByTestId('walk-speed').innerText())![1])
const step = (page: Page, name: string) => page.getByRole('navigation', { name: 'Route' }).getByRole('button', { name, exact: true }) // prettier-ignore
const inState = (page: Page) => page.getByTestId('walk-state-name')

async function toTrial(page: Page, sample?: string): Promise<string[]> {
  const errors = await open(page, sample)
  await stop(page, 'Trial').click()
  await settled(page)
  await expect(page.getByTestId('speed-ruler')).toBeVisible({ timeout: 90_000 })
  return errors
}

/** A tenth of a second of silence. */
function wav(): Buffer {
  const data = Buffer.alloc(44 + 8820)
  data.write('RIFF', 0)
  data.writeUInt32LE(36 + 8820, 4)
  data.write('WAVEfmt ', 8)
  for (const [at, bytes, value] of [
    [16, 4, 16],
    [20, 2, 1],
    [22, 2, 1],
    [24, 4, 44_100],
    [28, 4, 88_200],
    [32, 2, 2],
    [34, 2, 16],
  ] as const)
    // prettier-ignore
    data.writeUIntLE(value, at, bytes)
  data.write('data', 36)
  data.writeUInt32LE(8820, 40)
  return data
}

test('a figure is led by keys over every surface: it walks, runs, jumps, waves and stands, with its feet in place', async ({
  page,
}) => {
  const errors = await toTrial(page)
  await expect(page.locator('[data-share="lookout idle"]')).toContainText('100 %')
  const on = page.getByTestId('walk-surface')
  await expect(on).toHaveText('planks')

  // to the right into the mud, towards the eye onto shingle, to the left over the steps
  await page.keyboard.down('ArrowRight')
  await expect(page.locator('[data-share="walk"]')).toContainText('100 %', { timeout: 20_000 })
  await expect.poll(() => speed(page)).toBeCloseTo(1.29, 1)
  expect(await amount(page, 'Resting feet slide')).toBeLessThan(5)
  await expect(on).toHaveText('mud', { timeout: 30_000 })
  await page.keyboard.up('ArrowRight')
  await page.keyboard.down('KeyS')
  await expect(on).toHaveText('shingle', { timeout: 30_000 })
  await page.waitForTimeout(700)
  await page.keyboard.up('KeyS')
  await page.keyboard.down('KeyA')
  await expect(on).toContainText('m up', { timeout: 30_000 })
  await page.keyboard.up('KeyA')
  await expect(page.locator('[data-share="lookout idle"]')).toContainText('100 %', { timeout: 20_000 })
  for (const surface of ['planks', 'mud', 'shingle', 'stone'])
    await expect(page.getByTestId('walk-steps')).toContainText(surface)
  await expect(page.getByTestId('footprint').first()).toBeAttached()

  await page.keyboard.press('Space')
  await expect(page.locator('[data-share="hop ashore"]')).toContainText('100 %', { timeout: 20_000 })
  await expect(on).toContainText('in the air', { timeout: 20_000 })
  await expect(page.locator('[data-share="lookout idle"]')).toContainText('100 %', { timeout: 20_000 })
  await page.locator('[data-key="e"]').click()
  await expect(page.locator('[data-key="e"]')).toHaveClass(/keycap-on/)
  await expect(page.locator('[data-key="e"]')).not.toHaveClass(/keycap-on/, { timeout: 20_000 })

  // in a hurry it runs
  await page.keyboard.down('ArrowUp')
  await page.keyboard.down('Shift')
  await expect(page.locator('[data-share="run"]')).toContainText('100 %', { timeout: 20_000 })
  await page.keyboard.up('Shift')
  await page.keyboard.up('ArrowUp')

  // pressed beside itself it goes there, let go it stands
  await page.getByTestId('walk-home').click()
  await expect.poll(() => amount(page, 'From where it began')).toBe(0)
  const at = await centreOf(page.getByTestId('walk-plate'))
  await page.mouse.move(at.x - 200, at.y + 60)
  await page.mouse.down()
  await expect.poll(() => amount(page, 'From where it began'), { timeout: 20_000 }).toBeGreaterThan(1)
  await page.mouse.up()
  await expect.poll(() => speed(page), { timeout: 20_000 }).toBe(0)

  // without a take that stands it says what is missing
  for (const name of ['lookout idle', 'lantern idle', 'wave', 'clap', 'point and talk'])
    await page.locator(`[data-led="${name}"]`).uncheck()
  await expect(page.getByTestId('walk-lacks')).toContainText('stands', { timeout: 60_000 })
  expect(errors).toEqual([])
})

test('another figure takes its place under the same keys; a run is kept as a take', async ({ page }) => {
  const errors = await toTrial(page)
  const before = await picture(page, 'moving')
  for (const name of ['Pim', 'Pim, received']) {
    await page.getByLabel('Figure', { exact: true }).selectOption({ label: name })
    await settled(page)
    await expect(page.getByLabel('Figure', { exact: true }).locator('option:checked')).toHaveText(name)
    await expect(page.getByText('Takes are recorded of your own figure.')).toBeVisible({ timeout: 90_000 })
    await page.keyboard.down('ArrowRight')
    await expect(page.locator('[data-share="walk"]')).toContainText('100 %', { timeout: 20_000 })
    await page.keyboard.up('ArrowRight')
    await expect(inState(page)).toHaveText('stands', { timeout: 20_000 })
  }
  expect(await picture(page, 'moving')).not.toBe(before)
  await page.getByLabel('Figure', { exact: true }).selectOption({ label: 'Oda Marl' })

  // a sound of one's own; what is none is refused and changes nothing
  await page.getByText('Sounds of your own').click()
  await page.locator('[data-sound="mud"]').click()
  await page.getByTestId('sound-file').setInputFiles({ name: 'squelch.wav', mimeType: 'audio/wav', buffer: wav() })
  await expect(page.getByTestId('step-sounds')).toContainText('squelch.wav')
  await page.locator('[data-sound="planks"]').click()
  await page
    .getByTestId('sound-file')
    .setInputFiles({ name: 'no.wav', mimeType: 'audio/wav', buffer: Buffer.from('no') })
  await expect(page.getByRole('alert')).toContainText('no.wav is no sound')
  await expect(page.getByTestId('step-sounds')).not.toContainText('no.wav')
  await page.getByTestId('walk-record').click()
  await page.keyboard.down('ArrowRight')
  await expect(page.locator('[data-share="walk"]')).toContainText('100 %', { timeout: 20_000 })
  await page.keyboard.up('ArrowRight')
  await page.getByTestId('walk-keep').click()
  const notice = page.getByRole('alert').filter({ hasText: 'is kept as a take' })
  await expect(notice).toBeVisible({ timeout: 30_000 })
  await notice.getByTestId('notice-action').click()
  await settled(page)
  await expect(page.getByRole('button', { name: /run of \d/ }).first()).toBeVisible()
  expect(errors).toEqual([])
})

test('states: a changed rule acts, mistakes are told, the table is saved, taken back and read again', async ({
  page,
}) => {
  const errors = await toTrial(page)
  await step(page, 'states').click()
  const table = page.getByTestId('states-table')
  await expect(table.locator('[data-row="stands"]')).toHaveAttribute('data-lit', 'true')
  const led = async (): Promise<void> => {
    await page.keyboard.down('ArrowRight')
    await page.waitForTimeout(2500)
  }
  await led()
  await expect(table.locator('[data-row="goes"]')).toHaveAttribute('data-lit', 'true', { timeout: 20_000 })
  await page.keyboard.up('ArrowRight')
  await expect(page.getByTestId('told-strip')).toContainText('goes')
  await expect(table.locator('[data-row="stands"]')).toHaveAttribute('data-lit', 'true', { timeout: 20_000 })

  // a speed it never reaches: it stays where it is
  await table.locator('[data-rule="stands > goes"]').click()
  await page.getByTestId('rule-card').getByLabel('Than').fill('9')
  await page.getByTestId('rule-card').getByLabel('Than').press('Enter')
  await expect(table.locator('[data-rule="stands > goes"]')).toContainText('speed over 9 m/s')
  await page.getByRole('heading', { name: 'States' }).click()
  // where it faces already, so that no turn leads to it either
  await page.keyboard.down('ArrowRight')
  await page.waitForTimeout(1500)
  await expect(table.locator('[data-row="goes"]')).not.toHaveAttribute('data-lit', 'true')
  await page.keyboard.up('ArrowRight')

  // nothing leads to goes any more
  await page.getByTestId('remove-rule').click()
  for (const turn of ['turns left', 'turns right']) {
    await table.locator(`[data-rule="${turn} > goes"]`).click()
    await page.getByTestId('remove-rule').click()
  }
  await expect(page.locator('[data-fault="unreachable"]').filter({ hasText: 'Nothing leads to goes' })).toHaveCount(1)
  await table.locator('[data-empty="stands > goes"]').hover()
  await table.locator('[data-empty="stands > goes"]').click()
  await expect(page.locator('[data-fault="unreachable"]')).toHaveCount(0)
  await expect(table.locator('[data-rule="stands > goes"]')).toContainText('at its end')
  await page.getByTestId('add-condition').click()

  const [download] = await Promise.all([page.waitForEvent('download'), page.getByTestId('save-states').click()])
  const doc = parseStates(JSON.parse(new TextDecoder().decode(await bytesOf(download))))
  expect(doc.table.rules.at(-1)).toMatchObject({ from: 'stands', to: 'goes', when: [{ value: 'speed', is: 'over', than: 1 }] }) // prettier-ignore
  await page.getByTestId('states-anew').click()
  await expect(table.locator('[data-rule="turns left > goes"]')).toBeVisible()
  await page.getByTestId('states-file').setInputFiles({ name: 'own.states.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(doc)) }) // prettier-ignore
  await expect(table.locator('[data-rule="stands > goes"]')).toContainText('speed over 1 m/s')
  await page.getByTestId('states-file').setInputFiles({ name: 'broken.json', mimeType: 'application/json', buffer: Buffer.from('{"format":"chiraxis-states","version":9}') }) // prettier-ignore
  await expect(page.getByRole('alert')).toContainText('newer Chiraxis')
  await page.keyboard.press('Control+z')
  await expect(table.locator('[data-rule="turns left > goes"]')).toBeVisible()

  // a state of its own, by another name
  await page.getByTestId('add-state').click()
  await page.getByLabel('Name of the state').fill('looks about')
  await page.getByLabel('Name of the state').press('Enter')
  await expect(table.locator('[data-row="looks about"]')).toBeVisible()
  await expect(page.locator('[data-fault="unreachable"]')).toContainText('looks about')
  expect(errors).toEqual([])
})

test('sixty agents stand and walk, are counted and costed, and are saved as an open file with their figure', async ({
  page,
}) => {
  const errors = await toTrial(page)
  await step(page, 'crowd').click()
  await expect(page.getByTestId('crowd-placed')).toHaveText('60', { timeout: 60_000 })
  await expect(page.getByTestId('crowd-spent')).not.toContainText('–', { timeout: 60_000 })
  await expect.poll(async () => Number(await page.getByTestId('crowd-drawn').innerText())).toBeGreaterThan(3)
  const before = await picture(page, 'moving')
  await page.waitForTimeout(1500)
  expect(await picture(page, 'moving')).not.toBe(before)
  await expect(page.locator('[data-role="walk"]')).toBeVisible()
  const [download] = await Promise.all([
    page.waitForEvent('download', { timeout: 90_000 }),
    page.getByTestId('save-crowd').click(),
  ])
  const files = unzipSync(await bytesOf(download))
  expect(Object.keys(files).sort()).toEqual(['Oda Marl.glb', 'crowd.json'])
  const doc = parseCrowd(JSON.parse(new TextDecoder().decode(files['crowd.json'])))
  expect(doc.agents).toHaveLength(60)
  const json = new TextDecoder().decode(files['Oda Marl.glb']!.subarray(20, 20 + new DataView(files['Oda Marl.glb']!.buffer, files['Oda Marl.glb']!.byteOffset).getUint32(12, true))) // prettier-ignore
  const names = (JSON.parse(json) as { animations: { name: string }[] }).animations.map(a => a.name)
  expect(doc.kinds[0]!.clips.map(c => c.name)).toEqual(names)
  expect(errors).toEqual([])
})

test('a game pad leads too, and its first button jumps', async ({ page }) => {
  const errors = await toTrial(page)
  const pad = (x: number, y: number, pressed = false): Promise<void> =>
    page.evaluate(
      ([ax, ay, down]) => {
        const buttons = [{ pressed: down, touched: down, value: down ? 1 : 0 }]
        const gamepad = { id: 'pad', index: 0, connected: true, mapping: 'standard', axes: [ax, ay], buttons, timestamp: performance.now() } // prettier-ignore
        navigator.getGamepads = () => [gamepad] as never
        window.dispatchEvent(Object.assign(new Event('gamepadconnected'), { gamepad }))
      },
      [x, y, pressed] as const,
    )
  await pad(0.6, 0)
  await expect(page.locator('[data-share="walk"]')).toContainText('100 %', { timeout: 20_000 })
  await pad(0, 0)
  await expect(page.locator('[data-share="lookout idle"]')).toContainText('100 %', { timeout: 20_000 })
  await pad(0, 0, true)
  await expect(page.locator('[data-key="Space"]')).toHaveClass(/keycap-on/, { timeout: 20_000 })
  expect(errors).toEqual([])
})

test('a hound is led on four legs', async ({ page }) => {
  const errors = await toTrial(page, 'brindle')
  await expect(page.getByTestId('speed-ruler')).toContainText('hound walk', { timeout: 60_000 })
  await page.keyboard.down('ArrowUp')
  await expect.poll(() => amount(page, 'From where it began'), { timeout: 30_000 }).toBeGreaterThan(0.8)
  await page.keyboard.up('ArrowUp')
  expect(errors).toEqual([])
})
