import { ChiraxisError } from '../math'
import { LIGHT_LIMITS, type LightPart } from './choices'
import { buildComplex, sidesOf, type QuadComplex, type TubePlan } from './complex'
import { extraLimbs } from './layout-extras'
import { fourlegTubes } from './layout-fourleg'
import { bipedTubes } from './layout-biped'
import type { MeasuredLimb } from './measured'
import type { Cut } from './sections'
import { mod } from './whole'

/** How a light body is put together, and where its rings are cut. */
export interface Layout {
  readonly plans: readonly TubePlan[]
  readonly complex: QuadComplex
  /** For each limb and ring the cut it lies on; undefined where the ring lies between limbs and is filled in. */
  readonly cuts: ReadonlyMap<string, readonly (Cut | undefined)[]>
  /** For each limb the place around that looks against its `deep`; it may lie between two. */
  readonly facing: ReadonlyMap<string, number>
}

/** How much finer than everything else a part is. */
export type Density = Readonly<Partial<Record<LightPart, number>>>

/**
 * The layout whose number of quads is nearest to what is asked for: the length of edges is searched for first, then how far
 * rings stand apart.
 * @throws ChiraxisError `bad-input` for numbers no body can be made of
 */
export function layoutFor(
  limbs: readonly MeasuredLimb[],
  quads: number,
  height: number,
  density: Density = {},
): Layout {
  if (!(quads >= LIGHT_LIMITS.fewest && quads <= LIGHT_LIMITS.most))
    throw new ChiraxisError('bad-input', `A light body has from ${LIGHT_LIMITS.fewest} to ${LIGHT_LIMITS.most} quads.`)
  let low = Math.log(0.0008 * height),
    high = Math.log(0.12 * height)
  let best: Layout | undefined
  let edge = 0.01 * height
  const off = (l: Layout): number => Math.abs(l.complex.quads.length / 4 - quads)
  const keep = (l: Layout, e: number): void => {
    if (best && off(l) >= off(best)) return
    best = l
    edge = e
  }
  for (let i = 0; i < 16; i++) {
    const e = Math.exp((low + high) / 2)
    const layout = layoutOf(limbs, e, 1, height, density)
    if (layout) keep(layout, e)
    if (layout && layout.complex.quads.length / 4 > quads) low = Math.log(e)
    else high = Math.log(e)
  }
  let tight = 0.5,
    wide = 2
  const around = edge
  for (let i = 0; i < 10; i++) {
    const apart = (tight + wide) / 2
    const layout = layoutOf(limbs, around, apart, height, density)
    if (layout) keep(layout, around)
    if (layout && layout.complex.quads.length / 4 > quads) tight = apart
    else wide = apart
  }
  if (!best) throw new ChiraxisError('bad-input', 'No layout of quads fits this body.')
  return best
}

/** Where the tubes of a body are planned: what each of its parts adds to. */
export interface Tubes {
  readonly plans: TubePlan[]
  readonly cuts: Map<string, (Cut | undefined)[]>
  readonly facing: Map<string, number>
}
/** Lengths wanted of the edges of a part, metres: around a limb, and along it. */
export interface Wanted {
  around(part: keyof Density): number
  along(part: keyof Density): number
}

/** A layout with edges of about a length; undefined where that is too long for the body. @param apart how far rings stand apart against that length */
function layoutOf(
  limbs: readonly MeasuredLimb[],
  edge: number,
  apart: number,
  height: number,
  density: Density,
): Layout | undefined {
  const tubes: Tubes = { plans: [], cuts: new Map(), facing: new Map() }
  const wanted: Wanted = {
    around: part => edge / (density[part] ?? 1),
    along: part => (edge * apart) / (density[part] ?? 1),
  }
  if (limbs.some(l => l.kind === 'leg' && l.fourleg)) fourlegTubes(limbs, wanted, height, tubes)
  else bipedTubes(limbs, wanted, height, tubes)
  extraLimbs(limbs, wanted, tubes)
  try {
    // the seam lies across from what a limb shows: at the back of trunk, legs and head, below arms and fingers
    const plans = tubes.plans.map(plan => {
      const kind = limbs.find(l => l.id === plan.id)?.kind
      const n = sidesOf(plan)
      const away = kind === 'arm' || kind === 'finger' || kind === 'thumb' ? 0 : n / 2
      return { ...plan, seam: mod((tubes.facing.get(plan.id) ?? 0) + away, n) }
    })
    return { plans, complex: buildComplex(plans), cuts: tubes.cuts, facing: tubes.facing }
  } catch (problem) {
    if (problem instanceof ChiraxisError) return undefined
    throw problem
  }
}
