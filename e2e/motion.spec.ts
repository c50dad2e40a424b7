import { expect } from '@playwright/test'
import { test } from './browser'
import { strFromU8, unzipSync } from 'fflate'
import type { Manifest } from '@chiraxis/core/delivery'
import { writeBvh } from '@chiraxis/core/formats'
import { MOVES, NORTH, record } from '@chiraxis/demo/takes'
import { bytesOf, centreOf, drop, open, picture, settled, stop } from './helpers'

test('a role map and a rest match are corrected by hand and kept with the performer', async ({ page }) => {
  const errors = await open(page)
  await stop(page, 'Motion').click()
  await stop(page, 'map').click()
  await settled(page)
  await expect(page.getByTestId('roles-played')).toHaveText('52 of 52')
  await page.locator('[data-role="leftToes"]').click()
  await expect(page.getByTestId('played-by')).toHaveValue('north:LeftToes')
  await page.getByTestId('played-by').selectOption('')
  await settled(page)
  await expect(page.getByTestId('roles-played')).toHaveText('51 of 52')
  await expect(page.getByRole('heading', { name: /^Unmapped \d/ })).toBeVisible()
  // a press on the performer's joint gives it the role
  const joint = await centreOf(page.locator('[data-performer-joint="north:LeftToes"]'))
  await page.mouse.click(joint.x, joint.y)
  await settled(page)
  await expect(page.getByTestId('roles-played')).toHaveText('52 of 52')
  await page.getByTestId('undo').click()
  await settled(page)

  await stop(page, 'match').click()
  await page.locator('[data-role="leftUpperArm"]').click()
  await expect(page.getByTestId('match-reset')).toBeDisabled()
  const handle = await centreOf(page.getByTestId('match-handle'))
  await page.mouse.move(handle.x, handle.y)
  await page.mouse.down()
  for (let i = 1; i <= 4; i++) await page.mouse.move(handle.x, handle.y - 10 * i)
  await page.mouse.up()
  await settled(page)
  await expect(page.getByTestId('match-reset')).toBeEnabled()
  await expect(page.getByText('1 by hand')).toBeVisible()
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /Match leftUpperArm by hand/)
  // every take on the same skeleton uses both
  await stop(page, 'takes').click()
  await page.locator('[data-take="wave North"]').click()
  await settled(page)
  await stop(page, 'match').click()
  await expect(page.getByText('1 by hand')).toBeVisible()
  await stop(page, 'map').click()
  await expect(page.getByTestId('roles-played')).toHaveText('51 of 52')
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Save', exact: true }).click(),
  ])
  expect(JSON.parse(new TextDecoder().decode(await bytesOf(file)))).toMatchObject({
    chiraxisPerformer: 1,
    name: 'North',
    map: { leftToes: '' },
    restTurns: { leftUpperArm: expect.any(Array) as unknown },
  })
  await page.getByRole('button', { name: 'Reset' }).click()
  await settled(page)
  await page.getByTestId('load-performer').setInputFiles({
    name: 'north.performer.json',
    mimeType: 'application/json',
    buffer: Buffer.from(await bytesOf(file)),
  })
  await settled(page)
  await expect(page.getByTestId('roles-played')).toHaveText('51 of 52')
  await page
    .getByTestId('load-performer')
    .setInputFiles({ name: 'x.json', mimeType: 'application/json', buffer: Buffer.from('{}') })
  await expect(page.getByRole('alert')).toContainText('role map')
  expect(errors).toEqual([])
})

