import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { angleOf, fromAxisAngle, quatAt, rotate, vec3At, type Vec3 } from '../src/math'
import {
  copyOf,
  createPoser,
  footPivots,
  handleSet,
  isDriven,
  limbReach,
  limbsOfSet,
  PIVOTS,
  poseOn,
  rollFoot,
  shapeHand,
  storedPose,
  withHinges,
  type DragOptions,
  type Handle,
  type HandleSet,
  type Pivot,
} from '../src/handles'
import { mirrored, worldPose, atBind, type Skeleton } from '../src/skeleton'
import type { FigurePose } from '../src/reach'
import { bodyFrame } from '../src/retarget'
import type { Mesh } from '../src/mesh'
import { makeFigure, ODA, referenceSkin, trueSkeleton } from '@chiraxis/demo/figures'
import { biped, ROLES, wildAxes, wildTake } from './skeletons'

const joints = Object.fromEntries(ROLES.map((r, j) => [r, j]))
const off = (a: Vec3, b: Vec3): number => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2])
const angleBetween = (a: Vec3, b: Vec3): number => {
  const dot = a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
  return (Math.acos(dot / (Math.hypot(...a) * Math.hypot(...b))) * 180) / Math.PI
}
const rotationsAlike = (a: FigurePose, b: FigurePose, n: number): number => {
  let most = 0
  for (let j = 0; j < n; j++) most = Math.max(most, angleOf(quatAt(a.rotations, j), quatAt(b.rotations, j)))
  return most
}
function stood(seed: number): { s: Skeleton; from: FigurePose; limbs: ReturnType<typeof limbsOfSet> } {
  const s = biped({ axes: wildAxes(seed) })
  const take = wildTake(s, seed, 1)
  const bind = worldPose(atBind(s))
  const limbs = limbsOfSet(s, joints, bodyFrame(s, joints), j => vec3At(bind.positions, j))
  return { s, from: take, limbs }
}

describe('a limb by its joints and by its end', () => {
  it('are one pose: what its end tells brings it back, to a tenth of a degree and of a millimetre', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 0, max: 3 }), (seed, which) => {
        const { s, from, limbs } = stood(seed)
        const limb = limbs[which]
        const reach = limbReach(s, limbs)
        const goal = reach.endOf(from, limb)
        const w = worldPose(s, from.translations, from.rotations)
        const [u, m, e] = [limb.upper, limb.lower, limb.end].map(j => vec3At(w.positions, j))
        // where a limb is straight to the last bit of single precision, its length tells nothing of its bend
        fc.pre(off(u, m) + off(m, e) - off(u, e) > 1e-4)
        // bent otherwise in between, by the end, then back
        const pose = copyOf(from)
        reach.to(pose, limb, { place: goal.place.map((p, k) => u[k] + 0.8 * (p - u[k]) + 0.02 * k) as Vec3 })
        expect(rotationsAlike(from, pose, ROLES.length)).toBeGreaterThan(0.1)
        reach.to(pose, limb, goal)
        const [a, b] = [from, pose].map(p => worldPose(s, p.translations, p.rotations))
        for (const j of [limb.upper, limb.lower, limb.end])
          expect(off(vec3At(a.positions, j), vec3At(b.positions, j))).toBeLessThan(1e-4)
        expect(rotationsAlike(from, pose, ROLES.length)).toBeLessThan(0.1 * (Math.PI / 180))
      }),
      { numRuns: 80 },
    )
  })
  it('an end keeps its turn and its middle its plane while it is pulled, and the girdle helps near the end of reach alone', () => {
    const s = biped()
    const bind = worldPose(atBind(s))
    const limbs = limbsOfSet(s, joints, [0, 0, 0, 1], j => vec3At(bind.positions, j))
    const reach = limbReach(s, limbs)
    const arm = limbs.find(l => l.ref === 'leftHand')!
    const rest: FigurePose = { translations: s.restTranslations, rotations: s.restRotations }
    const near = copyOf(rest)
    expect(reach.to(near, arm, { place: [0.45, 1.3, 0.2] })).toBeLessThan(1e-4)
    expect(quatAt(near.rotations, joints.leftShoulder)).toEqual(quatAt(rest.rotations, joints.leftShoulder))
    const far = copyOf(rest)
    const stays = reach.to(far, arm, { place: [0.2, 1.5, 0.75] })
    expect(
      angleOf(quatAt(far.rotations, joints.leftShoulder), quatAt(rest.rotations, joints.leftShoulder)),
    ).toBeGreaterThan(0.02)
    expect(stays).toBeGreaterThan(0.05)
    const w = worldPose(s, far.translations, far.rotations)
    expect(angleOf(quatAt(w.rotations, joints.leftHand), quatAt(bind.rotations, joints.leftHand))).toBeLessThan(1e-3)
  })
})

