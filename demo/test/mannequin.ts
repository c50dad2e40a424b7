import { cross, lerp, normalize, perpendicular, scale, add, sub, type Vec3 } from '@chiraxis/core/math'
import { meshOf, type Mesh } from '@chiraxis/core/mesh'

/** How a mannequin is put together; lengths in metres. */
export interface MannequinShape {
  readonly height: number
  readonly armsDown: number
  readonly sides: number
  /** Limbs overlap by this share of their radius; pieces are never welded. */
  readonly overlap: number
  readonly thickness: number
  readonly skirt: boolean
}

/**
 * A figure of another make than the demo's: separate closed prisms for every part, low in polygons, overlapping
 * at the joints, with a box for a head and blocks for hands and feet. With its true joints.
 */
export function mannequin(s: MannequinShape): { mesh: Mesh; joints: Record<string, Vec3>; height: number } {
  const H = s.height
  const positions: number[] = []
  const indices: number[] = []
  const prism = (from: Vec3, to: Vec3, ra: number, rb: number, flatten = 1): void => {
    const d = normalize(sub(to, from))
    const e = s.overlap * Math.min(ra, rb)
    const a = add(from, scale(d, -e)),
      b = add(to, scale(d, e))
    const u =
      Math.abs(d[0]) > 0.7
        ? normalize(cross([0, 0, 1], d))
        : Math.abs(d[1]) > 0.7
          ? ([1, 0, 0] as Vec3)
          : perpendicular(d)
    const v = cross(d, u)
    const base = positions.length / 3
    for (const [p, r] of [
      [a, ra],
      [b, rb],
    ] as const) {
      for (let i = 0; i < s.sides; i++) {
        const t = (2 * Math.PI * i) / s.sides
        positions.push(...add(p, add(scale(u, r * Math.cos(t)), scale(v, r * flatten * Math.sin(t)))))
      }
    }
    const n = s.sides
    for (let i = 0; i < n; i++) {
      const j = (i + 1) % n
      indices.push(base + i, base + j, base + n + j, base + i, base + n + j, base + n + i)
      if (i > 1) indices.push(base, base + i, base + i - 1, base + n, base + n + i - 1, base + n + i)
    }
  }
  const k = s.thickness
  const joints: Record<string, Vec3> = {
    hips: [0, 0.545 * H, 0],
    chest: [0, 0.66 * H, 0],
    neck: [0, 0.83 * H, 0],
    head: [0, 0.885 * H, 0],
    headEnd: [0, H, 0],
  }
  prism([0, 0.49 * H, 0], [0, 0.6 * H, 0], 0.085 * H * k, 0.075 * H * k, 0.7)
  prism([0, 0.58 * H, 0], [0, 0.82 * H, 0], 0.07 * H * k, 0.095 * H * k, 0.65)
  prism([0, 0.8 * H, 0], [0, 0.9 * H, 0], 0.032 * H * k, 0.03 * H * k)
  prism([0, 0.885 * H, 0.012 * H], [0, 0.985 * H, 0.005 * H], 0.05 * H, 0.055 * H)
  const a = (s.armsDown * Math.PI) / 180
  for (const [side, sign] of [
    ['left', 1],
    ['right', -1],
  ] as const) {
    const d: Vec3 = [sign * Math.cos(a), -Math.sin(a), 0]
    const shoulder: Vec3 = [sign * 0.105 * H, 0.8 * H, 0]
    const elbow = add(shoulder, scale(d, 0.175 * H))
    const wrist = add(elbow, scale(add(d, [0, 0, 0.06]), 0.15 * H))
    const tip = add(wrist, scale(d, 0.1 * H))
    Object.assign(joints, {
      [`${side}UpperArm`]: shoulder,
      [`${side}LowerArm`]: elbow,
      [`${side}Hand`]: wrist,
      [`${side}HandEnd`]: tip,
    })
    prism(lerp([0, 0.79 * H, 0], shoulder, 0.4), shoulder, 0.04 * H * k, 0.036 * H * k)
    prism(shoulder, elbow, 0.034 * H * k, 0.027 * H * k)
    prism(elbow, wrist, 0.027 * H * k, 0.019 * H * k)
    prism(wrist, tip, 0.027 * H * k, 0.024 * H * k, 0.5)
    const hip: Vec3 = [sign * 0.055 * H, 0.52 * H, 0]
    const knee: Vec3 = [sign * 0.06 * H, 0.283 * H, 0.008 * H]
    const ankle: Vec3 = [sign * 0.064 * H, 0.048 * H, -0.006 * H]
    Object.assign(joints, {
      [`${side}UpperLeg`]: hip,
      [`${side}LowerLeg`]: knee,
      [`${side}Foot`]: ankle,
      [`${side}Toes`]: [ankle[0], 0.015 * H, 0.075 * H],
    })
    prism(hip, knee, 0.05 * H * k, 0.036 * H * k)
    prism(knee, ankle, 0.036 * H * k, 0.024 * H * k)
    prism([ankle[0], 0.026 * H, -0.03 * H], [ankle[0], 0.02 * H, 0.115 * H], 0.026 * H, 0.02 * H)
  }
  if (s.skirt) prism([0, 0.36 * H, 0], [0, 0.56 * H, 0], 0.13 * H, 0.085 * H, 0.8)
  const mesh = meshOf(Float32Array.from(positions), Uint32Array.from(indices), 'mannequin')
  let low = Infinity,
    high = -Infinity
  for (let i = 1; i < positions.length; i += 3) {
    low = Math.min(low, positions[i])
    high = Math.max(high, positions[i])
  }
  return { mesh, joints, height: high - low }
}
