import { add, ChiraxisError, lerp, vec3At, type Vec3 } from '../math'
import type { Mesh } from '../mesh'
import { bindPose, findJoint, type Skeleton } from '../skeleton'
import { chainRecord } from './drawn-chain'
import type { EditOf } from './edit'

/** Parts that a plan does not have and that can be added to it where they usually are. */
export const ADDED_PARTS = ['jaw', 'eyes', 'ears', 'tail', 'wings', 'skirt'] as const
export type AddedPart = (typeof ADDED_PARTS)[number]
/** Joints each part begins with, and how many chains stand around the body. */
export const PART_JOINTS: Readonly<Record<AddedPart, number>> = {
  jaw: 1,
  eyes: 1,
  ears: 2,
  tail: 6,
  wings: 4,
  skirt: 3,
}
export const SKIRT_CHAINS = 8

type Body = Pick<Mesh, 'positions' | 'indices'>
type Chain = EditOf<'chain'>

/** What hangs on which part of the body: the first of these the skeleton has. */
const HANGS_ON: Readonly<Record<AddedPart, readonly string[]>> = {
  jaw: ['head'],
  eyes: ['head'],
  ears: ['head'],
  tail: ['hips'],
  wings: ['upperChest', 'chest', 'spine'],
  skirt: ['hips'],
}

/** The joint a part would hang on, -1 where the skeleton has none such. */
export const partCarrier = (skeleton: Skeleton, part: AddedPart): number =>
  HANGS_ON[part].map(r => skeleton.roles.indexOf(r)).find(j => j >= 0) ?? -1

/**
 * Chains of a part where it usually is, by the proportions of the head and by the surface: a beginning to be dragged into place.
 * @param mesh where the skin was bound, metres, upright, facing +Z
 * @param around the piece a skirt is drawn in; left out, the whole body
 * @param size height of the figure, metres
 * @throws ChiraxisError `no-roles` where it would hang on nothing
 */
export function partChains(
  part: AddedPart,
  skeleton: Skeleton,
  mesh: Body,
  size: number,
  options: { joints?: number; chains?: number; around?: Body } = {},
): Chain[] {
  const on = partCarrier(skeleton, part)
  if (on < 0) throw new ChiraxisError('no-roles', `There is no ${HANGS_ON[part][0]} that could carry a ${part}.`)
  const joints = options.joints ?? PART_JOINTS[part]
  const at = vec3At(bindPose(skeleton).positions, on)
  const record = (name: string, places: Vec3[], more: Partial<Chain> = {}): Chain =>
    chainRecord(skeleton, on, places, size, { name, joints, mirror: false, ...more })
  if (part === 'skirt') return skirt(skeleton, mesh, on, size, joints, options)
  if (part === 'tail') {
    const root: Vec3 = [0, at[1], backOf(mesh, at, 0.03 * size)]
    return [
      record('tail', [
        lerp(root, at, 0.25),
        add(root, [0, -0.12 * size, -0.12 * size]),
        add(root, [0, -0.26 * size, -0.2 * size]),
      ]),
    ]
  }
  if (part === 'wings') {
    const root: Vec3 = [0.045 * size, at[1], backOf(mesh, at, 0.06 * size)]
    const line = [
      root,
      add(root, [0.16 * size, 0.1 * size, -0.1 * size]),
      add(root, [0.42 * size, 0.02 * size, -0.16 * size]),
    ]
    return [record('left wing', line, { mirror: true })]
  }
  const { high, front, half } = headOf(mesh, at, size)
  const up = (share: number): number => at[1] + share * (high - at[1])
  if (part === 'jaw') {
    const chin: Vec3 = [0, up(0.02), front - 0.12 * (front - at[2])]
    const hinge: Vec3 = [0, up(0.22), at[2] + 0.12 * (front - at[2])]
    return [record('jaw', [hinge, chin], { roles: ['jaw'] })]
  }
  if (part === 'eyes') {
    const eye: Vec3 = [0.42 * half, up(0.46), front - 0.22 * (front - at[2])]
    return [record('leftEye', [eye, [eye[0], eye[1], front]], { roles: ['leftEye'], mirror: true })]
  }
  const ear: Vec3 = [0.9 * half, up(0.6), at[2]]
  return [record('left ear', [ear, add(ear, [0.5 * half, 0.5 * (high - at[1]), 0])], { mirror: true })]
}

