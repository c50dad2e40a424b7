import {
  paceOf,
  leavesTravel,
  ROOT_SMOOTH,
  rootTake,
  travelFromFeet,
  type Pace,
  type Rooted,
  type RootSettings,
} from '../root-motion'
import { rootPath, type Played, type RootPath } from '../motion'
import { solesOf, type BodySurface } from '../surface'
import type { Corrected } from './correct'

/** Where a take goes on the figure. */
export interface Travelled {
  /** The sway of steps evened out; what is dropped from the take is still in it. */
  readonly path: RootPath
  readonly pace: Pace
  /** It stays in place while its feet go: the speed is told from them. */
  readonly inPlace: boolean
  /** Travel was asked for on a root joint, and there is none above the hips. */
  readonly noRoot?: boolean
}

/** What is known of a body on the ground. */
interface OnGround {
  /** How far the ground lies over its feet at rest. */
  readonly lift?: number
  /** Metres a unit of its skeleton is. */
  readonly unit?: number
  readonly surface?: BodySurface
}

/** The last stage on a body whose feet are known, and how far and fast it goes. */
export function travelOn(
  own: Played,
  root: RootSettings | undefined,
  { contacts, movingGround }: Pick<Corrected, 'contacts' | 'movingGround'>,
  { lift = 0, unit = 1, surface }: OnGround = {},
): { readonly rooted: Pick<Rooted, 'take' | 'moved'>; readonly travelled: Travelled } {
  const { skeleton, joints, frame, take } = own
  if (joints.hips === undefined) return { rooted: { take }, travelled: STAYS }
  const soles = solesOf(skeleton, joints, frame, surface?.outermost)
  const rooted = leavesTravel(root)
    ? { take, path: rootPath(own, ROOT_SMOOTH) }
    : rootTake(own, root!, { soles, contacts, lift, unit })
  const { path, noRoot } = { noRoot: undefined, ...rooted }
  const inPlace = movingGround !== undefined && !root?.fromFeet
  const pace = inPlace ? paceInPlace(own, soles, path, unit) : paceOf(take, path, unit)
  return { rooted, travelled: { path, pace, inPlace, ...(noRoot && { noRoot }) } }
}

/** How fast a body goes that stays in place, told from its feet. */
function paceInPlace(own: Played, soles: ReturnType<typeof solesOf>, path: RootPath, unit: number): Pace {
  const shift = travelFromFeet(own, soles)
  const n = own.take.frames
  const across = Float64Array.from({ length: n }, (_, f) => shift[2 * f])
  const ahead = Float64Array.from({ length: n }, (_, f) => shift[2 * f + 1])
  return paceOf(own.take, { ...path, across, ahead }, unit)
}

const NOWHERE = new Float64Array()
const STAYS: Travelled = {
  path: { across: NOWHERE, ahead: NOWHERE, height: NOWHERE, turn: NOWHERE },
  pace: { way: 0, straight: 0, speed: 0, turn: 0 },
  inPlace: false,
}
