import { expect, type Page, type Worker } from '@playwright/test'
import { readFileSync } from 'node:fs'
import { CRAFTED } from '../loaders/test/crafted-files'
import { test } from './browser'
import { drag, drop, open, settled, stop } from './helpers'

const coreWorker = (page: Page): Worker => page.workers().find(w => /core\.worker/.test(w.url()))!

test('nothing is asked of the page or its workers that their policy forbids, and eval and other places are closed to both', async ({
  page,
}) => {
  const violations: string[] = []
  await page.exposeFunction('violated', (what: string) => violations.push(what))
  await page.addInitScript(() => {
    document.addEventListener('securitypolicyviolation', e => {
      void (window as unknown as { violated: (s: string) => void }).violated(`${e.violatedDirective} ${e.blockedURI}`)
    })
  })
  const errors = await open(page, 'pim')
  expect(violations).toEqual([])
  expect(errors).toEqual([])
  // evaluated later, when nothing of the test stands around it any more
  const tried = await coreWorker(page).evaluate(
    () =>
      new Promise<string[]>(resolve => {
        const seen: string[] = []
        addEventListener('securitypolicyviolation', e => seen.push((e as SecurityPolicyViolationEvent).effectiveDirective)) // prettier-ignore
        setTimeout(() => {
          try {
            seen.push(String(new Function('return "eval ran"')()))
          } catch {
            seen.push('eval refused')
          }
          fetch('http://example.invalid/').catch(() => setTimeout(() => resolve(seen), 100))
        }, 50)
      }),
  )
  expect(tried).toContain('eval refused')
  expect(tried).toContain('connect-src')
})

test('a worker that breaks, hangs or ends is put away and begun anew; the project is as it was', async ({ page }) => {
  await open(page, 'pim')
  await page.getByTestId('figure-name').click()
  await page.getByLabel("Figure's name").fill('Unharmed')
  await page.getByLabel("Figure's name").press('Enter')
  await stop(page, 'Bones').click()
  const name = page.getByTestId('figure-name')
  const notice = page.getByTestId('refusal')
  // it breaks while there is nothing to do
  await coreWorker(page).evaluate(() => {
    setTimeout(() => {
      throw new Error('broken by the test')
    }, 0)
  })
  await expect(notice).toContainText('ended unexpectedly and was begun anew')
  await settled(page)
  await expect(name).toHaveText('Unharmed')
  // it hangs in the middle of a change; Stop is there and works
  void coreWorker(page)
    .evaluate(() => {
      for (;;);
    })
    .catch(() => undefined)
  await drag(page, 'leftWrist', 12, 8)
  await page.getByRole('button', { name: 'Stop', exact: true }).first().click({ timeout: 20_000 })
  await expect(notice).toContainText('did not answer any more', { timeout: 20_000 })
  await page.getByRole('button', { name: 'Try once more' }).click()
  await settled(page)
  await expect(name).toHaveText('Unharmed')
  await page.getByTestId('undo').click()
  await settled(page)
})

test('hostile files are refused in words beside good ones, and reading can be stopped', async ({ page }) => {
  const errors = await open(page, 'pim')
  const before = await page.getByTestId('figure-name').textContent()
  for (const file of CRAFTED.filter(c => /\.(gltf|bvh|ply|fbx|dae)$/.test(c.name)).slice(0, 14)) {
    await drop(page, file.name, await file.make())
    await expect(page.getByTestId('refusal'), file.what).toContainText(/[a-z]{3}/, { timeout: 10_000 })
    await expect(page.getByTestId('refusal')).toContainText('unchanged')
    await page.getByTestId('dismiss').click()
  }
  // many at once, and a change of mind
  const take = readFileSync('public/demo/walk.south.bvh')
  await page.evaluate(data => {
    const t = new DataTransfer()
    const raw = Uint8Array.from(atob(data), c => c.charCodeAt(0))
    for (let i = 0; i < 300; i++) t.items.add(new File([raw], `take ${i}.bvh`))
    document.querySelector('[data-testid="workbench"]')!.dispatchEvent(new DragEvent('drop', { dataTransfer: t, bubbles: true })) // prettier-ignore
  }, take.toString('base64'))
  await page.getByTestId('stop-reading').click()
  await expect(page.getByTestId('refusal')).toContainText('stopped')
  await settled(page)
  expect(await page.getByTestId('figure-name').textContent()).toBe(before)
  expect(errors).toEqual([])
})
