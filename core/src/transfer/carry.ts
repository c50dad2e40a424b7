import { breather, conjugate, quatAt, rotate, type WorkOptions } from '../math'
import type { Take } from '../motion'
import { worldPose, worldPoseBuffer } from '../skeleton'
import type { TransferPlan } from './prepare'
import type { Travel } from './travel'

/** Carries a take over a prepared pair of skeletons: the hot loop, flat arrays only. */
export async function carry(plan: TransferPlan, take: Take, travel: Travel, work: WorkOptions = {}): Promise<Take> {
  const pulse = breather(work)
  const { direct, world, needed, performerSkeleton, figureSkeleton } = plan
  const P = performerSkeleton.names.length
  const F = figureSkeleton.names.length
  const rotations = new Float32Array(4 * F * take.frames)
  const translations = new Float32Array(3 * F * take.frames)
  // what nobody plays stays at rest; every frame starts as the one rest frame
  if (plan.follow.includes(undefined)) repeat(rotations, figureSkeleton.restRotations)
  repeat(translations, figureSkeleton.restTranslations)
  const source = take.rotations
  const pParents = performerSkeleton.parents
  const fParents = figureSkeleton.parents
  const pw = new Float64Array(4 * P)
  const fw = new Float64Array(4 * F)
  const other = new Float64Array(4)
  const [cx, cy, cz, cw] = plan.toFigure
  const nDirect = direct.joints.length
  const nWorld = world.joints.length
  const { joints, from, to, path, constants } = direct
  const wc = world.constants

  for (let f = 0; f < take.frames; f++) {
    if ((f & 511) === 0) await pulse(f / take.frames)
    const base = f * P
    const out = f * F
    for (let i = 0; i < nDirect; i++) {
      const c = 8 * i
      let x = constants[c], y = constants[c + 1], z = constants[c + 2], w = constants[c + 3]
      for (let k = from[i]; k < to[i]; k++) {
        const r = 4 * (base + path[k])
        const bx = source[r], by = source[r + 1], bz = source[r + 2], bw = source[r + 3]
        const nx = w * bx + x * bw + y * bz - z * by
        const ny = w * by - x * bz + y * bw + z * bx
        const nz = w * bz + x * by - y * bx + z * bw
        w = w * bw - x * bx - y * by - z * bz
        x = nx
        y = ny
        z = nz
      }
      const bx = constants[c + 4], by = constants[c + 5], bz = constants[c + 6], bw = constants[c + 7]
      const o = 4 * (out + joints[i])
      rotations[o] = w * bx + x * bw + y * bz - z * by
      rotations[o + 1] = w * by - x * bz + y * bw + z * bx
      rotations[o + 2] = w * bz + x * by - y * bx + z * bw
      rotations[o + 3] = w * bw - x * bx - y * by - z * bz
    }
    if (nWorld === 0) continue
    for (let i = 0; i < needed.length; i++) {
      const j = needed[i]
      const p = pParents[j]
      const r = 4 * (base + j)
      if (p < 0) times(pw, 4 * j, cx, cy, cz, cw, source[r], source[r + 1], source[r + 2], source[r + 3])
      else times(pw, 4 * j, pw[4 * p], pw[4 * p + 1], pw[4 * p + 2], pw[4 * p + 3], source[r], source[r + 1], source[r + 2], source[r + 3])
    }
    for (let i = 0; i < nWorld; i++) {
      const j = world.joints[i]
      const o = 4 * j
      const c = 8 * i
      const p = fParents[j]
      const a = 4 * world.a[i]
      if (a < 0) {
        if (p < 0) times(fw, o, 0, 0, 0, 1, wc[c], wc[c + 1], wc[c + 2], wc[c + 3])
        else times(fw, o, fw[4 * p], fw[4 * p + 1], fw[4 * p + 2], fw[4 * p + 3], wc[c], wc[c + 1], wc[c + 2], wc[c + 3])
        continue
      }
      times(fw, o, pw[a], pw[a + 1], pw[a + 2], pw[a + 3], wc[c], wc[c + 1], wc[c + 2], wc[c + 3])
      const t = world.t[i]
      if (t > 0) {
        const b = 4 * world.b[i]
        times(other, 0, pw[b], pw[b + 1], pw[b + 2], pw[b + 3], wc[c + 4], wc[c + 5], wc[c + 6], wc[c + 7])
        turnTowards(fw, o, other, t)
      }
      if (world.writes[i] === 0) continue
      const r = 4 * (out + j)
      if (p < 0) {
        rotations[r] = fw[o]
        rotations[r + 1] = fw[o + 1]
        rotations[r + 2] = fw[o + 2]
        rotations[r + 3] = fw[o + 3]
      } else {
        const ax = -fw[4 * p], ay = -fw[4 * p + 1], az = -fw[4 * p + 2], aw = fw[4 * p + 3]
        const bx = fw[o], by = fw[o + 1], bz = fw[o + 2], bw = fw[o + 3]
        rotations[r] = aw * bx + ax * bw + ay * bz - az * by
        rotations[r + 1] = aw * by - ax * bz + ay * bw + az * bx
        rotations[r + 2] = aw * bz + ax * by - ay * bx + az * bw
        rotations[r + 3] = aw * bw - ax * bx - ay * by - az * bz
      }
    }
  }
  const carried: Take = { name: take.name, fps: take.fps, frames: take.frames, rotations, translations }
  placeHips(plan, take, carried, travel)
  return carried
}

