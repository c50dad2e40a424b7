import { rotate, rotateAt, timesAt } from '../math'
import type { Played } from '../motion'
import { clearOf, surelyFar, thicknessAt, type LimbRadii, type BodyRadii } from '../surface'
import { forwardKinematics, waysTo, worldPoseBuffer } from '../skeleton'
import { SIDES } from '../body'

/** Arms are looked at this often. */
const LOOKS_A_SECOND = 15
/** Arms farther off than this are not measured closer, metres. */
export const SEEN = 0.3

const BODY = ['hips', 'spine', 'chest', 'upperChest', 'leftUpperLeg', 'rightUpperLeg', 'head'] as const
/** Places along each part of an arm that must stay outside the body, as shares of its bone, and how much of its thickness counts there: flesh of the upper arm lies against the chest on any body. */
const PLACES: readonly (readonly [string, readonly (readonly [share: number, counts: number])[]])[] = [
  [
    'UpperArm',
    [
      [0.8, 0.5],
      [1, 0.75],
    ],
  ],
  [
    'LowerArm',
    [
      [0.33, 1],
      [0.67, 1],
      [1, 1],
    ],
  ],
  [
    'Hand',
    [
      [0.5, 1],
      [1.2, 1],
    ],
  ],
]

type Side = (typeof SIDES)[number]

/** An arm as it was seen: places told from the shoulder, in world axes. */
export interface Arm {
  readonly shoulder: number
  /** Samples, and how thick the arm is at each. */
  readonly radii: Float64Array
  /** Per look: the shoulder, then 3 numbers a sample from there. */
  readonly places: Float64Array
  /** Per look: world turn of what the arm hangs on. */
  readonly hung: Float64Array
}

/** A take as it was looked at, in flat tables: parts of the body and both arms. */
export interface Seen {
  readonly played: Played
  readonly count: number
  /** Frames between two looks. */
  readonly step: number
  readonly parts: readonly LimbRadii[]
  /** Per look and part: world to table axes, 9 numbers row by row; where the part's joint is, 3; the middle of its table, 3. */
  readonly frames: Float64Array
  readonly arms: Readonly<Record<Side, Arm | undefined>>
}
const FRAME = 15