/** How high a head goes, how far ahead its face is and half how wide it is, from the joint that carries it. */
function headOf({ positions }: Body, at: Vec3, size: number): { high: number; front: number; half: number } {
  let high = at[1] + 0.02 * size
  for (let i = 0; i < positions.length; i += 3)
    if (Math.abs(positions[i] - at[0]) < 0.06 * size) high = Math.max(high, positions[i + 1])
  const [low, top] = [at[1] + 0.2 * (high - at[1]), at[1] + 0.6 * (high - at[1])]
  let front = at[2] + 0.01 * size,
    half = 0.02 * size
  for (let i = 0; i < positions.length; i += 3) {
    if (positions[i + 1] < low || positions[i + 1] > top) continue
    const aside = Math.abs(positions[i] - at[0])
    if (aside < 0.03 * size) front = Math.max(front, positions[i + 2])
    if (aside < 0.2 * size) half = Math.max(half, aside)
  }
  return { high, front, half }
}

/** How far back the surface is near a place, metres along z. */
function backOf({ positions }: Body, at: Vec3, reach: number): number {
  let out = at[2]
  for (let i = 0; i < positions.length; i += 3) {
    if (Math.abs(positions[i] - at[0]) > reach || Math.abs(positions[i + 1] - at[1]) > reach) continue
    out = Math.min(out, positions[i + 2])
  }
  return out
}

/** Chains around the body from its waist to the hem, each on the outermost surface in its direction. */
function skirt(
  skeleton: Skeleton,
  mesh: Body,
  on: number,
  size: number,
  joints: number,
  { chains = SKIRT_CHAINS, around }: { chains?: number; around?: Body },
): Chain[] {
  const pose = bindPose(skeleton)
  const waist = vec3At(pose.positions, on)
  const knee = findJoint(skeleton, 'leftLowerLeg')
  const hem = around ? lowest(around) + 0.01 * size : knee >= 0 ? pose.positions[3 * knee + 1] : waist[1] - 0.25 * size
  const from = around ? Math.min(waist[1], highest(around) - 0.01 * size) : waist[1]
  const heights = Array.from({ length: joints + 1 }, (_, i) => from + ((hem - from) * i) / joints)
  const rings = heights.map(y => outermost(around ?? mesh, [waist[0], y, waist[2]], chains, (around ? 1 : 0.17) * size))
  return Array.from({ length: chains }, (_, c) => {
    const angle = (2 * Math.PI * c) / chains
    let far = 0.02 * size
    const places = heights.map((y, i): Vec3 => {
      // a gap in the cloth keeps the width above it
      far = rings[i][c] > 0 ? rings[i][c] : far
      return [waist[0] + far * Math.sin(angle), y, waist[2] + far * Math.cos(angle)]
    })
    return chainRecord(skeleton, on, places, size, { name: skirtName(c, chains), joints, mirror: false })
  })
}

/** Names that tell where around the body a chain hangs, left and right the mirror image of each other. */
function skirtName(c: number, chains: number): string {
  if (c === 0) return 'skirt front'
  if (2 * c === chains) return 'skirt back'
  const left = 2 * c < chains
  return `skirt ${String.fromCharCode(96 + (left ? c : chains - c))} ${left ? 'left' : 'right'}`
}

const heightsOf = ({ positions, indices }: Body): Float32Array => Float32Array.from(indices, v => positions[3 * v + 1])
const lowest = (mesh: Body): number => heightsOf(mesh).reduce((a, b) => Math.min(a, b), Infinity)
const highest = (mesh: Body): number => heightsOf(mesh).reduce((a, b) => Math.max(a, b), -Infinity)

/** How far the surface reaches from a point in even directions on its level, beginning ahead and turning to the left; 0 for nowhere. */
function outermost({ positions, indices }: Body, centre: Vec3, directions: number, most: number): Float64Array {
  const out = new Float64Array(directions)
  const [cx, y, cz] = centre
  for (let f = 0; f < indices.length; f += 3) {
    const cut: [number, number][] = []
    for (let e = 0; e < 3; e++) {
      const a = indices[f + e],
        b = indices[f + ((e + 1) % 3)]
      const [ya, yb] = [positions[3 * a + 1] - y, positions[3 * b + 1] - y]
      if (ya < 0 === yb < 0) continue
      const t = ya / (ya - yb)
      const on = (k: number): number => positions[3 * a + k] + t * (positions[3 * b + k] - positions[3 * a + k])
      cut.push([on(0) - cx, on(2) - cz])
    }
    if (cut.length < 2) continue
    const [[x0, z0], [x1, z1]] = cut
    for (let d = 0; d < directions; d++) {
      const angle = (2 * Math.PI * d) / directions
      const [dx, dz] = [Math.sin(angle), Math.cos(angle)]
      // where the way out meets the cut edge
      const across = dx * (z1 - z0) - dz * (x1 - x0)
      if (Math.abs(across) < 1e-12) continue
      const far = (x0 * (z1 - z0) - z0 * (x1 - x0)) / across
      const on = (x0 * dz - z0 * dx) / across
      if (far > out[d] && far <= most && on >= 0 && on <= 1) out[d] = far
    }
  }
  return out
}