test('a take is tuned on the moving figure, trimmed by dragging, and compared with its performer', async ({ page }) => {
  await open(page)
  await stop(page, 'Motion').click()
  await stop(page, 'tune').click()
  await settled(page)
  // arms are looked at on the skinned surface; more room than the performer kept is given where it is asked for
  await expect(page.getByTestId('arm-room')).toContainText(/cm → /)
  const room = page.getByRole('slider', { name: 'Arms off the body by' })
  await room.focus()
  for (let i = 0; i < 8; i++) await room.press('ArrowRight')
  await settled(page)
  await expect(page.getByTestId('arm-room')).toContainText(/→ \d\.\d cm/)
  const before = await picture(page)
  await page.getByRole('switch', { name: 'Mirror left and right' }).click()
  await settled(page)
  await expect.poll(async () => (await picture(page)) !== before).toBe(true)
  const end = await centreOf(page.getByTestId('trim-end'))
  await page.mouse.move(end.x, end.y)
  await page.mouse.down()
  await page.mouse.move(end.x - 200, end.y)
  await page.mouse.up()
  await settled(page)
  await expect(page.getByTestId('clock')).toContainText(/of 3\.\d\d/)
  await page.getByTestId('fps').selectOption('60')
  await settled(page)
  await expect(page.getByText('· 60/s')).toBeVisible()
  await expect(page.getByText('tuned')).toBeVisible()
  await page.getByTestId('as-recorded').click()
  await settled(page)
  await expect(page.getByTestId('clock')).toContainText('of 4.33')
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /as recorded/)

  // the wheel zooms into the lanes, and a press there goes to what is shown
  const lane = (await page.getByTestId('lane').boundingBox())!
  await page.mouse.move(lane.x + lane.width / 2, lane.y + 60)
  await page.mouse.wheel(0, -600)
  await expect(page.getByTestId('whole-take')).toBeVisible()
  await page.mouse.click(lane.x + 2, lane.y + 60)
  await expect(page.getByTestId('clock')).toContainText(/^1\.[5-9]/)
  await page.getByTestId('whole-take').click()

  await stop(page, 'compare').click()
  await expect(page.getByRole('button', { name: /upper arm/ }).first()).toBeVisible()
  await page.getByTestId('worst-moment').first().click()
  await expect(page.getByTestId('frame')).not.toHaveText('0')
  await page.getByRole('radio', { name: 'Places' }).click()
  await expect(page.getByText('Left hand', { exact: true }).last()).toBeVisible()
  const [saved] = await Promise.all([page.waitForEvent('download'), page.getByTestId('save-page').click()])
  expect(new TextDecoder().decode(await bytesOf(saved))).toContain('north:LeftUpperArm')
  // without elbow room nothing is turned away but what feet need
  await stop(page, 'tune').click()
  await page.getByRole('switch', { name: 'Elbow room' }).click()
  await settled(page)
  await stop(page, 'compare').click()
  await expect(page.getByTestId('worst-moment').first()).toBeVisible()
  await expect(page.getByRole('button', { name: /upper arm/ })).toHaveCount(0)
})

test('many takes are carried over at once, stopped, resumed and saved, here and on the server', async ({ page }) => {
  await open(page, 'pim')
  await stop(page, 'Motion').click()
  await stop(page, 'batch').click()
  await expect(page.getByTestId('batch-start')).toBeDisabled()
  await page.getByTestId('all-South').click()
  const call = async (pattern: string): Promise<void> => {
    await page.getByTestId('pattern').fill(pattern)
    await page.keyboard.press('Enter')
  }
  await call('{nobody}')
  await expect(page.getByRole('alert')).toContainText('{nobody}')
  await call('{figure}-{take}')
  await expect(page.getByText('Pim-crouched-walk.glb')).toBeAttached()
  await page.getByTestId('batch-start').click()
  // it is told beside the route wherever one is
  await stop(page, 'takes').click()
  await expect(page.getByTestId('batch-progress')).toContainText('of 27')
  await page.getByTestId('batch-progress').click()
  await expect(page.getByTestId('batch-state')).not.toHaveText(/^0 of/, { timeout: 60_000 })
  await page.getByTestId('batch-stop').click()
  await expect(page.getByTestId('batch-start')).toBeVisible({ timeout: 20_000 })
  // what was done is done after a reload too
  const before = (await page.getByTestId('batch-state').textContent())!
  await page.reload()
  await settled(page)
  await stop(page, 'Motion').click()
  await stop(page, 'batch').click()
  await expect(page.getByTestId('batch-state')).toHaveText(before.trim())
  await page
    .getByTestId('batch-start')
    .click({ timeout: 5000 })
    .catch(() => undefined)
  await expect(page.getByTestId('batch-state')).toHaveText('27 of 27 done', { timeout: 150_000 })
  const [archive] = await Promise.all([page.waitForEvent('download'), page.getByTestId('batch-save').click()])
  const here = unzipSync(await bytesOf(archive))
  expect(Object.keys(here)).toHaveLength(28)
  const manifest = JSON.parse(strFromU8(here['manifest.json']!)) as Manifest
  expect(manifest.files.map(f => f.name).sort()).toEqual(
    Object.keys(here)
      .filter(n => n !== 'manifest.json')
      .sort(),
  )
  expect(manifest.files.every(f => (f.proof as { validatorErrors: number }).validatorErrors === 0)).toBe(true)
  const walk = manifest.takes.find(t => t.name === 'walk')!
  expect([walk.figure, walk.performer]).toEqual(['Pim', 'South'])
  expect(walk.contacts.length).toBeGreaterThan(4)
  expect(walk.cues.length).toBeGreaterThan(4)

  // a recording that cannot be carried is told, the rest goes on
  await drop(
    page,
    'stump.bvh',
    new TextEncoder().encode(
      'HIERARCHY\nROOT a\n{\nOFFSET 0 0 0\nCHANNELS 3 Xrotation Yrotation Zrotation\nEnd Site\n{\nOFFSET 0 1 0\n}\n}\nMOTION\nFrames: 2\nFrame Time: 0.03\n0 0 0\n0 0 1\n',
    ),
  )
  await settled(page)
  await stop(page, 'batch').click()
  await page.getByTestId('all-own file').click()
  await page.getByTestId('batch-anew').click()
  await expect(page.getByTestId('batch-state')).toHaveText('0 of 28 done')
  await page.getByRole('radio', { name: 'On the server' }).click()
  await page.getByTestId('batch-start').click()
  await expect(page.getByTestId('batch-state')).toHaveText('27 of 28 done, 1 failed', { timeout: 150_000 })
  const [second] = await Promise.all([page.waitForEvent('download'), page.getByTestId('batch-save').click()])
  const there = unzipSync(await bytesOf(second))
  for (const name of ['Pim-jig.glb', 'Pim-walk.glb'])
    expect(Buffer.compare(Buffer.from(there[name]!), Buffer.from(here[name]!))).toBe(0)

  // another profile makes other files of the same takes, proven as well
  await page.getByTestId('batch-profile').selectOption('BVH: Y up, centimetres, 30 frames')
  await expect(page.getByTestId('batch-state')).toHaveText(/^0 of 28 done/)
  await page.getByTestId('all-own file').click()
  await page.getByTestId('batch-start').click()
  await expect(page.getByTestId('batch-state')).toHaveText('27 of 27 done', { timeout: 150_000 })
  const [third] = await Promise.all([page.waitForEvent('download'), page.getByTestId('batch-save').click()])
  const bvh = unzipSync(await bytesOf(third))
  expect(strFromU8(bvh['Pim-walk.bvh']!).startsWith('HIERARCHY')).toBe(true)
})