/** Goes through a take once and writes down where the parts of the body and both arms are. */
export function sampleArms(played: Played, radii: BodyRadii): Seen {
  const { skeleton, joints, take } = played
  const parts = BODY.flatMap(role => (radii[role] ? [radii[role]] : []))
  const J = skeleton.names.length
  const step = Math.max(1, Math.round(take.fps / LOOKS_A_SECOND))
  const count = Math.ceil((take.frames - 1) / step) + 1
  const samples = SIDES.map(side =>
    PLACES.flatMap(([part, shares]) => {
      const limb: LimbRadii | undefined = radii[side + part]
      if (!limb || joints[side + part] === undefined) return []
      return shares.map(([share, counts]) => ({
        joint: limb.joint,
        offset: rotate(limb.axes, [0, share * limb.bone, 0]),
        radius: counts * thicknessAt(limb, share),
      }))
    }),
  )
  const arms = SIDES.map((side, i): Arm | undefined => {
    const shoulder = joints[`${side}UpperArm`]
    if (shoulder === undefined || samples[i].length === 0 || parts.length === 0) return undefined
    return {
      shoulder,
      radii: Float64Array.from(samples[i], s => s.radius),
      places: new Float64Array(count * 3 * (1 + samples[i].length)),
      hung: new Float64Array(4 * count),
    }
  })
  const frames = new Float64Array(count * parts.length * FRAME)
  const ways = waysTo(skeleton, [
    ...arms.map(a => a?.shoulder),
    ...samples.flatMap(list => list.map(s => s.joint)),
    ...parts.map(p => p.joint),
  ])
  const pose = worldPoseBuffer(J)
  const P = pose.positions,
    R = pose.rotations
  const offsets = samples.map(list => Float64Array.from(list.flatMap(s => s.offset)))
  const sampleJoints = samples.map(list => Int32Array.from(list, s => s.joint))
  const axes = Float64Array.from(parts.flatMap(p => [...p.axes]))
  const table = new Float64Array(4)
  for (let i = 0; i < count; i++) {
    forwardKinematics(
      skeleton.parents,
      ways,
      take.translations,
      take.rotations,
      Math.min(take.frames - 1, i * step) * J,
      pose,
    )
    for (let k = 0; k < parts.length; k++) {
      timesAt(table, 0, R, 4 * parts[k].joint, axes, 4 * k)
      writeFrame(
        frames,
        FRAME * (i * parts.length + k),
        P,
        3 * parts[k].joint,
        table,
        (parts[k].low + parts[k].high) / 2,
      )
    }
    for (let a = 0; a < 2; a++) {
      const arm = arms[a]
      if (!arm) continue
      const s = 3 * arm.shoulder,
        list = sampleJoints[a],
        n = list.length
      let o = 3 * i * (1 + n)
      const sx = P[s],
        sy = P[s + 1],
        sz = P[s + 2]
      arm.places[o] = sx
      arm.places[o + 1] = sy
      arm.places[o + 2] = sz
      for (let m = 0; m < n; m++) {
        o += 3
        const p = 3 * list[m]
        rotateAt(arm.places, o, R, 4 * list[m], offsets[a][3 * m], offsets[a][3 * m + 1], offsets[a][3 * m + 2])
        arm.places[o] += P[p] - sx
        arm.places[o + 1] += P[p + 1] - sy
        arm.places[o + 2] += P[p + 2] - sz
      }
      const above = skeleton.parents[arm.shoulder]
      for (let c = 0; c < 4; c++) arm.hung[4 * i + c] = above < 0 ? (c === 3 ? 1 : 0) : R[4 * above + c]
    }
  }
  return { played, count, step, parts, frames, arms: { left: arms[0], right: arms[1] } }
}

/** World to table axes as a matrix, the joint's place, and the middle of the table. */
function writeFrame(out: Float64Array, o: number, P: Float64Array, p: number, q: Float64Array, middle: number): void {
  const x = q[0],
    y = q[1],
    z = q[2],
    w = q[3]
  out[o] = 1 - 2 * (y * y + z * z)
  out[o + 1] = 2 * (x * y + w * z)
  out[o + 2] = 2 * (x * z - w * y)
  out[o + 3] = 2 * (x * y - w * z)
  out[o + 4] = 1 - 2 * (x * x + z * z)
  out[o + 5] = 2 * (y * z + w * x)
  out[o + 6] = 2 * (x * z + w * y)
  out[o + 7] = 2 * (y * z - w * x)
  out[o + 8] = 1 - 2 * (x * x + y * y)
  out[o + 9] = P[p]
  out[o + 10] = P[p + 1]
  out[o + 11] = P[p + 2]
  // the table's own y axis in the world is its middle row
  out[o + 12] = P[p] + middle * out[o + 3]
  out[o + 13] = P[p + 1] + middle * out[o + 4]
  out[o + 14] = P[p + 2] + middle * out[o + 5]
}

/** Where an arm is nearest to the body: how far off, which of its places, and the way out from there. */
export interface Nearest {
  clear: number
  sample: number
  x: number
  y: number
  z: number
}

