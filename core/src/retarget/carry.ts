import {
  breather,
  conjugate,
  quatAt,
  rotate,
  timesAt,
  type WorkOptions,
  multiply,
  scale,
  setQuat,
  setVec3,
  vec3At,
} from '../math'
import { besideOf, type Beside, type Take } from '../motion'
import { worldPose, worldPoseBuffer } from '../skeleton'
import type { TransferPlan } from './prepare'
import { carrySlides } from './slide'
import type { Travel } from './travel'

/** Frames between two breaths. */
const CHUNK = 512
/** Frames carried joint by joint. */
const NEAR = 32

/** Carries a take over a prepared pair of skeletons. */
export async function carry(plan: TransferPlan, take: Take, travel: Travel, work: WorkOptions = {}): Promise<Take> {
  const pulse = breather(work)
  const { figureSkeleton } = plan
  const F = figureSkeleton.names.length
  const rotations = new Float32Array(4 * F * take.frames)
  const translations = new Float32Array(3 * F * take.frames)
  // what nobody plays stays at rest; every frame starts as the one rest frame
  if (plan.follow.includes(undefined)) repeat(rotations, figureSkeleton.restRotations)
  repeat(translations, figureSkeleton.restTranslations)
  carrySlides(plan, take, translations, travel.scale)
  const series = turnSeries(plan.world.t)
  for (let f = 0; f < take.frames; f += CHUNK) {
    await pulse(f / take.frames)
    carryFrames(plan, take, rotations, series, f, Math.min(take.frames, f + CHUNK))
  }
  const carried: Take = {
    name: take.name,
    fps: take.fps,
    frames: take.frames,
    rotations,
    translations,
    ...besideCarried(plan, take, travel),
  }
  placeHips(plan, take, carried, travel)
  return carried
}

/** The hot loop, flat arrays only; apart from the waiting above it, which would keep it from being compiled well. */
function carryFrames(
  plan: TransferPlan,
  take: Take,
  rotations: Float32Array,
  series: Float64Array,
  first: number,
  end: number,
): void {
  const { direct, world } = plan
  const P = plan.performerSkeleton.names.length
  const F = plan.figureSkeleton.names.length
  const source = take.rotations
  const { joints: singleJoints, from: singles, matrices } = plan.single
  const nSingle = singleJoints.length
  const nDirect = direct.joints.length
  const { joints, from, to, path, constants } = direct
  const scratch: WorldScratch | undefined =
    world.joints.length > 0
      ? {
          pw: new Float64Array(4 * P * NEAR),
          fw: new Float64Array(4 * F * NEAR),
          other: new Float64Array(4),
          root: Float64Array.from(plan.toFigure),
          constants: world.constants,
        }
      : undefined
  // joint by joint over a few frames, so that a joint's sixteen numbers stay at hand and the frames in the nearest cache
  for (let f = first; f < end; f += NEAR) {
    const stop = Math.min(end, f + NEAR)
    for (let i = 0; i < nSingle; i++)
      carryOne(
        source,
        rotations,
        matrices,
        16 * i,
        4 * (f * P + singles[i]),
        4 * P,
        4 * (f * F + singleJoints[i]),
        4 * F,
        stop - f,
      )
    if (scratch) carryThroughWorld(plan, source, rotations, series, f, stop - f, scratch)
  }
  if (nDirect === 0) return
  for (let f = first; f < end; f++) {
    const base = f * P
    const out = f * F
    for (let i = 0; i < nDirect; i++) {
      const c = 8 * i
      let x = constants[c],
        y = constants[c + 1],
        z = constants[c + 2],
        w = constants[c + 3]
      for (let k = from[i]; k < to[i]; k++) {
        const r = 4 * (base + path[k])
        const bx = source[r],
          by = source[r + 1],
          bz = source[r + 2],
          bw = source[r + 3]
        const nx = w * bx + x * bw + y * bz - z * by
        const ny = w * by - x * bz + y * bw + z * bx
        const nz = w * bz + x * by - y * bx + z * bw
        w = w * bw - x * bx - y * by - z * bz
        x = nx
        y = ny
        z = nz
      }
      const bx = constants[c + 4],
        by = constants[c + 5],
        bz = constants[c + 6],
        bw = constants[c + 7]
      const o = 4 * (out + joints[i])
      rotations[o] = w * bx + x * bw + y * bz - z * by
      rotations[o + 1] = w * by - x * bz + y * bw + z * bx
      rotations[o + 2] = w * bz + x * by - y * bx + z * bw
      rotations[o + 3] = w * bw - x * bx - y * by - z * bz
    }
  }
}

