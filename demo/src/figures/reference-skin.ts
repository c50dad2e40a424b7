import { distance, type Vec3 } from '@chiraxis/core/math'
import { skeletonFromWorld, type Skeleton, type WorldJoint } from '@chiraxis/core/skeleton'
import { emptySkin, gatherInto, type Skin } from '@chiraxis/core/skin'
import type { MadeFigure } from './figure'

/** How far influence reaches past a volume, as a share of the limb's radius there: gone about a radius from the joint. */
const SOFT = 0.15

const FINGERS = ['Thumb', 'Index', 'Middle', 'Ring', 'Little']

/** The skeleton a made body was built on: its true joints, in the order parents first, joint axes along the world. */
export function trueSkeleton(figure: Pick<MadeFigure, 'joints'>): Skeleton {
  const joints: WorldJoint[] = []
  const put = (role: string, parent: string, tip?: string): void => {
    const position = figure.joints[role]
    const at = joints.findIndex(j => j.role === parent)
    if (position)
      joints.push({
        name: role,
        role,
        position,
        rotation: [0, 0, 0, 1],
        parent: at,
        tip: tip ? figure.joints[tip] : undefined,
      })
  }
  put('hips', '')
  for (const [role, parent] of [
    ['spine', 'hips'],
    ['chest', 'spine'],
    ['upperChest', 'chest'],
    ['neck', 'upperChest'],
  ])
    put(role, parent)
  put('head', 'neck', 'headEnd')
  for (const s of ['left', 'right']) {
    for (const [role, parent] of [
      ['Shoulder', ''],
      ['UpperArm', 'Shoulder'],
      ['LowerArm', 'UpperArm'],
    ])
      put(s + role, parent ? s + parent : 'upperChest')
    put(`${s}Hand`, `${s}LowerArm`, `${s}HandEnd`)
    for (const finger of FINGERS) {
      const parts = finger === 'Thumb' ? ['Metacarpal', 'Proximal', 'Distal'] : ['Proximal', 'Intermediate', 'Distal']
      parts.forEach((part, i) =>
        put(
          `${s}${finger}${part}`,
          i === 0 ? `${s}Hand` : `${s}${finger}${parts[i - 1]}`,
          i === 2 ? `${s}${finger}End` : undefined,
        ),
      )
    }
    for (const [role, parent] of [
      ['UpperLeg', ''],
      ['LowerLeg', 'UpperLeg'],
      ['Foot', 'LowerLeg'],
    ])
      put(s + role, parent ? s + parent : 'hips')
    put(`${s}Toes`, `${s}Foot`, `${s}ToesEnd`)
  }
  return skeletonFromWorld(joints)
}

const smooth = (t: number): number => {
  const x = Math.min(1, Math.max(0, t))
  return x * x * (3 - 2 * x)
}

/**
 * Smooth weights as a careful person would paint them on a made body, from what it was made of: limbs hold what is
 * theirs and let go within about their radius of a joint; the trunk passes from joint to joint by height; the collar
 * takes its share towards the shoulder. Independent of how the core works out weights.
 */
export function referenceSkin(figure: MadeFigure, skeleton: Skeleton): Skin {
  const n = figure.mesh.positions.length / 3
  const skin = emptySkin(n)
  const gather = gatherInto(skin, skeleton.names.length)
  const at = new Map(skeleton.roles.map((r, j) => [r, j]))
  const J = figure.joints
  const column = ['hips', 'spine', 'chest', 'upperChest'].filter(r => J[r] && at.has(r))
  const H = figure.height
  const near = figure.near()
  for (let v = 0; v < n; v++) {
    const p: Vec3 = [figure.mesh.positions[3 * v], figure.mesh.positions[3 * v + 1], figure.mesh.positions[3 * v + 2]]
    for (const { role, depth, radius } of near[v] ?? [{ role: figure.labels[v], depth: 0, radius: 1 }]) {
      const w = Math.exp(-depth / (SOFT * radius))
      if (w < 1e-4) continue
      if (!/^(hips|spine|chest|upperChest)$/.test(role)) {
        const j = at.get(role)
        if (j !== undefined) gather.add(j, w)
        continue
      }
      // how far up the column: each joint hands over within the middle half of the way between bones
      let rest = w
      for (let i = column.length - 1; i > 0 && rest > 1e-5; i--) {
        const own = J[column[i]][1],
          below = J[column[i - 1]][1]
        const wide = 0.5 * Math.min(own - below, i + 1 < column.length ? J[column[i + 1]][1] - own : own - below)
        const share = rest * smooth((p[1] - own + wide) / (2 * wide))
        rest -= share
        if (column[i] !== 'upperChest') {
          gather.add(at.get(column[i])!, share)
          continue
        }
        let chest = share
        const side = p[0] > 0 ? 'left' : 'right'
        const collar = J[`${side}Shoulder`],
          shoulder = J[`${side}UpperArm`]
        const j = at.get(`${side}Shoulder`)
        if (collar && shoulder && j !== undefined) {
          const t = (Math.abs(p[0]) - Math.abs(collar[0])) / (Math.abs(shoulder[0]) - Math.abs(collar[0]))
          const held = share * smooth(t) * smooth((p[1] - (shoulder[1] - 0.08 * H)) / (0.07 * H))
          gather.add(j, held)
          chest -= held
        }
        gather.add(at.get('upperChest')!, chest)
      }
      gather.add(at.get(column[0])!, rest)
    }
    gather.settle(v)
  }
  return skin
}

/** How far apart two skins put the vertices of a posed body, as a share of its height: mean and largest. */
export function apart(a: Float32Array, b: Float32Array, height: number): { mean: number; most: number } {
  let sum = 0,
    most = 0
  const n = a.length / 3
  for (let v = 0; v < n; v++) {
    const d = distance([a[3 * v], a[3 * v + 1], a[3 * v + 2]], [b[3 * v], b[3 * v + 1], b[3 * v + 2]]) / height
    sum += d
    most = Math.max(most, d)
  }
  return { mean: sum / n, most }
}
