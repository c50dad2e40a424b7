import { breather, ChiraxisError, partOf, type WorkOptions } from '../math'
import { closestOnSurface } from '../mesh'
import type { Skeleton } from '../skeleton'
import type { Skin } from '../skin'
import type { LightChoices } from './choices'
import type { Chart } from './complex'
import { embed, quadEdges, type QuadEdges } from './embed'
import { drawing, fit, mayLieOn } from './fit'
import { layoutFor, type Layout } from './layout'
import { underRobe } from './layout-biped'
import { limbsOfBody, withoutFingers, type LimbTree } from './limbs'
import type { SurfaceLineage } from './lineage'
import { loopsAtJoints, type JointLoops } from './loops'
import { measureLimbs, type MeasuredLimb } from './measured'
import { deviationOf, irregularOf, type Deviation } from './measures'
import { trianglesOf } from './quads'
import { targetOf, type Target } from './target'
import { untangle } from './untangle'

/** How good a light body came out. Lengths in metres. */
export interface LightReport {
  readonly quads: number
  /** Faces that are no quads. */
  readonly triangles: number
  readonly vertices: number
  readonly irregular: number
  /** From the light body to the sculpt. */
  readonly deviation: Deviation
  /** From the sculpt's flesh to the light body; what is hidden within the sculpt counts too. */
  readonly uncovered: Deviation
  /** Closed loops of edges around each bending joint. */
  readonly loops: readonly JointLoops[]
  /** Pairs of triangles that pass through each other. */
  readonly crossings: number
  /** Vertices that found no place on the sculpt. */
  readonly off: number
  /** Limbs that no place was found for, or that never part from what they hang on. */
  readonly told: readonly string[]
}

/** A surface of quads laid on a sculpt. */
export interface LightSurface {
  /** 3·V metres */
  readonly positions: Float32Array<ArrayBuffer>
  /** 4·Q, counter-clockwise seen from outside */
  readonly quads: Uint32Array
  /** Q: which limb drew each quad, among `limbs`. */
  readonly limbOf: Uint16Array
  readonly limbs: readonly string[]
  /** V: how far each vertex's neighbourhood is from the sculpt, metres. */
  readonly far: Float32Array
  readonly lineage: SurfaceLineage
  /** 3·Q and the charts its quads can be laid flat in. */
  readonly cellOf: Int32Array
  readonly charts: readonly Chart[]
  readonly report: LightReport
}

const SAMPLES = 20_000
/** More than this many times what was asked for is too many. */
const TOO_MANY = 1.08

/**
 * Makes a surface for moving from any sculpt whose limbs are known: tubes of quads along the limbs, joined where they part, laid on cuts through the sculpt,
 * drawn onto it, and taken apart where they cross.
 * @param flesh triangles to lay it on  @param height of the body, metres
 * @throws ChiraxisError `no-roles` where the skeleton tells no limbs, `bad-input` where no layout fits
 */