test('a hound is offered takes on four legs, with a lane for each paw, and those on two legs are refused in words', async ({
  page,
}) => {
  const errors = await open(page, 'brindle')
  await stop(page, 'Motion').click()
  await settled(page)
  await expect(page.locator('[data-take="hound walk North"]')).toHaveClass(/font-semibold/)
  await expect(page.locator('[data-take="walk North"]')).toHaveCount(0)
  for (const paw of ['Left front', 'Right front', 'Left hind', 'Right hind'])
    await expect(page.getByTestId('score').getByText(paw)).toBeVisible()
  await expect(
    page
      .getByTestId('score')
      .getByTitle(/ rests, /)
      .nth(8),
  ).toBeVisible()
  const before = await picture(page)
  await page.locator('[data-take="hound sit South"]').click()
  await settled(page)
  await page.getByTestId('lane').click({ position: { x: 500, y: 30 } })
  await expect.poll(async () => (await picture(page)) !== before).toBe(true)
  await stop(page, 'map').click()
  await expect(page.getByTestId('roles-played')).toHaveText('30 of 32')
  await page.locator('[data-role="rightHindToes"]').click()
  await expect(page.getByTestId('played-by')).toHaveValue('ball.R')
  await stop(page, 'tune').click()
  await expect(page.getByRole('switch', { name: 'Elbow room' })).toHaveCount(0)
  await stop(page, 'takes').click()
  await page.getByTestId('takes-for-others').click()
  await page.locator('[data-take="wave North"]').click()
  await expect(page.getByText(/performer on two/)).toBeVisible()
  expect(errors).toEqual([])
})

test('files of several takes and of a humanoid of any make are brought in, and a trimmed end catches on a step', async ({
  page,
}) => {
  await open(page, 'tolly')
  for (const name of ['gestures.north.glb', 'walk.north.vrma']) {
    await drop(page, name, new Uint8Array(await (await page.request.get(`/demo/${name}`)).body()))
    await settled(page)
  }
  // a file of several takes is a performer of its own
  for (const take of ['wave', 'point and talk', 'jig'])
    await expect(page.locator(`[data-take="${take} gestures.north"]`)).toBeVisible()
  await expect(page.locator('[data-take="walk own file"]')).toBeVisible()
  await expect(page.getByText('0.0 cm/s')).toBeVisible()
  await stop(page, 'tune').click()
  const end = await centreOf(page.getByTestId('trim-end'))
  const steps = await page
    .getByTestId('score')
    .getByTitle('foot rests')
    .evaluateAll(all => all.map(e => e.getBoundingClientRect().right).sort((a, b) => b - a))
  const step = steps.find(x => x < end.x - 40)!
  await page.mouse.move(end.x, end.y)
  await page.mouse.down()
  await page.mouse.move(step + 30, end.y)
  await expect(page.getByTestId('caught')).toHaveCount(0)
  await page.mouse.move(step + 3, end.y)
  await expect(page.getByTestId('caught')).toBeVisible()
  await page.mouse.up()
  await settled(page)
  await expect(page.getByTestId('caught')).toHaveCount(0)
})