/** The joints that go through world turns, over frames one cache holds: [joint][frame] in `pw` and `fw`. */
function carryThroughWorld(
  plan: TransferPlan,
  source: Float32Array,
  rotations: Float32Array,
  series: Float64Array,
  f: number,
  n: number,
  s: WorldScratch,
): void {
  const { world, needed, performerSkeleton, figureSkeleton } = plan
  const P = performerSkeleton.names.length,
    F = figureSkeleton.names.length
  const pParents = performerSkeleton.parents,
    fParents = figureSkeleton.parents
  const { pw, fw, other, constants } = s
  for (let i = 0; i < needed.length; i++) {
    const j = needed[i],
      p = pParents[j]
    const to = 4 * NEAR * j
    if (p < 0) for (let k = 0; k < n; k++) timesAt(pw, to + 4 * k, s.root, 0, source, 4 * ((f + k) * P + j))
    else for (let k = 0; k < n; k++) timesAt(pw, to + 4 * k, pw, 4 * (NEAR * p + k), source, 4 * ((f + k) * P + j))
  }
  for (let i = 0; i < world.joints.length; i++) {
    const j = world.joints[i],
      p = fParents[j]
    const to = 4 * NEAR * j,
      c = 8 * i
    if (world.a[i] < 0) {
      for (let k = 0; k < n; k++)
        timesAt(fw, to + 4 * k, p < 0 ? NONE : fw, p < 0 ? 0 : 4 * (NEAR * p + k), constants, c)
      continue
    }
    const a = 4 * NEAR * world.a[i],
      b = 4 * NEAR * world.b[i]
    for (let k = 0; k < n; k++) timesAt(fw, to + 4 * k, pw, a + 4 * k, constants, c)
    if (world.t[i] > 0)
      for (let k = 0; k < n; k++) {
        timesAt(other, 0, pw, b + 4 * k, constants, c + 4)
        turnTowards(fw, to + 4 * k, other, world.t, i, series)
      }
    if (world.writes[i] === 1) writeLocal(fw, to, p < 0 ? -1 : 4 * NEAR * p, rotations, 4 * (f * F + j), 4 * F, n)
  }
}

/** Scratch memory of {@link carryThroughWorld}. */
interface WorldScratch {
  readonly pw: Float64Array
  readonly fw: Float64Array
  readonly other: Float64Array
  readonly root: Float64Array
  readonly constants: Float64Array
}

/** Writes world turns as turns against their parent. */
function writeLocal(
  fw: Float64Array,
  o: number,
  p: number,
  out: Float32Array,
  r: number,
  step: number,
  n: number,
): void {
  for (let k = 0; k < n; k++, o += 4, r += step) {
    const bx = fw[o],
      by = fw[o + 1],
      bz = fw[o + 2],
      bw = fw[o + 3]
    let ax = 0,
      ay = 0,
      az = 0,
      aw = 1
    if (p >= 0) {
      ax = -fw[p]
      ay = -fw[p + 1]
      az = -fw[p + 2]
      aw = fw[p + 3]
      p += 4
    }
    out[r] = aw * bx + ax * bw + ay * bz - az * by
    out[r + 1] = aw * by - ax * bz + ay * bw + az * bx
    out[r + 2] = aw * bz + ax * by - ay * bx + az * bw
    out[r + 3] = aw * bw - ax * bx - ay * by - az * bz
  }
}