export async function makeLight(
  positions: Float32Array,
  flesh: Uint32Array,
  skeleton: Skeleton,
  skin: Skin,
  height: number,
  { quads: wanted, density }: LightChoices,
  work: WorkOptions = {},
): Promise<LightSurface> {
  const tree = limbsOfBody(skeleton)
  if (!tree)
    throw new ChiraxisError(
      'no-roles',
      'A light body is drawn along limbs, and this skeleton tells none: hips, a trunk and a neck or head are needed. Place the landmarks, or name the joints, first.',
    )
  if (flesh.length < 12) throw new ChiraxisError('no-triangles', 'There is no flesh on this body to lay a surface on.')
  const laidOut = async (of: LimbTree): Promise<{ target: Target; limbs: MeasuredLimb[]; layout: Layout }> => {
    const target = await targetOf(positions, flesh, skin, of.ofJoint, of.limbs.length, partOf(work, 0, 0.08))
    const limbs = await measureLimbs(target, of, height, partOf(work, 0.08, 0.2))
    return { target, limbs, layout: layoutFor(limbs, wanted, height, density) }
  }
  let laid = await laidOut(tree)
  const many = (): boolean => laid.layout.complex.quads.length / 4 > TOO_MANY * wanted
  const merged = many() && tree.limbs.some(l => l.kind === 'finger')
  // so few quads are not enough for fingers: hands are made as wholes
  if (merged) laid = await laidOut(withoutFingers(tree))
  const { target, limbs, layout } = laid
  const { quads, vertices } = layout.complex
  const edges = quadEdges(vertices, quads)
  const embedded = await embed(layout, limbs, target, edges, partOf(work, 0.2, 0.3))
  const draw = drawing(layout, limbs, target, edges, embedded)
  const on = await fit(draw, embedded.told, height, partOf(work, 0.3, 0.6))
  const crossings = await untangle(embedded, quads, edges, draw, on, height, partOf(work, 0.6, 0.9))
  const places = Float32Array.from(embedded.places)
  const { lineage, far } = await lineageOf(places, quads, layout, limbs, target, edges, partOf(work, 0.9, 0.95))
  const triangles = trianglesOf(places, quads)
  const told = [
    ...(merged ? ['so few quads leave fingers undivided'] : []),
    ...(many() ? ['fewer quads do not hold rings at every joint'] : []),
    ...limbs
      .filter(l => (l.kind === 'arm' || l.kind === 'leg') && !l.fourleg && !l.parting)
      .map(l => `${l.id} does not part from the trunk`),
    ...limbs
      .filter(l => !layout.plans.some(p => p.id === l.id) && !l.loose && !(l.kind === 'leg' && underRobe(limbs)))
      .map(l => `${l.id} found no room`),
  ]
  const pulse = breather(partOf(work, 0.95, 1))
  await pulse()
  const report: LightReport = {
    quads: quads.length / 4,
    triangles: 0,
    vertices,
    irregular: irregularOf(vertices, quads).length,
    deviation: await deviationOf({ positions: places, indices: triangles }, target.surface, SAMPLES),
    uncovered: await deviationOf({ positions, indices: flesh }, closestOnSurface(places, triangles), SAMPLES),
    loops: loopsAtJoints(layout, limbs, places),
    crossings,
    off: on.reduce((n, o) => n + (o ? 0 : 1), 0),
    told,
  }
  return {
    positions: places,
    quads,
    limbOf: layout.complex.tubeOf,
    limbs: layout.plans.map(p => p.id),
    far,
    lineage,
    cellOf: layout.complex.cellOf,
    charts: layout.complex.charts,
    report,
  }
}

/** Where every vertex lies on the sculpt: the nearest place of its own limb or of one next to it; and how far off its quads are. */
async function lineageOf(
  places: Float32Array,
  quads: Uint32Array,
  layout: Layout,
  limbs: readonly MeasuredLimb[],
  target: Target,
  edges: QuadEdges,
  work: WorkOptions,
): Promise<{ lineage: SurfaceLineage; far: Float32Array }> {
  const pulse = breather(work)
  const n = places.length / 3
  const count = limbs.length
  const may = mayLieOn(layout, limbs, edges, 0, true)
  const corners = new Uint32Array(3 * n)
  const shares = new Float32Array(3 * n)
  const far = new Float32Array(n)
  for (let v = 0; v < n; v++) {
    if ((v & 511) === 0) await pulse(v / n)
    const [x, y, z] = [places[3 * v], places[3 * v + 1], places[3 * v + 2]]
    const hit =
      target.surface.nearest(x, y, z, Infinity, f => may[v * count + target.limbOf[f]] === 1) ??
      target.surface.nearest(x, y, z)
    if (!hit) continue
    const own = [hit.a, hit.b, hit.c]
    for (let c = 0; c < 3; c++) {
      corners[3 * v + c] = target.indices[3 * hit.triangle + c]
      shares[3 * v + c] = own[c]
    }
    far[v] = target.surface.nearest(x, y, z)?.distance ?? 0
  }
  // the middle of a quad is farther off than its corners: each corner shows the farthest of its quads
  const middle = new Float32Array(n)
  for (let q = 0; q < quads.length; q += 4) {
    const p = [0, 1, 2].map(
      c =>
        (places[3 * quads[q] + c] +
          places[3 * quads[q + 1] + c] +
          places[3 * quads[q + 2] + c] +
          places[3 * quads[q + 3] + c]) /
        4,
    )
    const d = target.surface.nearest(p[0], p[1], p[2])?.distance ?? 0
    for (let c = 0; c < 4; c++) if (d > middle[quads[q + c]]) middle[quads[q + c]] = d
  }
  for (let v = 0; v < n; v++) if (middle[v] > far[v]) far[v] = middle[v]
  return { lineage: { corners, shares }, far }
}
