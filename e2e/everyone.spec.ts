import AxeBuilder from '@axe-core/playwright'
import { expect, type Page } from '@playwright/test'
import { test } from './browser'
import { open, settled } from './helpers'

/** What stands in the way of people who see, hear or reach less, by the rules of the open guidelines. */
async function wrong(page: Page, where: string, rules?: string[]): Promise<string[]> {
  const builder = new AxeBuilder({ page }).options({ resultTypes: ['violations'] })
  const { violations } = await (rules ? builder.withRules(rules) : builder).analyze()
  return violations
    .filter(v => v.impact !== 'minor')
    .map(v => `${where}: ${v.id} (${v.impact}) ${v.nodes.slice(0, 3).map(n => n.target.join(' ')).join(' | ')}`) // prettier-ignore
}

const PHASES = ['Shape', 'Bones', 'Handles', 'Motion', 'Trial', 'Delivery']

/** Steps each phase has at least. */
const STEPS: Readonly<Record<string, number>> = { Shape: 4, Bones: 8, Handles: 4, Motion: 9, Trial: 3, Delivery: 1 }

for (const phase of PHASES)
  test(`every step of ${phase} is open to everyone, in both themes`, async ({ page }) => {
    // colours are looked at as they end, not on their way
    await page.emulateMedia({ reducedMotion: 'reduce' })
    await open(page, 'tolly')
    const route = page.getByRole('navigation', { name: 'Route' })
    const found: string[] = []
    let seen = 0
    await route.getByRole('button', { name: phase, exact: true }).click()
    await settled(page)
    const steps = await route.locator('ol').nth(1).getByRole('button').allTextContents()
    for (const step of steps.length > 0 ? steps.map(s => s.trim()) : [phase]) {
      if (step !== phase) await route.getByRole('button', { name: step, exact: true }).click()
      await settled(page)
      seen++
      found.push(...(await wrong(page, `${step}, Day`)))
    }
    // the same words on the other theme's grounds
    await page.getByTestId('theme').click()
    found.push(...(await wrong(page, `${phase}, Night`, ['color-contrast'])))
    await page.getByTestId('theme').click()
    expect(seen).toBeGreaterThanOrEqual(STEPS[phase]!)
    expect(found).toEqual([])
  })

test('what opens over the work is open to everyone, and gives the focus back', async ({ page }) => {
  await page.goto('/')
  const found: string[] = []
  await expect(page.getByTestId('opening')).toBeVisible()
  found.push(...(await wrong(page, 'opening')))
  await open(page, 'pim')
  const presses: [string, string][] = [
    ['projects', 'projects'],
    ['findings', 'findings'],
  ]
  for (const [id, where] of presses) {
    await page.getByTestId(id).focus()
    await page.keyboard.press('Enter')
    await page.waitForTimeout(400)
    found.push(...(await wrong(page, where)))
    await page.keyboard.press('Escape')
    await expect(page.getByTestId(id), where).toBeFocused()
  }
  for (const [key, where] of [
    ['Control+k', 'palette'],
    ['Shift+?', 'help'],
  ] as const) {
    // prettier-ignore
    await page.getByTestId('undo').focus()
    await page.getByTestId('theme').focus()
    await page.keyboard.press(key)
    await expect(page.getByRole('dialog')).toHaveCount(1)
    found.push(...(await wrong(page, where)))
    await page.keyboard.press('Escape')
    await expect(page.getByTestId('theme'), where).toBeFocused()
  }
  expect(found).toEqual([])
})