/** The place of an arm that is nearest to the body, and the way out from there in world axes; nothing farther than `limit` is looked for. */
export function nearestPlace(
  out: Nearest,
  { parts, frames }: Seen,
  i: number,
  arm: Arm,
  at: number,
  places: Float64Array,
  limit: number,
): void {
  const { radii } = arm
  const sx = arm.places[at],
    sy = arm.places[at + 1],
    sz = arm.places[at + 2]
  let least = limit,
    sample = 0,
    part = -1
  for (let k = 0; k < parts.length; k++) {
    const o = FRAME * (i * parts.length + k)
    const limb = parts[k]
    const { reach } = limb
    const cx = sx - frames[o + 12],
      cy = sy - frames[o + 13],
      cz = sz - frames[o + 14]
    const px = sx - frames[o + 9],
      py = sy - frames[o + 10],
      pz = sz - frames[o + 11]
    const yx = frames[o + 3],
      yy = frames[o + 4],
      yz = frames[o + 5]
    for (let m = 0; m < radii.length; m++) {
      const x = places[3 * m],
        y = places[3 * m + 1],
        z = places[3 * m + 2]
      // what is farther than the whole of this part cannot be nearest
      const far = reach + radii[m] + least
      const dx = cx + x,
        dy = cy + y,
        dz = cz + z
      if (far <= 0 || dx * dx + dy * dy + dz * dz >= far * far) continue
      const qx = px + x,
        qy = py + y,
        qz = pz + z
      const ty = yx * qx + yy * qy + yz * qz
      if (surelyFar(limb, ty, qx * qx + qy * qy + qz * qz - ty * ty, least + radii[m])) continue
      const clear =
        clearOf(
          limb,
          frames[o] * qx + frames[o + 1] * qy + frames[o + 2] * qz,
          ty,
          frames[o + 6] * qx + frames[o + 7] * qy + frames[o + 8] * qz,
        ) - radii[m]
      if (clear >= least) continue
      least = clear
      sample = m
      part = k
    }
  }
  out.clear = least
  if (part < 0) return
  const o = FRAME * (i * parts.length + part)
  const qx = sx + places[3 * sample] - frames[o + 9],
    qy = sy + places[3 * sample + 1] - frames[o + 10],
    qz = sz + places[3 * sample + 2] - frames[o + 11]
  const tx = frames[o] * qx + frames[o + 1] * qy + frames[o + 2] * qz,
    tz = frames[o + 6] * qx + frames[o + 7] * qy + frames[o + 8] * qz
  const r = Math.sqrt(tx * tx + tz * tz)
  const ux = r > 1e-6 ? tx / r : 1,
    uz = r > 1e-6 ? tz / r : 0
  out.sample = sample
  out.x = frames[o] * ux + frames[o + 6] * uz
  out.y = frames[o + 1] * ux + frames[o + 7] * uz
  out.z = frames[o + 2] * ux + frames[o + 8] * uz
}

/**
 * Joints of the parts of the body whose tables a place of an arm is nearer to than `room`.
 * @returns how near it is to the nearest
 */
export function partsNear(
  out: number[],
  { parts, frames }: Seen,
  i: number,
  arm: Arm,
  at: number,
  places: Float64Array,
  m: number,
  room: number,
): number {
  out.length = 0
  let nearest = Infinity
  const within = room + arm.radii[m]
  for (let k = 0; k < parts.length; k++) {
    const o = FRAME * (i * parts.length + k)
    const limb = parts[k]
    const qx = arm.places[at] + places[3 * m] - frames[o + 9],
      qy = arm.places[at + 1] + places[3 * m + 1] - frames[o + 10],
      qz = arm.places[at + 2] + places[3 * m + 2] - frames[o + 11]
    const ty = frames[o + 3] * qx + frames[o + 4] * qy + frames[o + 5] * qz
    if (surelyFar(limb, ty, qx * qx + qy * qy + qz * qz - ty * ty, within)) continue
    const clear = clearOf(
      limb,
      frames[o] * qx + frames[o + 1] * qy + frames[o + 2] * qz,
      ty,
      frames[o + 6] * qx + frames[o + 7] * qy + frames[o + 8] * qz,
    )
    if (clear >= within) continue
    out.push(limb.joint)
    nearest = Math.min(nearest, clear - arm.radii[m])
  }
  return nearest
}
