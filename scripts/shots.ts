/** Retakes the pictures of docs/screenshots from the demo: `npm run shots`, or `npm run shots -- motion` for those whose names begin so. */
import { spawn } from 'node:child_process'
import { mkdirSync } from 'node:fs'
import { chromium, type Page } from '@playwright/test'
import config from '../playwright.config'

const PORT = '4872'
const OUT = 'docs/screenshots'
const address = `http://127.0.0.1:${PORT}/`

async function settled(page: Page): Promise<void> {
  await page.waitForSelector('[data-testid=workbench][data-ready=true]', { timeout: 60_000 })
  await page.waitForTimeout(900)
}
const stop = (page: Page, name: string): Promise<void> =>
  page.getByRole('navigation', { name: 'Route' }).getByRole('button', { name, exact: true }).click()

const sample = async (page: Page, id: string): Promise<void> => {
  await page.getByTestId(id).click()
  await page.waitForTimeout(300)
  await settled(page)
}

async function handles(page: Page, step: string): Promise<void> {
  await stop(page, 'Handles')
  await page.getByTestId('chart').waitFor({ timeout: 120_000 })
  await stop(page, step)
  await settled(page)
}
/** Pulls a handle by its line. */
async function pullHandle(page: Page, id: string, dx: number, dy: number): Promise<void> {
  const { x, y } = await page
    .locator(`[data-handle="${id}"] path`)
    .first()
    .evaluate((path: SVGPathElement) => {
      const p = path.getPointAtLength(0.3 * path.getTotalLength())
      const at = new DOMPoint(p.x, p.y).matrixTransform(path.getScreenCTM()!)
      return { x: at.x, y: at.y }
    })
  await page.mouse.move(x, y)
  await page.mouse.down()
  for (let i = 1; i <= 6; i++) await page.mouse.move(x + (dx * i) / 6, y + (dy * i) / 6)
  await page.waitForTimeout(300)
  await page.mouse.up()
  await settled(page)
}

