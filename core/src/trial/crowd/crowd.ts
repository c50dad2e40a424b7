import { conjugate, fromAxisAngle, multiply, rotate, type Quat, type ReadonlyQuat } from '../../math'
import { atBind, worldPose, type Skeleton } from '../../skeleton'
import { placeIn } from '../blend'
import type { Clip } from '../clip'
import type { Agent, Way } from './document'
import { gapOf } from './place'
import { alongWay, wayLength } from './ways'

/** A figure agents look like. */
export interface Kind {
  readonly skeleton: Skeleton
  /** From the skeleton's space to Y up, facing +Z. */
  readonly frame: ReadonlyQuat
  readonly clips: readonly Clip[]
  /** Metres one takes up from end to end, where that is more than a person does. */
  readonly room?: number
}

/** Floats a joint: its turn away from the bind pose, x y z w, and where that takes what is bound to it, x y z 1. */
export const JOINT_FLOATS = 8
/** Seconds in which one who is held up slows down, and takes up its pace again. */
const EASES = 0.4

interface Walker {
  readonly way: Way
  readonly length: number
  /** Metres along. */
  s: number
  speed: number
  readonly wished: number
}

/**
 * Hundreds at once: each plays its clip from its own moment at its own pace; those who walk go along their way and keep
 * their distance from the one before. Poses are written as turns and shifts away from the bind pose, as the GPU skins by.
 */
export function createCrowd(kinds: readonly Kind[], ways: readonly Way[], agents: readonly Agent[]) {
  const made = kinds.map(kind => prepared(kind))
  const keeps = gapOf(kinds)
  const clipOf = agents.map(a => kinds[a.kind].clips.find(c => c.name === a.clip) ?? kinds[a.kind].clips[0])
  const phases = Float64Array.from(agents, a => a.offset)
  const places = Float64Array.from(agents.flatMap(a => [a.at[0], a.at[1], a.heading]))
  const walkers = agents.map((a, i): Walker | undefined => {
    if (a.way === undefined) return undefined
    const wished = clipOf[i].speed * a.pace * a.height
    return { way: ways[a.way], length: wayLength(ways[a.way]), s: a.along ?? 0, speed: wished, wished }
  })
  /** Who walks on each way, in their order along it. */
  const lines = ways.map((_, w) =>
    agents.flatMap((a, i) => (a.way === w ? [i] : [])).sort((a, b) => walkers[a]!.s - walkers[b]!.s),
  )
  /** Agents of each kind, in the order their poses are written. */
  const order = kinds.map((_, k) => agents.flatMap((a, i) => (a.kind === k ? [i] : [])))
  const sized = kinds.map((kind, k) => new Float32Array(JOINT_FLOATS * kind.skeleton.names.length * order[k].length))
  const matrices = kinds.map((_, k) => new Float32Array(16 * order[k].length))

  function step(dt: number): void {
    for (const line of lines)
      for (let k = 0; k < line.length; k++) {
        const me = walkers[line[k]]!
        const before = walkers[line[(k + 1) % line.length]]!
        const gap = line.length === 1 ? Infinity : (((before.s - me.s) % me.length) + me.length) % me.length
        // nobody walks into who goes before
        const may = gap < 2 * keeps ? Math.max(0, Math.min(me.wished, before.speed + (gap - keeps) * 2)) : me.wished
        me.speed += (may - me.speed) * Math.min(1, dt / EASES)
        me.s += Math.max(0, Math.min(me.speed * dt, gap - 0.5 * keeps))
      }
    agents.forEach((a, i) => {
      const w = walkers[i]
      const clip = clipOf[i]
      const rate = w && w.wished > 0 ? Math.max(0.3, w.speed / w.wished) : 1
      const on = phases[i] + (dt * a.pace * rate) / clip.seconds
      phases[i] = on - Math.floor(on)
      if (!w) return
      const [x, z, heading] = alongWay(w.way, w.s)
      places[3 * i] = x
      places[3 * i + 1] = z
      places[3 * i + 2] = heading
    })
  }

  /** Writes the poses of every kind. @returns the same arrays each time: 8·J a joint and agent, 16 an agent */
  function pose(): { readonly joints: readonly Float32Array[]; readonly matrices: readonly Float32Array[] } {
    kinds.forEach((kind, k) => {
      const back = conjugate(kind.frame)
      const J = kind.skeleton.names.length
      order[k].forEach((i, n) => {
        made[k](clipOf[i], phases[i], sized[k], n * J * JOINT_FLOATS)
        place(matrices[k], 16 * n, back, kind.frame, places[3 * i], places[3 * i + 1], places[3 * i + 2], agents[i].height) // prettier-ignore
      })
    })
    return { joints: sized, matrices }
  }
  return { step, pose, order, places: (): Float64Array => places, phases: (): Float64Array => phases }
}
export type Crowd = ReturnType<typeof createCrowd>