test('a pose for measuring is told and left out by one press, and one take is corrected otherwise than all', async ({
  page,
}) => {
  const errors = await open(page, 'tolly')
  const { skeleton, take } = record(
    MOVES.find(m => m.name === 'treadmill walk')!,
    NORTH,
  )
  // the rest pose stands before the first frame, as recording systems leave it there
  const rotations = new Float32Array([...skeleton.restRotations, ...take.rotations])
  const translations = new Float32Array([
    ...take.translations.subarray(0, skeleton.restTranslations.length),
    ...take.translations,
  ])
  await drop(page, 'measured.bvh', writeBvh(skeleton, { ...take, frames: take.frames + 1, rotations, translations }))
  await settled(page)
  await expect(page.getByTestId('calibration')).toContainText('a pose for measuring')
  await expect(page.getByTestId('on-the-spot')).toBeVisible()
  await expect(page.getByText('unknown', { exact: true })).toBeVisible()
  await page.getByTestId('calibration').getByRole('button', { name: 'Leave it out' }).click()
  await settled(page)
  await expect(page.getByTestId('calibration')).toHaveCount(0)
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /Leave out the pose for measuring/)
  await page.getByTestId('undo').click()
  await settled(page)
  await expect(page.getByTestId('calibration')).toBeVisible()

  await stop(page, 'tune').click()
  const limits = page.getByRole('switch', { name: "Joints turn no farther than a body's" })
  await page.getByRole('switch', { name: 'Set this for this take alone' }).click()
  await expect(page.getByText('of this take', { exact: false }).first()).toBeVisible()
  await limits.click()
  await settled(page)
  await expect(limits).not.toBeChecked()
  await page.locator('[data-take="walk South"]').click()
  await settled(page)
  await expect(limits).toBeChecked()
  await expect(page.getByRole('switch', { name: 'Set this for this take alone' })).not.toBeChecked()
  expect(errors).toEqual([])
})

test('contacts are removed and added by hand, and a stretch is corrected in its own way', async ({ page }) => {
  const errors = await open(page)
  await stop(page, 'Motion').click()
  await page.locator('[data-take="walk South"]').click()
  await stop(page, 'tune').click()
  await settled(page)
  const runs = page.getByTestId('run-left')
  const found = await runs.count()
  expect(found).toBeGreaterThan(2)
  const words = page.getByTestId('chosen-contact')

  // a press on a contact chooses it, the key removes it
  const second = await centreOf(runs.nth(1))
  await page.mouse.click(second.x, second.y)
  await expect(words).toContainText('Left foot rests')
  await page.keyboard.press('Delete')
  await settled(page)
  await expect(runs).toHaveCount(found - 1)
  await expect(page.getByTestId('told-contact')).toHaveText(/Left foot rests.*removed/)
  await expect(page.getByTestId('undo')).toHaveAttribute('title', /Remove contact, left foot rests/)

  // over a stretch of the score it is told to rest again
  const lane = (await page.getByTestId('lane').boundingBox())!
  await page.keyboard.down('Shift')
  await page.mouse.move(second.x - 20, lane.y + 30)
  await page.mouse.down()
  await page.mouse.move(second.x, lane.y + 30)
  await page.mouse.move(second.x + 20, lane.y + 30)
  await page.mouse.up()
  await page.keyboard.up('Shift')
  await expect(page.getByTestId('stretch')).toBeVisible()
  await page.getByTestId('contact-kind').selectOption({ label: 'Left foot rests' })
  await page.getByTestId('add-contact').click()
  await settled(page)
  await expect(runs).toHaveCount(found)
  await expect(page.getByTestId('told-contact')).toHaveCount(2)

  // and the same stretch is corrected otherwise
  await expect(page.getByTestId('corrects')).toContainText(' to ')
  const limits = page.getByRole('switch', { name: "Joints turn no farther than a body's" })
  await expect(limits).toBeChecked()
  await limits.click()
  await settled(page)
  await expect(limits).not.toBeChecked()
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('stretch')).toHaveCount(0)
  await expect(limits).toBeChecked()
  await expect(page.getByTestId('stretches')).toContainText('in its own way')
  await page.getByRole('button', { name: 'Correct as the rest' }).click()
  await settled(page)
  await expect(page.getByTestId('stretches')).not.toContainText('in its own way')
  for (let i = 0; i < 4; i++) {
    await page.getByTestId('undo').click()
    await settled(page)
  }
  await expect(page.getByTestId('told-contact')).toHaveCount(0)
  await expect(runs).toHaveCount(found)
  expect(errors).toEqual([])
})