/** Each main view, and the themes it is shown in. */
const VIEWS: Record<string, { themes: readonly ('day' | 'night')[]; go: (page: Page) => Promise<void> }> = {
  opening: {
    themes: ['day'],
    go: async page => {
      await page.getByTestId('projects').click()
      await page.getByTestId('new-project').click()
      await page.getByTestId('opening').waitFor()
      await page.waitForTimeout(500)
    },
  },
  shape: { themes: ['day'], go: async () => undefined },
  'bones-landmarks': {
    themes: ['day'],
    go: async page => {
      await stop(page, 'Bones')
      await page.locator('[data-ledger="leftElbow"]').click()
    },
  },
  'bones-hands': {
    themes: ['night'],
    go: async page => {
      await stop(page, 'Bones')
      await stop(page, 'hands')
      await page.locator('[data-ledger="leftIndexProximal"]').click()
    },
  },
  'bones-skeleton': {
    themes: ['day'],
    go: async page => {
      await sample(page, 'sample-reed')
      await stop(page, 'Bones')
      await stop(page, 'skeleton')
      await settled(page)
      await page.keyboard.press('2')
      await page.waitForTimeout(600)
      await page.locator('[data-ledger]', { hasText: 'neck 2' }).click()
      await page.getByLabel('Name of the chain').fill('plume')
      await page.getByTestId('draw-chain').click()
      const box = (await page
        .locator('[data-mark]')
        .filter({ has: page.locator('circle[r="9.5"]') })
        .first()
        .boundingBox())!
      for (const [dx, dy] of [
        [10, 6],
        [34, 30],
        [46, 66],
      ] as const)
        await page.mouse.click(box.x + box.width / 2 + dx, box.y + box.height / 2 + dy)
      await page.waitForTimeout(400)
    },
  },
  'skin-check': {
    themes: ['day'],
    go: async page => {
      await stop(page, 'Bones')
      await stop(page, 'skin')
      await page.getByRole('radio', { name: 'Check', exact: true }).click()
      await settled(page)
      await page.locator('[data-pose="leg-ahead"]').click()
      await page.keyboard.press('0')
      await page.waitForTimeout(9000)
    },
  },
  'motion-ground': {
    themes: ['day'],
    go: async page => {
      await stop(page, 'Motion')
      await page.locator('[data-take="brisk walk South"]').click()
      await settled(page)
      await stop(page, 'ground')
      await settled(page)
      await page.getByTestId('all-on-root').click()
      await settled(page)
      await page.getByTestId('add-root').click()
      await settled(page)
      await page.getByTestId('way').getByRole('radio', { name: 'Points' }).click()
      await settled(page)
      await page.getByTestId('way').getByRole('switch', { name: 'See all of it' }).click()
      await page.waitForTimeout(500)
      const box = (await page.locator('[data-way-point="0"]').boundingBox())!
      const [x, y] = [box.x + box.width / 2, box.y + box.height / 2]
      await page.mouse.move(x, y)
      await page.mouse.down()
      await page.mouse.move(x + 60, y + 10, { steps: 3 })
      await page.mouse.move(x + 110, y + 18, { steps: 3 })
      await page.mouse.up()
      await settled(page)
      const lane = (await page.getByTestId('lane').boundingBox())!
      await page.mouse.click(lane.x + lane.width * 0.55, lane.y + 30)
      await page.waitForTimeout(1200)
    },
  },
  'shape-light': {
    themes: ['day'],
    go: async page => {
      await stop(page, 'Shape')
      await stop(page, 'light')
      await page.getByTestId('make-light').click()
      await settled(page)
      await page.locator('[data-light-row="leftArm 1"]').click()
      await page.waitForTimeout(1500)
    },
  },
  'bones-face': {
    themes: ['day'],
    go: async page => {
      await stop(page, 'Bones')
      await stop(page, 'face')
      await page.getByRole('switch', { name: /Make them/ }).click()
      await settled(page)
      await page.waitForTimeout(6000)
      await page.locator('[data-expression="happy"]').click()
      await page.waitForTimeout(800)
    },
  },
  'motion-voice': {
    themes: ['night'],
    go: async page => {
      await stop(page, 'Bones')
      await stop(page, 'face')
      await page.getByRole('switch', { name: /Make them/ }).click()
      await settled(page)
      await stop(page, 'Motion')
      await page.locator('[data-take="point and talk North"]').click()
      await settled(page)
      await stop(page, 'voice')
      await page.getByTestId('sample-voice').click()
      await settled(page)
      await page.locator('[data-said="aa"]').nth(1).click()
      await page.waitForTimeout(1200)
    },
  },
  'handles-pose': {
    themes: ['day'],
    go: async page => {
      await handles(page, 'pose')
      await page.locator('[data-row="turn leftHand"]').click()
      await page.getByTestId('hold-place').getByRole('switch').click()
      await page.locator('[data-drive="rightHand end"]').click()
      await page.locator('[data-row="end rightHand"]').click()
      await pullHandle(page, 'end rightHand', 90, 150)
      await page.locator('aside[aria-label="Bench"]').evaluate(bench => bench.scrollTo(0, 0))
    },
  },
  'handles-mass': {
    themes: ['night'],
    go: async page => {
      await sample(page, 'sample-brindle')
      await handles(page, 'pose')
      await page.locator('[data-row="move hips"]').click()
      await pullHandle(page, 'move hips', 30, 70)
      await stop(page, 'mass')
      await page.locator('[data-row="turn head"]').click()
    },
  },
  'handles-props': {
    themes: ['day'],
    go: async page => {
      await handles(page, 'props')
      await page.locator('[data-offered="Signal lantern"]').click()
      await settled(page)
      await page.locator('[data-offered="Ferry pole"]').click()
      await settled(page)
    },
  },
  'motion-layer': {
    themes: ['day'],
    go: async page => {
      await handles(page, 'props')
      await page.locator('[data-offered="Ferry pole"]').click()
      await settled(page)
      await stop(page, 'Motion')
      await page.locator('[data-take="pole push North"]').click()
      await settled(page)
      await stop(page, 'layer')
      const lane = (await page.getByTestId('lane').boundingBox())!
      for (const [share, id, dx, dy] of [
        [0.2, 'hips', -10, 14],
        [0.5, 'hips', 26, 26],
        [0.35, 'head tip', -18, 14],
      ] as const) {
        await page.mouse.click(lane.x + lane.width * share, lane.y + 30)
        await page.waitForTimeout(700)
        const box = (await page.locator(`[data-handle="${id}"]`).boundingBox())!
        const [x, y] = [box.x + box.width / 2, box.y + box.height / 2]
        await page.mouse.move(x, y)
        await page.mouse.down()
        await page.mouse.move(x + dx / 2, y + dy / 2, { steps: 3 })
        await page.mouse.move(x + dx, y + dy, { steps: 3 })
        await page.mouse.up()
        await settled(page)
      }
      await page.getByTestId('channel').selectOption('move hips')
      await page.waitForTimeout(700)
    },
  },
  motion: {
    themes: ['day'],
    go: async page => {
      await sample(page, 'sample-pim')
      await stop(page, 'Motion')
      await page.locator('[data-take="fall back South"]').click()
      await settled(page)
      const lane = (await page.getByTestId('lane').boundingBox())!
      await page.mouse.click(lane.x + lane.width * 0.8, lane.y + 30)
      await page.waitForTimeout(1500)
    },
  },
  trial: {
    themes: ['night'],
    go: async page => {
      await stop(page, 'Trial')
      await page.getByTestId('speed-ruler').waitFor({ timeout: 60_000 })
      await page.keyboard.down('ArrowRight')
      await page.waitForTimeout(3200)
    },
  },
  'trial-states': {
    themes: ['day'],
    go: async page => {
      await stop(page, 'Trial')
      await page.getByTestId('speed-ruler').waitFor({ timeout: 60_000 })
      await stop(page, 'states')
      await page.keyboard.down('ArrowRight')
      await page.waitForTimeout(4200)
      await page.locator('[data-rule="stands > goes"]').click()
    },
  },
  'trial-crowd': {
    themes: ['day'],
    go: async page => {
      await stop(page, 'Trial')
      await page.getByTestId('speed-ruler').waitFor({ timeout: 60_000 })
      await stop(page, 'crowd')
      await page.getByTestId('crowd-placed').waitFor({ timeout: 60_000 })
      await page.waitForTimeout(7000)
    },
  },
  delivery: {
    themes: ['day'],
    go: async page => {
      await stop(page, 'Delivery')
      await page.getByTestId('deliver').click()
      await page.getByTestId('proof').waitFor({ timeout: 60_000 })
    },
  },
}