/** A matrix, column by column: scaled, turned and shifted in the upright space, told in the skeleton's. */
function place(
  out: Float32Array,
  at: number,
  back: Quat,
  frame: ReadonlyQuat,
  x: number,
  z: number,
  heading: number,
  scale: number,
): void {
  // prettier-ignore
  const turn = multiply(multiply(back, fromAxisAngle([0, 1, 0], heading)), frame)
  const shift = rotate(back, [x, 0, z])
  for (let c = 0; c < 3; c++) {
    const axis = rotate(turn, [c === 0 ? 1 : 0, c === 1 ? 1 : 0, c === 2 ? 1 : 0])
    out[at + 4 * c] = scale * axis[0]
    out[at + 4 * c + 1] = scale * axis[1]
    out[at + 4 * c + 2] = scale * axis[2]
    out[at + 4 * c + 3] = 0
  }
  out[at + 12] = shift[0]
  out[at + 13] = shift[1]
  out[at + 14] = shift[2]
  out[at + 15] = 1
}

/**
 * The pose of one agent, written in one pass over its joints: turns between two samples (normalised linear, samples lie a
 * sixtieth of a second apart), world by parent, then away from the bind pose. Nothing is made on the way.
 */
function prepared({ skeleton }: Kind): (clip: Clip, phase: number, out: Float32Array, at: number) => void {
  const J = skeleton.names.length
  const parents = Int16Array.from(skeleton.parents)
  const bind = worldPose(atBind(skeleton))
  const bindQ = Float64Array.from({ length: 4 * J }, (_, i) => (i % 4 === 3 ? 1 : -1) * bind.rotations[i])
  const bindT = Float64Array.from(bind.positions)
  const wq = new Float64Array(4 * J)
  const wt = new Float64Array(3 * J)
  return (clip, phase, out, start) => {
    const { k, next, t } = placeIn(clip, phase)
    const { rotations: R, translations: T } = clip
    const a = 4 * J * k,
      b = 4 * J * next
    const s = 1 - t
    for (let j = 0; j < J; j++) {
      const p = a + 4 * j,
        q = b + 4 * j
      let bx = R[q],
        by = R[q + 1],
        bz = R[q + 2],
        bw = R[q + 3]
      if (R[p] * bx + R[p + 1] * by + R[p + 2] * bz + R[p + 3] * bw < 0) {
        bx = -bx
        by = -by
        bz = -bz
        bw = -bw
      }
      let x = R[p] * s + bx * t,
        y = R[p + 1] * s + by * t,
        z = R[p + 2] * s + bz * t,
        w = R[p + 3] * s + bw * t
      const long = 1 / Math.sqrt(x * x + y * y + z * z + w * w)
      x *= long
      y *= long
      z *= long
      w *= long
      const u = 3 * (J * k + j),
        v = 3 * (J * next + j)
      let tx = T[u] * s + T[v] * t,
        ty = T[u + 1] * s + T[v + 1] * t,
        tz = T[u + 2] * s + T[v + 2] * t
      const up = parents[j]
      if (up >= 0) {
        const o = 4 * up
        const px = wq[o],
          py = wq[o + 1],
          pz = wq[o + 2],
          pw = wq[o + 3]
        // the place, turned by the parent: v + 2 w (q × v) + 2 q × (q × v)
        const cx = 2 * (py * tz - pz * ty),
          cy = 2 * (pz * tx - px * tz),
          cz = 2 * (px * ty - py * tx)
        tx += pw * cx + py * cz - pz * cy + wt[3 * up]
        ty += pw * cy + pz * cx - px * cz + wt[3 * up + 1]
        tz += pw * cz + px * cy - py * cx + wt[3 * up + 2]
        const nx = pw * x + px * w + py * z - pz * y,
          ny = pw * y - px * z + py * w + pz * x,
          nz = pw * z + px * y - py * x + pz * w
        w = pw * w - px * x - py * y - pz * z
        x = nx
        y = ny
        z = nz
      }
      wq[4 * j] = x
      wq[4 * j + 1] = y
      wq[4 * j + 2] = z
      wq[4 * j + 3] = w
      wt[3 * j] = tx
      wt[3 * j + 1] = ty
      wt[3 * j + 2] = tz
      // away from the bind pose
      const ix = bindQ[4 * j],
        iy = bindQ[4 * j + 1],
        iz = bindQ[4 * j + 2],
        iw = bindQ[4 * j + 3]
      const qx = w * ix + x * iw + y * iz - z * iy,
        qy = w * iy - x * iz + y * iw + z * ix,
        qz = w * iz + x * iy - y * ix + z * iw,
        qw = w * iw - x * ix - y * iy - z * iz
      const rx = bindT[3 * j],
        ry = bindT[3 * j + 1],
        rz = bindT[3 * j + 2]
      const dx = 2 * (qy * rz - qz * ry),
        dy = 2 * (qz * rx - qx * rz),
        dz = 2 * (qx * ry - qy * rx)
      const o = start + JOINT_FLOATS * j
      out[o] = qx
      out[o + 1] = qy
      out[o + 2] = qz
      out[o + 3] = qw
      out[o + 4] = tx - (rx + qw * dx + qy * dz - qz * dy)
      out[o + 5] = ty - (ry + qw * dy + qz * dx - qx * dz)
      out[o + 6] = tz - (rz + qw * dz + qx * dy - qy * dx)
      out[o + 7] = 1
    }
  }
}
