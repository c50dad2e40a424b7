import { addScaled, distance, dot, lerp, sub, vec3At, type Vec3 } from '@chiraxis/core/math'
import type { Skeleton } from '@chiraxis/core/skeleton'
import { emptySkin, gatherInto, type Skin } from '@chiraxis/core/skin'
import { trueSkeleton } from '../figures/reference-skin'
import type { Stranger } from './index'

/** How a piece of a stranger moves in truth. */
export type Nature = 'flesh' | 'rigid' | 'cloth'
type Row = ReadonlyMap<string, number>

/** Weights of a stranger as a careful person would paint them, by what its pieces are: made from how it was modelled. */
export interface TrueSkin {
  readonly skeleton: Skeleton
  readonly skin: Skin
  /** One a vertex. */
  readonly natures: readonly Nature[]
}

const smooth = (t: number): number => {
  const x = Math.min(1, Math.max(0, t))
  return x * x * (3 - 2 * x)
}

interface Link {
  readonly role: string
  readonly at: Vec3
}

/** How joints of a chain share a point: each hands over to the next about where the next begins. */
function alongChain(p: Vec3, links: readonly Link[], end: Vec3, soft: number): Map<string, number> {
  const knots = [...links.map(l => l.at), end]
  const starts = [0]
  for (let i = 1; i < knots.length; i++) starts.push(starts[i - 1] + distance(knots[i - 1], knots[i]))
  let best = { off: Infinity, way: 0 }
  for (let i = 0; i + 1 < knots.length; i++) {
    const d = sub(knots[i + 1], knots[i])
    const t = Math.min(1, Math.max(0, dot(sub(p, knots[i]), d) / (dot(d, d) || 1)))
    const off = distance(p, addScaled(knots[i], d, t))
    if (off < best.off) best = { off, way: starts[i] + t * Math.sqrt(dot(d, d)) }
  }
  const out = new Map<string, number>()
  let rest = 1
  for (let i = links.length - 1; i >= 0; i--) {
    const wide = i === 0 ? 1 : Math.min(soft, 0.45 * (starts[i] - starts[i - 1]), 0.45 * (starts[i + 1] - starts[i]))
    const share = i === 0 ? rest : rest * smooth((best.way - starts[i] + wide) / (2 * wide))
    out.set(links[i].role, (out.get(links[i].role) ?? 0) + share)
    rest -= share
  }
  return out
}

const mixed = (parts: readonly (readonly [number, Row])[]): Row => {
  const out = new Map<string, number>()
  for (const [share, row] of parts) for (const [role, w] of row) out.set(role, (out.get(role) ?? 0) + share * w)
  return out
}

/** What each kind of rigid piece rides on; `@` is the side in its own name, or the nearer one. */
const RIDES: Readonly<Record<string, string>> = {
  helmet: 'head',
  horn: 'head',
  hat: 'head',
  hood: 'head',
  'hair cap': 'head',
  nose: 'head',
  head: 'head',
  staff: '@Hand',
  blade: '@Hand',
  shield: '@LowerArm',
  breastplate: 'upperChest',
  pauldron: '@UpperArm',
  greave: '@LowerLeg',
  bracer: '@LowerArm',
  satchel: 'hips',
  pack: 'upperChest',
}