/** One joint over `n` frames: out = M · in, both `in` and `out` four numbers a step apart. */
function carryOne(
  source: Float32Array,
  out: Float32Array,
  m: Float64Array,
  at: number,
  r: number,
  rStep: number,
  o: number,
  oStep: number,
  n: number,
): void {
  const a0 = m[at],
    a1 = m[at + 1],
    a2 = m[at + 2],
    a3 = m[at + 3],
    b0 = m[at + 4],
    b1 = m[at + 5],
    b2 = m[at + 6],
    b3 = m[at + 7]
  const c0 = m[at + 8],
    c1 = m[at + 9],
    c2 = m[at + 10],
    c3 = m[at + 11],
    d0 = m[at + 12],
    d1 = m[at + 13],
    d2 = m[at + 14],
    d3 = m[at + 15]
  for (let i = 0; i < n; i++, r += rStep, o += oStep) {
    const x = source[r],
      y = source[r + 1],
      z = source[r + 2],
      w = source[r + 3]
    out[o] = a0 * x + a1 * y + a2 * z + a3 * w
    out[o + 1] = b0 * x + b1 * y + b2 * z + b3 * w
    out[o + 2] = c0 * x + c1 * y + c2 * z + c3 * w
    out[o + 3] = d0 * x + d1 * y + d2 * z + d3 * w
  }
}

/** Fills an array with copies of a frame, doubling what is there. */
function repeat(out: Float32Array, frame: Float32Array): void {
  if (out.length === 0) return
  out.set(frame)
  for (let n = frame.length; n < out.length; n *= 2) out.copyWithin(n, 0, Math.min(n, out.length - n))
}

const NONE = Float64Array.of(0, 0, 0, 1)

/** Terms of the series below; neighbouring spine joints never need more. */
const TERMS = 6

/** Per joint the series of sin((1−t)θ)/sin θ and sin(tθ)/sin θ in cos θ − 1: 2·TERMS numbers (Eberly 2011). */
function turnSeries(shares: Float64Array): Float64Array {
  const out = new Float64Array(2 * TERMS * shares.length)
  shares.forEach((t, n) => {
    for (let i = 1; i <= TERMS; i++) {
      const u = 1 / (i * (2 * i + 1)),
        v = i / (2 * i + 1)
      out[2 * TERMS * n + i - 1] = u * (1 - t) * (1 - t) - v
      out[2 * TERMS * n + TERMS + i - 1] = u * t * t - v
    }
  })
  return out
}

/**
 * Turns out[o] towards `b` by the share t, along the shortest arc: the series of sin(tθ)/sin θ in cos θ − 1
 * (Eberly 2011, "A fast and accurate algorithm for computing SLERP"), which neighbouring spine joints
 * never take far enough from zero to need trigonometry.
 */
function turnTowards(
  out: Float64Array,
  o: number,
  b: Float64Array,
  shares: Float64Array,
  n: number,
  series: Float64Array,
): void {
  const t = shares[n]
  const at = 2 * TERMS * n
  const d = out[o] * b[0] + out[o + 1] * b[1] + out[o + 2] * b[2] + out[o + 3] * b[3]
  const c = Math.abs(d)
  let wa: number
  let wb: number
  if (c > 0.9) {
    const m = c - 1
    let a1 = 1,
      b1 = 1
    // within 16 degrees three terms are exact to 1e-8
    for (let i = c > 0.99 ? 2 : TERMS - 1; i >= 0; i--) {
      a1 = 1 + series[at + i] * m * a1
      b1 = 1 + series[at + TERMS + i] * m * b1
    }
    wa = (1 - t) * a1
    wb = t * b1
  } else {
    const angle = Math.acos(c)
    const sine = Math.sqrt(1 - c * c)
    wa = Math.sin((1 - t) * angle) / sine
    wb = Math.sin(t * angle) / sine
  }
  if (d < 0) wb = -wb
  const x = wa * out[o] + wb * b[0],
    y = wa * out[o + 1] + wb * b[1],
    z = wa * out[o + 2] + wb * b[2],
    w = wa * out[o + 3] + wb * b[3]
  const l = 1 / Math.sqrt(x * x + y * y + z * z + w * w)
  out[o] = x * l
  out[o + 1] = y * l
  out[o + 2] = z * l
  out[o + 3] = w * l
}

