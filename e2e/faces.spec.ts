import { expect } from '@playwright/test'
import { test } from './browser'
import { bytesOf, centreOf, open, settled, stop } from './helpers'
import { readGltf } from '@chiraxis/core/formats'

test('a figure gets the expressions it lacks, is told where its face is, and speaks', async ({ page }) => {
  test.setTimeout(240_000)
  await open(page, 'oda-marl')
  await stop(page, 'Bones').click()
  await settled(page)
  await stop(page, 'face').click()
  await settled(page)

  // what the body came with is shown by name, in pictures of its own face
  await expect(page.locator('[data-expression][data-has]')).toHaveCount(3)
  await expect(page.locator('[data-expression="happy"] img')).toBeVisible({ timeout: 20_000 })
  await expect(page.getByTestId('missing')).toContainText('14 expressions have no shape yet')
  await page.getByRole('switch', { name: 'Make them from the places of the face' }).click()
  await settled(page)
  await expect(page.getByTestId('missing')).toContainText('None is missing', { timeout: 30_000 })
  await expect(page.locator('[data-expression][data-has]')).toHaveCount(17)
  await page.locator('[data-expression="blink"]').click()
  await expect(page.getByTestId('expression')).toContainText('Blink')

  // a place is dragged, and its partner goes along
  const row = (id: string) => page.locator(`[data-face-row="${id}"]`)
  const at = await centreOf(page.locator('[data-face-mark="leftMouthCorner"]'))
  await page.mouse.move(at.x, at.y)
  await page.mouse.down()
  await page.mouse.move(at.x + 4, at.y + 2, { steps: 3 })
  await page.mouse.up()
  await settled(page)
  await expect(row('leftMouthCorner')).toContainText('hand')
  await expect(row('rightMouthCorner')).toContainText('hand')
  await page.getByRole('button', { name: 'Undo' }).click()
  await settled(page)
  await expect(row('leftMouthCorner')).not.toContainText('hand')

  // the voice that ships: heard, corrected, undone
  await stop(page, 'Motion').click()
  await settled(page)
  await stop(page, 'voice').click()
  await settled(page)
  await page.getByTestId('sample-voice').click()
  await settled(page)
  const said = page.locator('[data-said]')
  await expect(said.first()).toBeVisible({ timeout: 30_000 })
  const before = await said.evaluateAll(list => list.map(b => b.getAttribute('data-said')).join(' '))
  expect(before.match(/closed/g)!.length).toBeGreaterThan(2)
  await page.locator('[data-said="oh"]').first().click()
  await page.getByTestId('said-shape').selectOption('ou')
  await settled(page)
  await expect(page.getByTestId('hear-again')).toBeVisible()
  await page.getByTestId('hear-again').click()
  await settled(page)
  await expect(page.getByTestId('hear-again')).toHaveCount(0)
  expect(await said.evaluateAll(list => list.map(b => b.getAttribute('data-said')).join(' '))).toBe(before)
  await page.getByRole('button', { name: 'Whisper' }).click()
  await settled(page)
  await expect(page.getByRole('button', { name: 'Whisper' })).toHaveAttribute('aria-pressed', 'true')

  // what is no sound is refused and changes nothing
  await page
    .getByTestId('voice-file')
    .setInputFiles({ name: 'no.wav', mimeType: 'audio/wav', buffer: Buffer.from('none') })
  await expect(page.getByTestId('voice-refused')).toContainText('This is no WAV file')
  await expect(page.getByTestId('voice-refused')).toContainText('unchanged')

  // it plays along with its sound
  await page.getByTestId('play').click()
  await page.waitForTimeout(400)
  await page.getByTestId('play').click()

  // body and face go out together
  await stop(page, 'Delivery').click()
  await settled(page)
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByTestId('deliver').click()])
  const read = await readGltf(await bytesOf(download))
  const walk = read.takes.find(t => t.scalars?.some(s => s.name === 'oh' && s.values.some(v => v > 0.3)))
  expect(walk).toBeDefined()
  expect(read.mesh!.morphs!.map(m => m.name)).toEqual(expect.arrayContaining(['happy', 'blink', 'ou', 'lookLeft']))
})