/** @throws Error where a stranger is one surface, so that nothing tells its pieces apart */
export function trueSkin(stranger: Pick<Stranger, 'mesh' | 'joints' | 'height'>): TrueSkin {
  const { mesh, joints: J, height: H } = stranger
  if (mesh.parts.length < 4) throw new Error('the pieces of a stranger of one surface are not known')
  const skeleton = trueSkeleton({ joints: J })
  const at = new Map(skeleton.roles.map((r, j) => [r, j]))
  const skin = emptySkin(mesh.positions.length / 3)
  const gather = gatherInto(skin, skeleton.names.length)
  const natures: Nature[] = new Array<Nature>(mesh.positions.length / 3).fill('flesh')
  const link = (role: string): Link => ({ role, at: J[role] })

  const trunk = (p: Vec3): Row => {
    const row = alongChain(p, ['hips', 'spine', 'chest', 'upperChest', 'neck', 'head'].map(link), J.headEnd, 0.03 * H)
    const side = p[0] > 0 ? 'left' : 'right'
    const [collar, arm, leg] = ['Shoulder', 'UpperArm', 'UpperLeg'].map(r => J[side + r])
    // the collar bones carry the top of the trunk out to the arms; thighs take what lies below their joints
    const out = (Math.abs(p[0]) - Math.abs(collar[0])) / Math.max(1e-6, Math.abs(arm[0]) - Math.abs(collar[0]))
    const high = smooth((p[1] - arm[1] + 0.08 * H) / (0.07 * H))
    const held = 0.8 * smooth(out) * high * (1 - (row.get('head') ?? 0) - (row.get('neck') ?? 0))
    const low = 0.5 * smooth((leg[1] - p[1]) / (0.05 * H)) * smooth(Math.abs(p[0]) / Math.abs(leg[0] || 1))
    return mixed([
      [1 - held - low, row],
      [held, new Map([[`${side}Shoulder`, 1]])],
      [low, new Map([[`${side}UpperLeg`, 1]])],
    ])
  }
  const arm = (p: Vec3, s: 'left' | 'right'): Row =>
    alongChain(p, [`${s}Shoulder`, `${s}UpperArm`, `${s}LowerArm`, `${s}Hand`].map(link), J[`${s}HandEnd`], 0.03 * H)
  const leg = (p: Vec3, s: 'left' | 'right'): Row => {
    const [hip, knee] = [J[`${s}UpperLeg`], J[`${s}LowerLeg`]]
    const above: Link = { role: 'hips', at: addScaled(hip, sub(hip, knee), 0.35) }
    return alongChain(
      p,
      [above, ...[`${s}UpperLeg`, `${s}LowerLeg`, `${s}Foot`].map(link)],
      J[`${s}ToesEnd`],
      0.045 * H,
    )
  }
  const foot = (p: Vec3, s: 'left' | 'right'): Row =>
    alongChain(p, [`${s}Foot`, `${s}Toes`].map(link), J[`${s}ToesEnd`], 0.02 * H)
  /** Cloth about the legs: more theirs the lower it hangs, passing from one to the other across. */
  const skirt = (p: Vec3): Row => {
    const hip = lerp(J.leftUpperLeg, J.rightUpperLeg, 0.5)
    const knee = lerp(J.leftLowerLeg, J.rightLowerLeg, 0.5)
    const down = 0.85 * smooth((hip[1] + 0.03 * H - p[1]) / Math.max(0.05 * H, hip[1] - knee[1]))
    const reach = Math.max(0.04 * H, Math.abs(J.leftLowerLeg[0] - J.rightLowerLeg[0]) / 2)
    const left = smooth(0.5 + (p[0] - knee[0]) / (2.4 * reach))
    return mixed([
      [1 - down, trunk([p[0], Math.max(p[1], hip[1]), p[2]])],
      [down * left, leg(p, 'left')],
      [down * (1 - left), leg(p, 'right')],
    ])
  }
  const hair = (p: Vec3): Row => {
    const below = 0.6 * smooth((J.head[1] - p[1]) / (0.15 * H))
    return new Map([
      ['head', 1 - below],
      ['upperChest', below],
    ])
  }

  for (const part of mesh.parts) {
    const used = new Set(mesh.indices.subarray(part.start, part.start + part.count))
    // parts of one name are numbered
    const name = part.name.replace(/[ ._]*\d+$/, '')
    const plain = name.replace(/^(left|right) /, '')
    const told = /^(left|right) /.exec(name)?.[1] as 'left' | 'right' | undefined
    const some = [...used].map(v => vec3At(mesh.positions, v))
    const middle = [0, 1, 2].map(k => some.reduce((s, p) => s + p[k], 0) / some.length) as Vec3
    let side = told ?? (middle[0] > 0 ? 'left' : 'right')
    if (plain === 'staff' || plain === 'blade' || plain === 'shield') {
      // what is held is near the hand with one of its ends, not with its middle
      const near = (s: 'left' | 'right'): number =>
        some.reduce((least, p) => Math.min(least, distance(p, lerp(J[`${s}Hand`], J[`${s}HandEnd`], 0.45))), Infinity)
      side = near('left') < near('right') ? 'left' : 'right'
    }
    const rides = RIDES[plain]?.replace('@', side)
    const nature: Nature = rides
      ? ['nose', 'head'].includes(plain)
        ? 'flesh'
        : 'rigid'
      : /robe|skirt|coat|tassets|cape|^hair|sleeve|trouser|seat|collar/.test(plain)
        ? 'cloth'
        : 'flesh'
    for (const v of used) {
      const p = vec3At(mesh.positions, v)
      const row: Row = rides
        ? new Map([[rides, 1]])
        : /arm|sleeve/.test(plain)
          ? arm(p, side)
          : /palm|hand|thumb|finger/.test(plain)
            ? new Map([[`${side}Hand`, 1]])
            : /leg|trouser/.test(plain)
              ? leg(p, side)
              : /foot|sole/.test(plain)
                ? foot(p, side)
                : /robe|skirt|coat|tassets|seat/.test(plain)
                  ? skirt(p)
                  : plain === 'hair'
                    ? hair(p)
                    : plain === 'cape'
                      ? trunk([0, p[1], 0])
                      : trunk(p)
      natures[v] = nature
      for (const [role, w] of row) {
        const j = at.get(role)
        if (j !== undefined && w > 0) gather.add(j, w)
      }
      gather.settle(v)
    }
  }
  return { skeleton, skin, natures }
}