describe('a kept pose', () => {
  it('is the same pose again, on any joint axes, and the mirror of its mirror', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), seed => {
        const { s, from } = stood(seed)
        const kept = storedPose(s, joints, from)
        const again = poseOn(s, joints, kept)
        expect(rotationsAlike(from, again, ROLES.length)).toBeLessThan(1e-3)
        const twice = mirrored(s, mirrored(s, kept.turns))
        const back = poseOn(s, joints, { ...kept, turns: twice })
        expect(rotationsAlike(from, back, ROLES.length)).toBeLessThan(1e-3)
        // told in the axes of the body, it looks alike on joints with other axes
        const other = biped({ axes: wildAxes(seed + 1) })
        const [a, b] = [worldPose(s, again.translations, again.rotations), poseOn(other, joints, kept)]
        const w = worldPose(other, b.translations, b.rotations)
        ROLES.forEach((_, j) => expect(off(vec3At(a.positions, j), vec3At(w.positions, j))).toBeLessThan(1e-3))
      }),
      { numRuns: 30 },
    )
  })
})

describe('handles of a body', () => {
  let mesh: Mesh
  let skeleton: Skeleton
  let set: HandleSet
  let own: Record<string, number>
  beforeAll(async () => {
    const figure = makeFigure(ODA, { vertices: 6000 })
    mesh = figure.mesh
    skeleton = trueSkeleton(figure)
    own = Object.fromEntries(skeleton.roles.flatMap((r, j) => (r ? [[r, j]] : [])))
    set = await handleSet(mesh, skeleton, referenceSkin(figure, skeleton), own, [0, 0, 0, 1])
  })
  const handle = (id: string): Handle => set.handles.find(h => h.id === id)!
  const rest = (): FigurePose => ({ translations: skeleton.restTranslations, rotations: skeleton.restRotations })
  const worldOf = (p: FigurePose) => worldPose(skeleton, p.translations, p.rotations)
  const placeOf = (p: FigurePose, role: string): Vec3 => vec3At(worldOf(p).positions, own[role])

  it('are known by role, one for every joint that moves something, with the body’s own cuts as shapes', () => {
    const ids = set.handles.map(h => h.id)
    expect(new Set(ids).size).toBe(ids.length)
    for (const id of [
      'figure',
      'move hips',
      'turn hips',
      'turn head',
      'end leftHand',
      'end rightFoot',
      'bend leftLowerArm',
      'turn rightIndexProximal',
    ])
      expect(ids).toContain(id)
    // a cut lies around its limb: at the thigh about as wide as a thigh
    const thigh = handle('turn leftUpperLeg').shape
    const n = thigh.points.length / 3
    expect(n).toBe(40)
    const middle: Vec3 = [0, 0, 0]
    for (let i = 0; i < n; i++) for (const k of [0, 1, 2] as const) middle[k] += thigh.points[3 * i + k] / n
    for (let i = 0; i < n; i++) {
      const r = off(vec3At(thigh.points, i), middle)
      expect(r).toBeGreaterThan(0.02)
      expect(r).toBeLessThan(0.2)
    }
    // the sole lies under the foot, at the ground
    const sole = handle('end leftFoot').shape
    const w = worldPose(atBind(skeleton))
    for (let i = 0; i < sole.points.length / 3; i++)
      expect(vec3At(w.positions, sole.joint)[1] + sole.points[3 * i + 1]).toBeLessThan(0.03)
  })
  it('legs follow the ground and arms are turned, unless it is told otherwise', () => {
    expect(isDriven(set, handle('end leftFoot'), undefined)).toBe(true)
    expect(isDriven(set, handle('turn leftUpperLeg'), undefined)).toBe(false)
    expect(isDriven(set, handle('end leftHand'), undefined)).toBe(false)
    expect(isDriven(set, handle('end leftHand'), { leftHand: { by: 'end', follows: 'trunk' } })).toBe(true)
  })
  const dragged = (id: string, by: Vec3, options: DragOptions): FigurePose & { off: number } => {
    const poser = createPoser(skeleton, own, [0, 0, 0, 1], set)
    const h = handle(id)
    const grab = vec3At(worldOf(rest()).positions, h.joint)
    const at: Vec3 = h.kind === 'turn' ? [grab[0], grab[1] - 0.2, grab[2]] : grab
    return poser.begin(rest(), h, at, options)!([at[0] + by[0], at[1] + by[1], at[2] + by[2]])
  }
  it('hips that are moved leave the feet where they are', () => {
    for (const reach of ['limb', 'whole'] as const) {
      const pose = dragged('move hips', [0.05, -0.15, 0.02], { reach })
      expect(off(placeOf(pose, 'hips'), placeOf(rest(), 'hips'))).toBeGreaterThan(0.1)
      for (const foot of ['leftFoot', 'rightFoot'])
        expect(off(placeOf(pose, foot), placeOf(rest(), foot))).toBeLessThan(1e-4)
    }
  })
  it('a hand that follows the trunk goes along with it, one that follows the ground stays', () => {
    // hands are brought up a little: arms that hang straight are not long enough to stay
    const poser = createPoser(skeleton, own, [0, 0, 0, 1], set)
    const bent = copyOf(rest())
    for (const limb of set.limbs.filter(l => !l.leg)) {
      const [x, y, z] = placeOf(bent, limb.ref)
      poser.reach.to(bent, limb, { place: [x, y + 0.1, z + 0.1] })
    }
    const turned = (follows: 'trunk' | 'ground'): FigurePose =>
      poser.turn(bent, own.chest, fromAxisAngle([0, 1, 0], 0.15), {
        reach: 'limb',
        drives: { leftHand: { by: 'end', follows }, rightHand: { by: 'end', follows } },
      })
    expect(off(placeOf(turned('ground'), 'leftHand'), placeOf(bent, 'leftHand'))).toBeLessThan(1e-4)
    const along = turned('trunk')
    expect(off(placeOf(along, 'leftHand'), placeOf(bent, 'leftHand'))).toBeGreaterThan(0.025)
    // and it is still where it was, seen from the chest
    const seen = (p: FigurePose): number => off(placeOf(p, 'leftHand'), placeOf(p, 'upperChest'))
    expect(seen(along)).toBeCloseTo(seen(bent), 3)
  })
  it('a pulled hand takes the whole figure along and leaves what is held', () => {
    const pose = dragged('end rightHand', [-0.3, -0.5, 0.5], {
      reach: 'whole',
      holds: [{ joint: 'leftHand', place: true, turn: false }],
    })
    for (const held of ['leftFoot', 'rightFoot', 'leftHand'])
      expect(off(placeOf(pose, held), placeOf(rest(), held))).toBeLessThan(1e-4)
    expect(angleOf(quatAt(pose.rotations, own.spine), quatAt(rest().rotations, own.spine))).toBeGreaterThan(0.02)
  })
  it('a place of one’s own on a sole lies where it is told, and the foot rolls over it', () => {
    const poser = createPoser(skeleton, own, [0, 0, 0, 1], set)
    const from = poser.begin(rest(), handle('move hips'), placeOf(rest(), 'hips'), { reach: 'limb' })!([
      0,
      placeOf(rest(), 'hips')[1] - 0.12,
      0,
    ])
    for (const foot of ['leftFoot', 'rightFoot']) {
      const limb = set.limbs.find(l => l.ref === foot)!
      const mine = { id: 'mine', name: 'Mine', foot, along: 0.6, across: 0.5 }
      const pivots = footPivots(skeleton, own, set, limb, [mine, { ...mine, id: 'edge', along: 0.5, across: 1 }])!
      const at = (p: FigurePose, over: string): Vec3 => {
        const w = worldOf(p)
        const [x, y, z] = rotate(quatAt(w.rotations, limb.end), pivots[over].place)
        const j = vec3At(w.positions, limb.end)
        return [j[0] + x, j[1] + y, j[2] + z]
      }
      expect(at(from, 'mine')[2]).toBeGreaterThan(at(from, 'heel')[2])
      expect(at(from, 'mine')[2]).toBeLessThan(at(from, 'tip')[2])
      // outwards is away from the other foot
      expect(Math.abs(at(from, 'edge')[0])).toBeGreaterThan(Math.abs(at(from, 'mine')[0]))
      expect(Math.abs(at(from, 'edge')[0])).toBeLessThan(Math.abs(at(from, 'outer')[0]) + 0.02)
      const rolled = rollFoot(skeleton, own, poser.reach, from, limb, pivots, 'mine', 0.3)
      expect(off(at(rolled, 'mine'), at(from, 'mine'))).toBeLessThan(1e-4)
      expect(at(rolled, 'heel')[1]).toBeGreaterThan(at(from, 'heel')[1] + 0.01)
    }
    // those of the other foot are none of this one's
    const right = set.limbs.find(l => l.ref === 'rightFoot')!
    const left = { id: 'mine', name: 'Mine', foot: 'leftFoot', along: 0.6, across: 0 }
    expect(footPivots(skeleton, own, set, right, [left])!.mine).toBeUndefined()
  })
  it('a hinge set by hand rules where the middle points, needs no mark, and never flips as the limb gets straight', () => {
    const drives = { leftHand: { by: 'end', follows: 'trunk', hinge: 90 } } as const
    const turned = withHinges(set, skeleton, drives)
    expect(withHinges(set, skeleton, {})).toBe(set)
    const way = (s: HandleSet): Vec3 => s.limbs.find(l => l.ref === 'leftHand')!.way
    expect(Math.abs(angleBetween(way(set), way(turned)) - 90)).toBeLessThan(12)
    expect(isDriven(set, handle('bend leftLowerArm'), drives)).toBe(false)
    const poser = createPoser(skeleton, own, [0, 0, 0, 1], turned)
    const start = rest()
    const hand = placeOf(start, 'leftHand')
    const pulled = poser.begin(start, handle('end leftHand'), hand, { reach: 'limb', drives })!
    let last: Vec3 | undefined
    for (let i = 0; i <= 40; i++) {
      // from near the shoulder to beyond the end of reach
      const shoulder = placeOf(start, 'leftUpperArm')
      const to = hand.map((v, k) => shoulder[k] + (0.5 + i / 60) * (v - shoulder[k])) as Vec3
      const p = pulled(to)
      const elbow = placeOf(p, 'leftLowerArm')
      if (last) expect(off(elbow, last)).toBeLessThan(0.05)
      last = elbow
      if (i < 20) {
        const middle = [0, 1, 2].map(k => (placeOf(p, 'leftUpperArm')[k] + placeOf(p, 'leftHand')[k]) / 2)
        const out = elbow.map((v, k) => v - middle[k]) as Vec3
        expect(angleBetween(out, way(turned))).toBeLessThan(40)
      }
    }
  })
  it('a foot rolls over its heel, ball, tip and edges, which stay on the ground where they were', () => {
    const poser = createPoser(skeleton, own, [0, 0, 0, 1], set)
    // knees bent a little, so that every roll is within reach
    const from = poser.begin(rest(), handle('move hips'), placeOf(rest(), 'hips'), { reach: 'limb' })!([
      0,
      placeOf(rest(), 'hips')[1] - 0.12,
      0,
    ])
    for (const ref of ['leftFoot', 'rightFoot']) {
      const limb = set.limbs.find(l => l.ref === ref)!
      const pivots = footPivots(skeleton, own, set, limb)!
      const at = (p: FigurePose, over: Pivot): Vec3 => {
        const w = worldOf(p)
        const [x, y, z] = rotate(quatAt(w.rotations, limb.end), pivots[over].place)
        const j = vec3At(w.positions, limb.end)
        return [j[0] + x, j[1] + y, j[2] + z]
      }
      expect(at(from, 'tip')[2]).toBeGreaterThan(at(from, 'ball')[2])
      expect(at(from, 'ball')[2]).toBeGreaterThan(at(from, 'heel')[2] + 0.1)
      // the inner edge is the one at the other foot
      expect(Math.abs(at(from, 'inner')[0])).toBeLessThan(Math.abs(at(from, 'outer')[0]) - 0.04)
      const OTHER = { heel: 'tip', ball: 'heel', tip: 'heel', inner: 'outer', outer: 'inner' } as const
      for (const over of PIVOTS) {
        const rolled = rollFoot(skeleton, own, poser.reach, from, limb, pivots, over, 0.35)
        expect(off(at(rolled, over), at(from, over))).toBeLessThan(1e-4)
        // what lies on the other side rises
        expect(at(rolled, OTHER[over])[1]).toBeGreaterThan(at(from, OTHER[over])[1] + 0.01)
        expect(off(placeOf(rolled, 'hips'), placeOf(from, 'hips'))).toBe(0)
        const back = rollFoot(skeleton, own, poser.reach, rolled, limb, pivots, over, -0.35)
        expect(rotationsAlike(back, from, skeleton.names.length)).toBeLessThan(2e-3)
      }
      // over the ball the toes lie as they lay
      const toes = own[ref.replace('Foot', 'Toes')]
      const onBall = rollFoot(skeleton, own, poser.reach, from, limb, pivots, 'ball', 0.35)
      expect(angleOf(quatAt(worldOf(onBall).rotations, toes), quatAt(worldOf(from).rotations, toes))).toBeLessThan(1e-3)
    }
  })
  it('a fist curls fingers towards the palm, a spread hand takes their tips apart', () => {
    for (const side of ['left', 'right'] as const) {
      const tips = (rotations: Float32Array): Vec3[] => {
        const w = worldPose(skeleton, skeleton.restTranslations, rotations)
        return ['Index', 'Little'].map(f => vec3At(w.positions, own[`${side}${f}Distal`]))
      }
      const open = shapeHand(skeleton, own, side, { curl: 0, spread: 0, relax: 0 }, skeleton.restRotations)
      const fist = shapeHand(skeleton, own, side, { curl: 1, spread: 0, relax: 0 }, open)
      const wide = shapeHand(skeleton, own, side, { curl: 0, spread: 1, relax: 0 }, open)
      const [a, b] = tips(wide),
        [c, d] = tips(open)
      expect(off(a, b)).toBeGreaterThan(off(c, d) + 0.01)
      const wrist = vec3At(worldPose(atBind(skeleton)).positions, own[`${side}Hand`])
      expect(off(tips(fist)[0], wrist)).toBeLessThan(0.75 * off(c, wrist))
      // the palm of arms that hang looks at the body: a fist closes inwards
      const inwards = (p: Vec3): number => Math.abs(p[0])
      expect(inwards(tips(fist)[0])).toBeLessThan(inwards(c) + 0.02)
    }
  })
})
