import { isFinger, kindOf } from '../body'
import { outlineAround } from '../mass'
import type { Mesh } from '../mesh'
import { bindPose, type Skeleton } from '../skeleton'
import type { Skin } from '../skin'

/** One part of the figure as it is seen on the chart: its outline, and the joint it stands for. */
export interface ChartPart {
  readonly joint: number
  /** u and v of each corner, 0..1 of the chart's width and height, v downwards. */
  readonly outline: Float32Array
}

/** A figure's own outline cut into parts, seen from ahead, bodies on four legs from their left. */
export interface Chart {
  readonly parts: readonly ChartPart[]
  /** Width over height. */
  readonly aspect: number
}

/** Vertices a part has at least. */
const FEWEST = 4

/**
 * Draws the chart of a figure: each joint's surface as seen from one side, fingers with their hand and features of the face with
 * their head, the nearer parts last.
 */
export function chartOf(mesh: Mesh, skeleton: Skeleton, skin: Skin, joints: Readonly<Record<string, number>>): Chart {
  const four = kindOf(joints) === 'fourleg'
  const stands = skeleton.names.map((_, j) => {
    let p = j
    while (p >= 0 && /^(jaw|leftEye|rightEye)$/.test(skeleton.roles[p] ?? '')) p = skeleton.parents[p]
    while (p >= 0 && isFinger(skeleton.roles[p] ?? '')) p = skeleton.parents[p]
    return p < 0 ? j : p
  })
  const seen = (v: number): readonly [number, number] => {
    const [x, y, z] = [mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]]
    // its left is on the right of who looks at it
    return four ? [-z, -y] : [x, -y]
  }
  const own = new Map<number, (readonly [number, number])[]>()
  let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity]
  for (let v = 0; v < mesh.positions.length / 3; v++) {
    // influences are kept strongest first
    const j = stands[skin.joints[skin.influences * v]]
    const p = seen(v)
    left = Math.min(left, p[0])
    right = Math.max(right, p[0])
    top = Math.min(top, p[1])
    bottom = Math.max(bottom, p[1])
    const list = own.get(j)
    if (list) list.push(p)
    else own.set(j, [p])
  }
  const [wide, tall] = [Math.max(1e-6, right - left), Math.max(1e-6, bottom - top)]
  const bind = bindPose(skeleton)
  const near = (j: number): number => bind.positions[3 * j + (four ? 0 : 2)]
  const parts = [...own]
    .filter(([, points]) => points.length >= FEWEST)
    .map(([joint, points]) => ({ joint, hull: outlineAround(points) }))
    .filter(({ hull }) => hull.length > 2)
    // what is large lies under what is small, what is far under what is near
    .sort((a, b) => Math.sign(areaOf(b.hull) - areaOf(a.hull)) || near(a.joint) - near(b.joint))
  return {
    parts: parts.map(({ joint, hull }) => ({
      joint,
      outline: Float32Array.from(hull.flatMap(([x, y]) => [(x - left) / wide, (y - top) / tall])),
    })),
    aspect: wide / tall,
  }
}

function areaOf(hull: readonly (readonly [number, number])[]): number {
  let sum = 0
  hull.forEach((a, i) => {
    const b = hull[(i + 1) % hull.length]
    sum += a[0] * b[1] - a[1] * b[0]
  })
  return Math.abs(sum)
}
