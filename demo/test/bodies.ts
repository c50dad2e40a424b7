import { makeFigure, ODA, PIM, variedProportions, type MadeFigure, type Proportions } from '../src/figures'

const made = new Map<string, MadeFigure>()

/** A made body, made once a test run. */
export function body(name: string, proportions: Proportions, vertices = 5000): MadeFigure {
  const known = made.get(name)
  if (known) return known
  const figure = makeFigure(proportions, { vertices })
  made.set(name, figure)
  return figure
}

export const odaBody = (): MadeFigure => body('oda', ODA)
export const pimBody = (): MadeFigure => body('pim', PIM)

/** Seeds of bodies that were never looked at while the search was written. */
export const FRESH_SEEDS = Array.from({ length: 10 }, (_, i) => 3001 + 17 * i)
export const freshBody = (seed: number): MadeFigure => body(`seed ${seed}`, variedProportions(seed))