/** Puts the figure's hips where the scaled travel wants them, told to their parent. */
function placeHips(plan: TransferPlan, take: Take, carried: Take, travel: Travel): void {
  const { performerSkeleton, figureSkeleton, performerHips, figureHips, toFigure, figureFrame } = plan
  const P = performerSkeleton.names.length
  const F = figureSkeleton.names.length
  const hipsP = plan.performer.joints.hips
  const hipsF = plan.figure.joints.hips
  const parent = figureSkeleton.parents[hipsF]
  const pose = worldPoseBuffer(P)
  const figurePose = worldPoseBuffer(F)
  const isRoot = performerSkeleton.parents[hipsP] < 0
  // target = figureHips + scale · (C p − performerHips), heights told from where each stands; all but p is constant
  const back = conjugate(figureFrame)
  const offset = rotate(back, [
    figureHips[0] - travel.scale * performerHips[0],
    travel.figureStand - travel.scale * travel.performerStand,
    figureHips[2] - travel.scale * performerHips[2],
  ])
  const [ox, oy, oz] = offset
  const k = travel.scale
  const [qx, qy, qz, qw] = toFigure
  const out = carried.translations
  for (let f = 0; f < take.frames; f++) {
    let source: ArrayLike<number> = take.translations
    let at = 3 * (f * P + hipsP)
    if (!isRoot) {
      worldPose(performerSkeleton, take.translations, take.rotations, f * P, pose)
      source = pose.positions
      at = 3 * hipsP
    }
    const x = source[at],
      y = source[at + 1],
      z = source[at + 2]
    const tx = 2 * (qy * z - qz * y),
      ty = 2 * (qz * x - qx * z),
      tz = 2 * (qx * y - qy * x)
    const gx = ox + k * (x + qw * tx + qy * tz - qz * ty)
    const gy = oy + k * (y + qw * ty + qz * tx - qx * tz)
    const gz = oz + k * (z + qw * tz + qx * ty - qy * tx)
    const o = 3 * (f * F + hipsF)
    if (parent < 0) {
      out[o] = gx
      out[o + 1] = gy
      out[o + 2] = gz
      continue
    }
    worldPose(figureSkeleton, out, carried.rotations, f * F, figurePose)
    const p = figurePose.positions
    const local = rotate(conjugate(quatAt(figurePose.rotations, parent)), [
      gx - p[3 * parent],
      gy - p[3 * parent + 1],
      gz - p[3 * parent + 2],
    ])
    out[o] = local[0]
    out[o + 1] = local[1]
    out[o + 2] = local[2]
  }
}

/** What goes along with the take: the root track in the figure's space and size, all else as it is. */
function besideCarried({ toFigure }: TransferPlan, take: Take, travel: Travel): Beside {
  const { root } = take
  if (!root) return besideOf(take)
  const back = conjugate(toFigure)
  const translations = new Float32Array(3 * take.frames)
  const rotations = new Float32Array(4 * take.frames)
  for (let f = 0; f < take.frames; f++) {
    setVec3(translations, f, scale(rotate(toFigure, vec3At(root.translations, f)), travel.scale))
    setQuat(rotations, f, multiply(multiply(toFigure, quatAt(root.rotations, f)), back))
  }
  return { ...besideOf(take), root: { translations, rotations } }
}
