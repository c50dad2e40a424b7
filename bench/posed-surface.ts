/** What is true of a body's own surface in a pose, measured by posing every vertex: slow, and by none of the ways the core looks at it. */
import { closestOnSurface, type Mesh } from '@chiraxis/core/mesh'
import type { Take } from '@chiraxis/core/motion'
import { worldPose, type Skeleton } from '@chiraxis/core/skeleton'
import { deform, type Skin } from '@chiraxis/core/skin'

export interface Surfaced {
  readonly mesh: Mesh
  readonly skeleton: Skeleton
  readonly skin: Skin
  readonly height: number
}

const roleOf = (s: Skeleton, j: number): string => {
  for (let p = j; p >= 0; p = s.parents[p]) if (s.roles[p]) return s.roles[p]!
  return ''
}
const ofArm = (role: string): boolean => /(Arm|Hand|Thumb|Index|Middle|Ring|Little|Shoulder)/.test(role)

/** Reads a body once for any number of poses. */
export function surfaceOf(body: Surfaced) {
  const { mesh, skeleton, skin } = body
  const k = skin.influences
  const vertices = mesh.positions.length / 3
  const role = Array.from({ length: vertices }, (_, v) => {
    let best = 0
    for (let i = 1; i < k; i++) if (skin.weights[v * k + i] > skin.weights[v * k + best]) best = i
    return roleOf(skeleton, skin.joints[v * k + best])
  })
  const armed = role.map(ofArm)
  const trunk: number[] = []
  for (let t = 0; t < mesh.indices.length; t += 3) {
    const [a, b, c] = [mesh.indices[t], mesh.indices[t + 1], mesh.indices[t + 2]]
    if (!armed[a] && !armed[b] && !armed[c]) trunk.push(a, b, c)
  }
  const trunkIndices = Uint32Array.from(trunk)
  const fore = (side: string): number[] => {
    const all = role.flatMap((r, v) =>
      r.startsWith(side) && /(LowerArm|Hand|Thumb|Index|Middle|Ring|Little)/.test(r) ? [v] : [],
    )
    const step = Math.max(1, Math.floor(all.length / 160))
    return all.filter((_, i) => i % step === 0)
  }
  const arms = { left: fore('left'), right: fore('right') }
  const soles = Object.fromEntries(
    ['left', 'right'].map(s => [s, role.flatMap((r, v) => (r === `${s}Foot` || r === `${s}Toes` ? [v] : []))]),
  ) as Record<'left' | 'right', number[]>
  const posed = (take: Take, frame: number): Float32Array =>
    deform(
      mesh.positions,
      skeleton,
      skin,
      worldPose(skeleton, take.translations, take.rotations, frame * skeleton.names.length),
    )
  return {
    posed,
    /** Deepest any place of a forearm or hand lies inside trunk, head and legs, metres, 0 where none does. */
    armDepth(at: Float32Array): Record<'left' | 'right', number> {
      const tree = closestOnSurface(at, trunkIndices)
      const depth = (list: number[]): number => {
        let most = 0
        for (const v of list) {
          const p = [at[3 * v], at[3 * v + 1], at[3 * v + 2]] as [number, number, number]
          const hit = tree.nearest(...p)
          if (!hit || hit.distance > 0.12) continue
          const t = 3 * hit.triangle
          const [a, b, c] = [trunkIndices[t], trunkIndices[t + 1], trunkIndices[t + 2]].map(i => [
            at[3 * i],
            at[3 * i + 1],
            at[3 * i + 2],
          ])
          const u = b.map((x, i) => x - a[i]),
            w = c.map((x, i) => x - a[i])
          const n = [u[1] * w[2] - u[2] * w[1], u[2] * w[0] - u[0] * w[2], u[0] * w[1] - u[1] * w[0]]
          const d = p.map((x, i) => x - hit.a * a[i] - hit.b * b[i] - hit.c * c[i])
          const far = hit.distance
          // the nearest place's own side tells in and out where it is met squarely
          const square = (n[0] * d[0] + n[1] * d[1] + n[2] * d[2]) / (Math.hypot(...n) * far || 1)
          if (square < -0.7) most = Math.max(most, far)
        }
        return most
      }
      return { left: depth(arms.left), right: depth(arms.right) }
    },
    lowest(at: Float32Array, list?: readonly number[]): number {
      let low = Infinity
      if (list) for (const v of list) low = Math.min(low, at[3 * v + 1])
      else for (let i = 1; i < at.length; i += 3) low = Math.min(low, at[i])
      return low
    },
    soles,
  }
}
