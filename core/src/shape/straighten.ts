import {
  AXIS_VECTORS as AXES,
  type AxisName,
  breather,
  cross,
  dot,
  nearestAxis,
  normalize,
  partOf,
  scale,
  sub,
  type Vec3,
  type WorkOptions,
} from '../math'
import { transformMesh, type Mesh } from '../mesh'
import { sampleSurface } from './sample-surface'
import { withoutSlightPieces } from './slight-pieces'
import { looksAhead } from './facing'
import { framed, isLong } from './framed'
import { placeBody, type Placed, type StraightenChoice } from './placing'
import { standingOf } from './standing'

/** What is known of a file beside its shape. */
export interface StraightenHints extends StraightenChoice {
  /** The axis that the file's format asks to be up: a hint, as not every file keeps to it. */
  readonly specifiedUp?: AxisName
}

export interface StraightenOptions extends WorkOptions {
  /**
   * How badly a body that stands and looks ahead fits what figures are, as squares of misfits over their spreads; undefined where no
   * figure is found. Asked both ways round, and only where the surface leaves a doubt which way it looks.
   */
  readonly misfit?: (upright: Pick<Mesh, 'positions' | 'indices'>, work: WorkOptions) => Promise<number | undefined>
}

/** How a received body was brought upright, and how likely each guess is to be right (0..1). */
export interface Straightened extends Placed {
  /** Mirror error as a share of size. */
  readonly asymmetry: number
  readonly confidence: { readonly up: number; readonly facing: number; readonly unit: number }
}

/**
 * Guesses up, facing, unit, ground and midline of a figure from its shape: it mirrors about its midline, its legs part
 * at the lower end, its trunk is broad, its feet point ahead.
 * What is already right is left untouched, so that a well-made file keeps its coordinates.
 */
export async function straighten(
  mesh: Mesh,
  choice: StraightenHints = {},
  { misfit, ...work }: StraightenOptions = {},
): Promise<Straightened> {
  const pulse = breather(work)
  await pulse(0)
  // what is held or hangs about a body does not tell how it stands
  const flesh = await withoutSlightPieces(mesh, work)
  const points = sampleSurface(flesh.positions, flesh.indices, 5000)
  await pulse(0.1)
  const told = choice.up ? AXES[choice.up] : undefined
  const specified = choice.specifiedUp && AXES[choice.specifiedUp]
  const standing = await standingOf(points, { told, specified }, partOf(work, 0.1, 0.7))
  const { up, lateral } = standing
  const seen = framed(points, up, lateral, standing.offset)
  const stands = { ...standing, tall: seen.tall }
  const ahead = cross(lateral, up)
  const put = (forward: Vec3): Placed => placeBody(flesh, stands, forward, choice)
  const settled = choice.facing && facingTold(AXES[choice.facing], up, ahead)
  let [forward, facingChance] = [settled ?? ahead, 1]
  if (!settled) {
    let odds = facingOdds(looksAhead(seen), nearestAxis(ahead), nearestAxis(up))
    if (misfit && !isLong(seen) && Math.abs(odds) < CLEAR) {
      const fits = async (way: Vec3, from: number): Promise<number | undefined> =>
        misfit(transformMesh({ ...flesh, parts: [] }, put(way).matrix), partOf(work, from, from + 0.1))
      const [so, back] = [await fits(ahead, 0.7), await fits(scale(ahead, -1), 0.8)]
      if (so !== undefined && back !== undefined) odds += FIGURE * Math.min(MOST, Math.max(-MOST, back - so))
    }
    // nothing tells: the side that looks along a plus axis of the file
    if (Math.abs(odds) < NOTHING ? nearestAxis(ahead)[0] === '-' : odds < 0) forward = scale(ahead, -1)
    facingChance = 1 / (1 + Math.exp(-Math.abs(odds)))
  }
  await pulse(0.9)
  const placed = put(forward)
  const { height } = placed
  const sized = choice.unit ?? choice.scale ?? choice.height
  return {
    ...placed,
    asymmetry: standing.error,
    confidence: {
      up: told ? 1 : standing.upChance,
      facing: facingChance,
      unit: sized !== undefined ? 1 : height > 0.4 && height < 2.6 ? 0.9 : 0.4,
    },
  }
}

/** The way to look that somebody settled: that side of the midline, or, where it is at right angles to it, that way; undefined for up and down. */
function facingTold(wanted: Vec3, up: Vec3, ahead: Vec3): Vec3 | undefined {
  if (Math.abs(dot(wanted, up)) >= 0.7) return undefined
  if (Math.abs(dot(wanted, ahead)) > 0.5) return dot(wanted, ahead) > 0 ? ahead : scale(ahead, -1)
  return normalize(sub(wanted, scale(up, dot(wanted, up))))
}

/** Where bodies look in files by their up axis. */
const USUAL_FACING: Readonly<Partial<Record<AxisName, AxisName>>> = { '+y': '+z', '+z': '-y' }
/**
 * Logarithms of odds: of what the surface shows, of the usual way in files, and of how much better a figure fits one
 * way than the other, up to a most; from a logistic fit on 407 made bodies, 155 of them in robes and coats. Clear odds are not looked into further.
 */
const SHOWN = 3
const USUAL_WEIGHT = 0.5
const FIGURE = 0.45
const MOST = 6
const CLEAR = 2.6
/** Odds that tell nothing. */
const NOTHING = 0.3

/** How likely a body looks ahead rather than back, as the logarithm of the odds. */
function facingOdds(shown: number, way: AxisName, up: AxisName): number {
  const usual = USUAL_FACING[up]
  return SHOWN * shown + (way === usual ? USUAL_WEIGHT : way[1] === usual?.[1] ? -USUAL_WEIGHT : 0)
}

/** The received body brought upright, in metres. */
export function applyStraighten(mesh: Mesh, straightened: Pick<Straightened, 'matrix'>): Mesh {
  return transformMesh(mesh, straightened.matrix)
}