/** Fills an array with copies of a frame, doubling what is there. */
function repeat(out: Float32Array, frame: Float32Array): void {
  if (out.length === 0) return
  out.set(frame)
  for (let n = frame.length; n < out.length; n *= 2) out.copyWithin(n, 0, Math.min(n, out.length - n))
}

/** out[o] = a · b. One kind of array only, so that the engine compiles it to plain loads and stores. */
function times(out: Float64Array, o: number, ax: number, ay: number, az: number, aw: number, bx: number, by: number, bz: number, bw: number): void {
  out[o] = aw * bx + ax * bw + ay * bz - az * by
  out[o + 1] = aw * by - ax * bz + ay * bw + az * bx
  out[o + 2] = aw * bz + ax * by - ay * bx + az * bw
  out[o + 3] = aw * bw - ax * bx - ay * by - az * bz
}

/**
 * Turns out[o] towards `b` by the share t, along the shortest arc: the series of sin(tθ)/sin θ in cos θ − 1
 * (Eberly 2011, "A fast and accurate algorithm for computing SLERP"), which neighbouring spine joints
 * never take far enough from zero to need trigonometry.
 */
function turnTowards(out: Float64Array, o: number, b: Float64Array, t: number): void {
  const d = out[o] * b[0] + out[o + 1] * b[1] + out[o + 2] * b[2] + out[o + 3] * b[3]
  const c = Math.abs(d)
  let wa: number
  let wb: number
  if (c > 0.9) {
    const m = c - 1
    const s = 1 - t
    const tt = t * t, ss = s * s
    let a1 = 1, b1 = 1
    for (let i = 6; i >= 1; i--) {
      const u = 1 / (i * (2 * i + 1)), v = i / (2 * i + 1)
      a1 = 1 + (u * ss - v) * m * a1
      b1 = 1 + (u * tt - v) * m * b1
    }
    wa = s * a1
    wb = t * b1
  } else {
    const angle = Math.acos(c)
    const sine = Math.sqrt(1 - c * c)
    wa = Math.sin((1 - t) * angle) / sine
    wb = Math.sin(t * angle) / sine
  }
  if (d < 0) wb = -wb
  const x = wa * out[o] + wb * b[0], y = wa * out[o + 1] + wb * b[1], z = wa * out[o + 2] + wb * b[2], w = wa * out[o + 3] + wb * b[3]
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
    figureHips[0] - travel.scale * performerHips[0], travel.figureStand - travel.scale * travel.performerStand, figureHips[2] - travel.scale * performerHips[2],
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
    const x = source[at], y = source[at + 1], z = source[at + 2]
    const tx = 2 * (qy * z - qz * y), ty = 2 * (qz * x - qx * z), tz = 2 * (qx * y - qy * x)
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
    const local = rotate(conjugate(quatAt(figurePose.rotations, parent)), [gx - p[3 * parent], gy - p[3 * parent + 1], gz - p[3 * parent + 2]])
    out[o] = local[0]
    out[o + 1] = local[1]
    out[o + 2] = local[2]
  }
}