mkdirSync(OUT, { recursive: true })
const server = spawn(process.execPath, ['.output/server/index.mjs'], {
  stdio: 'ignore',
  env: { ...process.env, HOST: '127.0.0.1', NITRO_HOST: '127.0.0.1', PORT, NITRO_PORT: PORT },
})
const browser = await chromium.launch(config.use!.launchOptions)
try {
  for (let i = 0; i < 100; i++) {
    if (
      await fetch(`${address}api/health`).then(
        r => r.ok,
        () => false,
      )
    )
      break
    await new Promise(done => setTimeout(done, 100))
  }
  const wanted = process.argv[2] ?? ''
  for (const [name, { themes, go }] of Object.entries(VIEWS).filter(([view]) => view.startsWith(wanted))) {
    for (const theme of themes) {
      const page = await browser.newPage({
        viewport: { width: 1280, height: 800 },
        colorScheme: theme === 'day' ? 'light' : 'dark',
      })
      await page.goto(`${address}?sample=oda-marl`)
      await settled(page)
      await go(page)
      await settled(page)
      await page.mouse.move(900, 28)
      await page.screenshot({ path: `${OUT}/${name}-${theme}.png` })
      await page.close()
      console.log(`${OUT}/${name}-${theme}.png`)
    }
  }
} finally {
  await browser.close()
  server.kill()
}
