import { add, ChiraxisError, rotate, scale, sub, type Quat, type Vec3 } from '../math'
import type { FaceSolution } from '../voice'
import { fitShapes } from './fit-shapes'
import { FACE_LANDMARKS, type FaceLandmarkId } from './landmark'

/** Points of a performer's face over time, by name; the first frame shows it at rest. */
export interface FacePoints {
  readonly fps: number
  readonly frames: number
  readonly names: readonly string[]
  /** 3·P·N, in any unit and place; not a number where a point was not seen. */
  readonly positions: Float32Array
}

/** Fewer points than these tell no face. */
const LEAST = 6
/** Places that go with the skull. */
const STILL = /EyeInner|EyeOuter|noseTip|noseBase|Ear|JawHinge/

const plain = (name: string): string => name.toLowerCase().replace(/[^a-z]/g, '')
const IDS = new Map(FACE_LANDMARKS.map(id => [plain(id), id]))

/**
 * How strongly a figure's shapes show for its face to do what points on a performer's face do. The performer's head at rest is laid on
 * the figure's by turn, size and place, what the head does as a whole is taken off, and what is left is fitted.
 * @param places where the places of the figure's face are at rest
 * @param shapes how far each shape moves those places, by name
 * @throws ChiraxisError `bad-input` where too few points are places of a face
 */
export function solveFromPoints(
  points: FacePoints,
  places: Readonly<Partial<Record<FaceLandmarkId, Vec3>>>,
  shapes: ReadonlyMap<string, Readonly<Partial<Record<FaceLandmarkId, Vec3>>>>,
): FaceSolution {
  const { names, frames, fps, positions } = points
  const pairs = names.flatMap((name, p) => {
    const id = IDS.get(plain(name))
    return id && places[id] ? [{ p, id, at: places[id] }] : []
  })
  if (pairs.length < LEAST)
    throw new ChiraxisError(
      'bad-input',
      `Of ${names.length} points only ${pairs.length} are named after places of a face; at least ${LEAST} are needed.`,
    )
  const point = (f: number, p: number): Vec3 => {
    const i = 3 * (f * names.length + p)
    return [positions[i], positions[i + 1], positions[i + 2]]
  }
  const seen = (v: Vec3): boolean => v.every(Number.isFinite)
  const first = pairs.filter(({ p }) => seen(point(0, p)))
  const laid = similarity(first.map(({ p }) => point(0, p)), first.map(c => c.at), true) // prettier-ignore
  const rest = Float32Array.from(pairs.flatMap(c => c.at))
  const own = pairs.map(({ p, at }) => ({ from: point(0, p), at }))
  const moved = new Float32Array(3 * pairs.length * frames)
  for (let f = 0; f < frames; f++) {
    const skull = pairs.flatMap(({ p, id }, i) => {
      const now = point(f, p)
      return STILL.test(id) && seen(now) && seen(own[i].from) ? [{ now, rest: own[i].from }] : []
    })
    const back =
      skull.length >= 3
        ? similarity(skull.map(s => s.now), skull.map(s => s.rest), false) // prettier-ignore
        : undefined
    pairs.forEach(({ p, at }, i) => {
      const now = point(f, p)
      const still = back ? back(now) : now
      // a place of the figure goes by what the performer's went, not to where it is
      const to = add(at, sub(laid(still), laid(own[i].from)))
      moved.set(to, 3 * (f * pairs.length + i))
    })
  }
  const list = [...shapes]
  const weights = fitShapes(
    rest,
    list.map(([, of]) => Float32Array.from(pairs.flatMap(({ id }) => of[id] ?? [0, 0, 0]))),
    { fps, frames, positions: moved },
  )
  return { fps, frames, tracks: list.map(([name], i) => ({ name, values: weights[i] })) }
}

/**
 * The turn, place and, where wished, size that bring some points onto others (Horn, Closed-form solution of absolute orientation using
 * unit quaternions, 1987).
 */
function similarity(from: readonly Vec3[], to: readonly Vec3[], sized: boolean): (p: Vec3) => Vec3 {
  const middle = (list: readonly Vec3[]): Vec3 => scale(list.reduce(add, [0, 0, 0] as Vec3), 1 / list.length)
  const [a, b] = [middle(from), middle(to)]
  const S = new Float64Array(9)
  let [wide, wider] = [0, 0]
  from.forEach((p, i) => {
    const [u, v] = [sub(p, a), sub(to[i], b)]
    for (let r = 0; r < 3; r++) for (let c = 0; c < 3; c++) S[3 * r + c] += u[r] * v[c]
    wide += u[0] ** 2 + u[1] ** 2 + u[2] ** 2
    wider += v[0] ** 2 + v[1] ** 2 + v[2] ** 2
  })
  const [xx, xy, xz, yx, yy, yz, zx, zy, zz] = S
  const N = [
    [xx + yy + zz, yz - zy, zx - xz, xy - yx],
    [yz - zy, xx - yy - zz, xy + yx, zx + xz],
    [zx - xz, xy + yx, yy - xx - zz, yz + zy],
    [xy - yx, zx + xz, yz + zy, zz - xx - yy],
  ]
  // the largest eigenvalue's vector, its matrix shifted so that no other is as far from nothing
  const shift = N.reduce(
    (m, row) =>
      Math.max(
        m,
        row.reduce((s, v) => s + Math.abs(v), 0),
      ),
    1e-12,
  )
  let q = [1, 0.1, 0.05, 0.02]
  for (let k = 0; k < 400; k++) {
    const next = N.map((row, i) => row.reduce((s, v, j) => s + v * q[j], 0) + shift * q[i])
    const l = Math.hypot(...(next as [number, number, number, number])) || 1
    q = next.map(v => v / l)
  }
  const turn: Quat = [q[1], q[2], q[3], q[0]]
  const size = sized ? Math.sqrt(wider / Math.max(1e-18, wide)) : 1
  return p => add(b, scale(rotate(turn, sub(p, a)), size))
}
