import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  angleOf,
  conjugate,
  fromAxisAngle,
  multiply,
  normalizeQuat,
  quatAt,
  seededRandom,
  vec3At,
  type Vec3,
} from '../src/math'
import {
  applyLayers,
  channelName,
  createLayering,
  curveOf,
  draggedShift,
  draggedTurn,
  driveOf,
  keyedBetween,
  keysBetween,
  layerParts,
  limbTold,
  poseKeys,
  mirroredKey,
  momentsAround,
  readCurve,
  withKey,
  withoutKeys,
  withPose,
  type Ease,
  type Layer,
  type LayerKey,
  laidApart,
  takenBack,
} from '../src/layers'
import { bodyFrame } from '../src/retarget'
import { storedPose } from '../src/handles'
import { worldPose } from '../src/skeleton'
import type { Played } from '../src/motion'
import { biped, ROLES, wildAxes, wildTake } from './skeletons'

const joints = Object.fromEntries(ROLES.map((r, j) => [r, j]))
const J = ROLES.length
function played(seed = 5, place?: (p: Vec3) => Vec3): Played {
  const skeleton = biped({ axes: wildAxes(seed), ...(place && { place }) })
  return { skeleton, joints, take: wildTake(skeleton, seed, 24), frame: bodyFrame(skeleton, joints) }
}
const layer = (keys: LayerKey[], more: Partial<Layer> = {}): Layer => ({
  id: 'one',
  name: 'One',
  mode: 'add',
  weight: 1,
  keys,
  ...more,
})
const turn = (joint: string, at: number, value: number[], ease?: Ease): LayerKey => ({
  at,
  channel: channelName('turn', joint),
  value,
  ...(ease && { ease }),
})
const reach = (joint: string, at: number, value: number[]): LayerKey => ({
  at,
  channel: channelName('reach', joint),
  value,
})
const poseAt = (p: Played, take: Played['take'], f: number) =>
  worldPose(p.skeleton, take.translations, take.rotations, f * J)
const off = (a: Vec3, b: Vec3): number => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2])

describe('a curve through keys', () => {
  const keys = fc
    .uniqueArray(fc.integer({ min: 0, max: 100 }), { minLength: 1, maxLength: 8 })
    .chain(times =>
      fc.tuple(
        fc.constant(times),
        fc.array(fc.double({ min: -2, max: 2, noNaN: true }), { minLength: times.length, maxLength: times.length }),
      ),
    )
    .map(([times, values]) => times.map((t, i): LayerKey => ({ at: t / 10, channel: 'weight', value: [values[i]!] })))
  const at = (list: readonly LayerKey[], t: number): number => {
    const out = new Float64Array(3)
    readCurve(curveOf(list), t, out)
    return out[0]!
  }
  it('goes through every key, stays between its neighbours, and holds outside', () => {
    fc.assert(
      fc.property(keys, fc.double({ min: -1, max: 11, noNaN: true }), (list, t) => {
        const sorted = [...list].sort((a, b) => a.at - b.at)
        for (const k of list) expect(at(list, k.at)).toBeCloseTo(k.value[0]!, 9)
        const before = sorted.filter(k => k.at <= t).at(-1) ?? sorted[0]!,
          after = sorted.find(k => k.at >= t) ?? sorted.at(-1)!
        const [low, high] = [before.value[0]!, after.value[0]!].sort((a, b) => a - b)
        expect(at(list, t)).toBeGreaterThanOrEqual(low! - 1e-9)
        expect(at(list, t)).toBeLessThanOrEqual(high! + 1e-9)
      }),
    )
  })
  it('is smooth through a key in the middle of a rise, straight or stepped where it is told to be', () => {
    const rise = [0, 1, 4].map((v, i): LayerKey => ({ at: i, channel: 'weight', value: [v] }))
    const slope = (t: number): number => (at(rise, t + 1e-5) - at(rise, t - 1e-5)) / 2e-5
    expect(slope(0.9999)).toBeCloseTo(slope(1.0001), 2)
    expect(slope(1)).toBeGreaterThan(0.5)
    expect(
      at(
        rise.map(k => ({ ...k, ease: 'linear' })),
        1.5,
      ),
    ).toBeCloseTo(2.5, 9)
    expect(
      at(
        rise.map(k => ({ ...k, ease: 'stepped' })),
        1.99,
      ),
    ).toBe(1)
  })
})

describe('a layer', () => {
  it('without weight, muted or without anything to say is the take, to the bit', () => {
    const p = played()
    const says = [turn('leftUpperArm', 0.2, [0.5, 0.1, 0]), reach('rightHand', 0.4, [0.1, 0, 0])]
    for (const l of [
      layer(says, { weight: 0 }),
      layer(says, { muted: true }),
      layer([]),
      layer(says.map(k => ({ ...k, value: [0, 0, 0] }))),
      layer([...says, { at: 0, channel: 'weight', value: [0] }]),
    ])
      expect(applyLayers(p, [l]).take).toBe(p.take)
    const fading = layer([
      ...says,
      { at: 0.3, channel: 'weight', value: [0] },
      { at: 0.5, channel: 'weight', value: [1] },
    ])
    const laid = applyLayers(p, [fading]).take
    expect(laid.rotations.subarray(0, 4 * J * 5)).toEqual(p.take.rotations.subarray(0, 4 * J * 5))
    expect(laid.rotations).not.toEqual(p.take.rotations)
  })
  it('turns a joint in the axes of the body, whatever its own are, and nothing beside it', () => {
    for (const seed of [1, 2, 3]) {
      const p = played(seed)
      const laid = applyLayers(p, [layer([turn('leftLowerArm', 0, [0, 0.7, 0])])]).take
      const bind = worldPose(p.skeleton)
      for (let f = 0; f < p.take.frames; f += 5)
        for (let j = 0; j < J; j++) {
          const by = multiply(conjugate(quatAt(p.take.rotations, f * J + j)), quatAt(laid.rotations, f * J + j))
          if (j !== joints.leftLowerArm) expect(angleOf(by)).toBeLessThan(1e-3)
          else {
            // seen in the world as bound it is the turn that was told
            const world = quatAt(bind.rotations, j)
            const told = multiply(multiply(world, by), conjugate(world))
            const inBody = multiply(multiply(p.frame, told), conjugate(p.frame))
            expect(angleOf(inBody, fromAxisAngle([0, 1, 0], 0.7))).toBeLessThan(1e-3)
          }
        }
    }
  })
  it('brings an end where it was told from wherever the take has it, to a tenth of a millimetre', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 40 }),
        fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -0.12, max: 0.12, noNaN: true }))),
        (seed, value) => {
          const p = played(seed)
          const parts = layerParts(p)
          for (const end of ['leftHand', 'rightFoot']) {
            const drive = driveOf(p, parts, 'reach', end)!
            const laid = applyLayers(p, [layer([reach(end, 0, value)])]).take
            const f = 11
            const a = poseAt(p, p.take, f),
              b = poseAt(p, laid, f)
            const { limb, long } = drive
            const from = vec3At(a.positions, drive.joint),
              to = vec3At(b.positions, drive.joint)
            const upper = vec3At(a.positions, limb!.upper)
            const asked = draggedShiftBack(p, end, value, a)
            const goal = [0, 1, 2].map(k => from[k]! + asked[k]!) as unknown as Vec3
            const far = off(goal, upper)
            // what cannot be reached gives way softly
            if (far > 0.95 * long || far < 0.3 * long) continue
            expect(off(to, goal)).toBeLessThan(1e-4)
            // the end keeps its turn
            expect(angleOf(quatAt(a.rotations, drive.joint), quatAt(b.rotations, drive.joint))).toBeLessThan(2e-3)
          }
        },
      ),
      { numRuns: 25 },
    )
  })
  /** What a value of a limb's end comes to, metres in the skeleton's space. */
  function draggedShiftBack(p: Played, end: string, value: readonly number[], pose: ReturnType<typeof poseAt>): Vec3 {
    const parts = layerParts(p)
    const drive = driveOf(p, parts, 'reach', end)!
    // found by asking how each axis is told
    const basis = (
      [
        [1, 0, 0],
        [0, 1, 0],
        [0, 0, 1],
      ] as Vec3[]
    ).map(axis => draggedShift(parts, drive, [0, 0, 0], axis, pose, 1))
    // told = M·by with M orthogonal over the length: by = Mᵀ·told·long²
    return [0, 1, 2].map(
      k => [0, 1, 2].reduce((sum, e) => sum + basis[k]![e]! * value[e]!, 0) * drive.long ** 2,
    ) as unknown as Vec3
  }
  it('moves the hips over feet that stay', () => {
    const p = played(7)
    const value = [0.03, -0.05, 0.02]
    const laid = applyLayers(p, [layer([{ at: 0, channel: 'move hips', value }])]).take
    const long = layerParts(p).legs[0]!.long
    for (let f = 0; f < p.take.frames; f += 4) {
      const a = poseAt(p, p.take, f),
        b = poseAt(p, laid, f)
      const moved = off(vec3At(a.positions, joints.hips!), vec3At(b.positions, joints.hips!))
      expect(moved).toBeCloseTo(long * Math.hypot(...value), 5)
      for (const foot of ['leftFoot', 'rightFoot'])
        expect(off(vec3At(a.positions, joints[foot]!), vec3At(b.positions, joints[foot]!))).toBeLessThan(0.03 * long)
    }
  })
  it('in place of the take shows the pose that was told, whatever the take does', () => {
    const p = played(9)
    const pose = ROLES.map((role, i) => turn(role, 0, [0.1 * Math.sin(i), 0.1 * Math.cos(i), 0.05]))
    const laid = applyLayers(p, [layer(pose, { mode: 'replace' })]).take
    for (let j = 0; j < J; j++) {
      const first = quatAt(laid.rotations, j)
      for (let f = 1; f < laid.frames; f++) expect(angleOf(first, quatAt(laid.rotations, f * J + j))).toBeLessThan(1e-3)
    }
    const half = applyLayers(p, [layer(pose, { mode: 'replace', weight: 0.5 })]).take
    const f = 6,
      j = joints.leftUpperArm!
    const [a, b, c] = [p.take, half, laid].map(t => quatAt(t.rotations, f * J + j))
    expect(angleOf(a!, b!)).toBeCloseTo(angleOf(b!, c!), 3)
  })
  it('fits another figure: turns alike, shares of its own limbs', () => {
    const p = played(4)
    const tall = { ...played(4, ([x, y, z]) => [1.5 * x, 1.5 * y, 1.5 * z]) }
    const l = layer([reach('leftHand', 0, [0.1, 0.05, 0]), turn('head', 0, [0, 0.4, 0])])
    const still = (q: Played): Played => ({
      ...q,
      take: {
        ...q.take,
        rotations: new Float32Array(q.take.rotations.length).map((_, i) => q.skeleton.restRotations[i % (4 * J)]!),
      },
    })
    const a = still(p),
      b = still(tall)
    const [x, y] = [a, b].map(q => {
      const t = applyLayers(q, [l]).take
      return off(
        vec3At(poseAt(q, q.take, 3).positions, joints.leftHand!),
        vec3At(poseAt(q, t, 3).positions, joints.leftHand!),
      )
    })
    expect(y! / x!).toBeCloseTo(1.5, 1)
  })
  it('keeps its moments through trim and pace, and changes sides with a mirror', () => {
    const p = played(3)
    const l = layer([turn('leftUpperArm', 0.5, [0.4, 0.1, -0.2]), turn('leftUpperArm', 0.6, [0, 0, 0])])
    const fps = p.take.fps
    const plain = applyLayers(p, [l]).take
    const later = applyLayers(p, [l], { timeOf: s => s - 5 / fps, mirrored: false }).take
    const change = (t: Played['take'], f: number, j: number): number =>
      angleOf(quatAt(p.take.rotations, f * J + j), quatAt(t.rotations, f * J + j))
    const arm = joints.leftUpperArm!
    const first = Math.round(0.5 * fps)
    expect(change(later, first - 5, arm)).toBeCloseTo(change(plain, first, arm), 4)
    const mirrored = applyLayers(p, [l], { timeOf: s => s, mirrored: true }).take
    expect(change(mirrored, first, arm)).toBeLessThan(1e-6)
    expect(change(mirrored, first, joints.rightUpperArm!)).toBeCloseTo(change(plain, first, arm), 4)
    fc.assert(
      fc.property(
        fc.constantFrom('turn leftUpperArm', 'reach rightFoot', 'move hips', 'turn cape.L'),
        fc.tuple(
          fc.double({ noNaN: true, min: -1, max: 1 }),
          fc.double({ noNaN: true, min: -1, max: 1 }),
          fc.double({ noNaN: true, min: -1, max: 1 }),
        ),
        (channel, value) => {
          const key: LayerKey = { at: 0, channel, value: value.map(v => v + 0) }
          expect(mirroredKey(mirroredKey(key))).toEqual(key)
        },
      ),
    )
  })
  it('tells what the figure has no part for, and does the rest', () => {
    const p = played(3)
    const { take, lost } = applyLayers(p, [layer([turn('leftWing1', 0, [1, 0, 0]), turn('head', 0, [0, 1, 0])])])
    expect(lost).toEqual([{ layer: 'One', channel: 'turn leftWing1' }])
    expect(take).not.toBe(p.take)
  })
})

describe('dragging', () => {
  it('of a turn adds up: the joint stands as it was dragged', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 30 }),
        fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -1, max: 1, noNaN: true }))),
        fc.double({ min: -1.5, max: 1.5, noNaN: true }),
        fc.double({ min: 0.3, max: 1, noNaN: true }),
        (seed, value, angle, weight) => {
          const p = played(seed)
          const parts = layerParts(p)
          const drive = driveOf(p, parts, 'turn', 'leftUpperArm')!
          const of = (v: readonly number[]): Played['take'] =>
            applyLayers(p, [layer([turn('leftUpperArm', 0, [...v])], { weight })]).take
          const before = of(value)
          const f = 8
          const pose = poseAt(p, before, f)
          const by = fromAxisAngle([0.6, 0, 0.8], angle)
          const now = draggedTurn(drive, value, by, pose, weight)
          const after = poseAt(p, of(now), f)
          const wanted = multiply(by, quatAt(pose.rotations, drive.joint))
          expect(angleOf(wanted, quatAt(after.rotations, drive.joint))).toBeLessThan(3e-3)
        },
      ),
      { numRuns: 30 },
    )
  })
  it('of keys: one a moment and channel, taken away again', () => {
    const l = layer([])
    const a = withKey(withKey(l, turn('head', 1, [1, 0, 0])), turn('head', 0.5, [0, 0, 0]))
    expect(a.keys.map(k => k.at)).toEqual([0.5, 1])
    const b = withKey(a, turn('head', 1.0002, [2, 0, 0]))
    expect(b.keys).toHaveLength(2)
    expect(withoutKeys(b, 1, ['turn head']).keys.map(k => k.at)).toEqual([0.5])
  })
  it('frame by frame is what the whole take comes to', () => {
    const p = played(6)
    const layers = [layer([reach('leftHand', 0.1, [0.1, 0, 0]), turn('spine', 0.3, [0.2, 0, 0])])]
    const { take } = applyLayers(p, layers)
    const R = new Float32Array(4 * J),
      T = new Float32Array(3 * J)
    const { frame } = createLayering(p, layers)
    for (const f of [0, 5, 17]) {
      frame(f, R, T)
      expect(R).toEqual(take.rotations.subarray(4 * J * f, 4 * J * (f + 1)))
    }
  })
})

describe('a kept pose on a layer', () => {
  it('is that pose wherever it is laid, on joints with other axes, and the take where it has no weight', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), seed => {
        const made = biped({ axes: wildAxes(seed + 1) })
        const from = wildTake(made, seed + 2, 1)
        const kept = storedPose(made, joints, from)
        const p = played(seed)
        const laid = layer(poseKeys(kept.turns, 0.1, p.frame), { mode: 'replace' })
        const { take } = applyLayers(p, [laid])
        const [a, b] = [worldPose(made, made.restTranslations, from.rotations), poseAt(p, take, 3)]
        // as the hips stand in the take, so stands the rest: joints are turned against those they hang on
        const shift = vec3At(a.positions, joints.hips).map((v, k) => vec3At(b.positions, joints.hips)[k] - v) as Vec3
        ROLES.forEach((_, j) => {
          const [x, y, z] = vec3At(a.positions, j)
          expect(off([x + shift[0], y + shift[1], z + shift[2]], vec3At(b.positions, j))).toBeLessThan(2e-3)
        })
        expect(applyLayers(p, [{ ...laid, weight: 0 }]).take).toBe(p.take)
      }),
      { numRuns: 30 },
    )
  })
})

describe('what was corrected, as a layer', () => {
  it('makes the corrected take of the one below: ends to two millimetres, turns to half a degree', () => {
    for (const seed of [4, 19, 33, 58]) {
      const p = played(seed)
      const { skeleton, take } = p
      // corrected as takes are: the trunk turned, the hips shifted over feet that stay, hands and feet brought elsewhere
      const corrected = applyLayers(p, [
        layer([
          turn('spine', 0, [0.1, -0.05, 0]),
          turn('spine', 0.5, [0, 0.12, 0.05]),
          { at: 0.2, channel: 'move hips', value: [0.02, -0.05, 0.01] },
          { at: 0.6, channel: 'move hips', value: [0, 0, 0.02] },
          reach('leftHand', 0.1, [0, 0, 0]),
          reach('leftHand', 0.4, [0.06, 0.1, -0.08]),
          reach('rightFoot', 0.3, [0.01, 0.05, 0.04]),
          turn('rightHand', 0.2, [0.3, 0.1, 0]),
        ]),
      ]).take
      const keys = keysBetween(p, corrected)
      const again = applyLayers(p, [layer([...keys])])
      expect(again.lost).toEqual([])
      for (let f = 0; f < take.frames; f++) {
        const [a, b] = [poseAt(p, corrected, f), poseAt(p, again.take, f)]
        for (const r of ['leftHand', 'rightHand', 'leftFoot', 'rightFoot'])
          expect(off(vec3At(a.positions, joints[r]), vec3At(b.positions, joints[r]))).toBeLessThan(2e-3)
        // nothing is brought to its place at the end of the trunk
        for (const r of ['hips', 'head'])
          expect(off(vec3At(a.positions, joints[r]), vec3At(b.positions, joints[r]))).toBeLessThan(4e-3)
        for (const r of ['leftHand', 'rightHand', 'head', 'rightFoot'])
          expect(angleOf(quatAt(a.rotations, joints[r]), quatAt(b.rotations, joints[r]))).toBeLessThan(
            0.5 * (Math.PI / 180),
          )
      }
      // a key on every frame of every channel would be no use to anybody
      expect(keys.length).toBeLessThan(0.8 * take.frames * new Set(keys.map(k => k.channel)).size)
      expect(keysBetween(p, take)).toEqual([])
      expect(skeleton.names.length).toBe(J)
    }
  })
})

describe('keys of a whole pose, and between others', () => {
  it('make the frame that pose: ends to two millimetres, what hangs on no limb to a tenth of a degree, whatever was keyed before', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e5 }), seed => {
        const p = played(seed)
        const f = 7
        const take = {
          ...p.take,
          frames: 1,
          rotations: p.take.rotations.slice(4 * J * f, 4 * J * (f + 1)),
          translations: p.take.translations.slice(3 * J * f, 3 * J * (f + 1)),
        }
        const wanted = wildTake(p.skeleton, seed + 1, 1)
        const before = layer([turn('head', 0.1, [0.3, 0, 0]), reach('leftHand', 0.2, [0, 0.1, 0.1])])
        const at = f / p.take.fps
        const made = withPose(before, { ...p, take }, wanted, at)
        const laid = applyLayers(p, [made]).take
        const [is, to] = [poseAt(p, laid, f), worldPose(p.skeleton, wanted.translations, wanted.rotations)]
        for (const role of ['leftHand', 'rightHand', 'leftFoot', 'rightFoot', 'hips', 'head'])
          expect(off(vec3At(is.positions, joints[role]), vec3At(to.positions, joints[role]))).toBeLessThan(2e-3)
        for (const role of ['hips', 'chest', 'neck', 'head'])
          expect(
            angleOf(multiply(conjugate(quatAt(is.rotations, joints[role])), quatAt(to.rotations, joints[role]))),
          ).toBeLessThan(2e-3)
        // other moments keep their keys
        expect(made.keys.filter(k => k.at !== at)).toEqual(before.keys)
      }),
      { numRuns: 25 },
    )
  })
  it('lie between those around, go on beyond them, and are the same where one of those is meant', () => {
    const l = layer([
      turn('head', 1, [0.2, 0, 0]),
      turn('head', 2, [0.6, 0.4, 0]),
      { at: 1, channel: 'weight', value: [0.5] },
    ])
    const value = (share: number): number[] =>
      keyedBetween(l, 1.3, share)
        .keys.find(k => k.at === 1.3 && k.channel === 'turn head')!
        .value.map(v => Math.round(v * 1e6) / 1e6)
    expect(value(0)).toEqual([0.2, 0, 0])
    expect(value(1)).toEqual([0.6, 0.4, 0])
    expect(value(0.25)).toEqual([0.3, 0.1, 0])
    expect(value(1.5)).toEqual([0.8, 0.6, 0])
    expect(keyedBetween(l, 1.3, 2).keys.find(k => k.at === 1.3 && k.channel === 'weight')!.value).toEqual([0.5])
    // nothing to lie between
    expect(keyedBetween(l, 0.5, 0.5)).toBe(l)
    expect(momentsAround(l.keys, 1)).toEqual({ before: undefined, after: 2 })
  })
})

describe('a limb told joint by joint or by its end', () => {
  it('is the same pose at the moment of the switch, in both directions, to a tenth of a degree and of a millimetre', () => {
    let brought = 0
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e5 }),
        fc.constantFrom('leftHand', 'rightHand', 'leftFoot', 'rightFoot'),
        fc.boolean(),
        (seed, end, moved) => {
          const p = played(seed)
          const f = 9
          const at = f / p.take.fps
          const alone: Played = {
            ...p,
            take: {
              ...p.take,
              frames: 1,
              rotations: p.take.rotations.slice(4 * J * f, 4 * J * (f + 1)),
              translations: p.take.translations.slice(3 * J * f, 3 * J * (f + 1)),
            },
          }
          const upper = end.replace(/Hand$/, 'UpperArm').replace(/Foot$/, 'UpperLeg')
          const before = layer([
            turn('chest', 0.05, [0.1, 0.2, 0]),
            reach(end, 0.1, [0.03, -0.04, 0.06]),
            turn(upper, 0.4, [0.2, 0.1, -0.1]),
            ...(moved ? [{ at: 0.2, channel: 'move hips', value: [0.02, -0.03, 0.01] }] : []),
          ])
          const shown = applyLayers(p, [before]).take
          const worst = (l: Layer): { turn: number; place: number } => {
            const laid = applyLayers(p, [l]).take
            const [a, b] = [poseAt(p, shown, f), poseAt(p, laid, f)]
            let most = 0,
              far = 0
            for (let j = 0; j < J; j++) {
              most = Math.max(most, angleOf(multiply(conjugate(quatAt(a.rotations, j)), quatAt(b.rotations, j))))
              far = Math.max(far, off(vec3At(a.positions, j), vec3At(b.positions, j)))
            }
            return { turn: (most * 180) / Math.PI, place: far }
          }
          const [joint, ended] = (['joints', 'end'] as const).map(by => limbTold(before, alone, end, by, at))
          const back = joint && limbTold(joint, alone, end, 'end', at)
          const made = [joint, ended, back].filter(l => l !== undefined)
          for (const l of made) {
            expect(worst(l).turn).toBeLessThan(0.1)
            expect(worst(l).place).toBeLessThan(1e-4)
          }
          const told = (l: Layer, channel: string): number =>
            Math.hypot(...l.keys.find(k => k.channel === channel && k.at === at)!.value)
          // told by its joints the end is brought nowhere; told by its end it is
          if (joint) expect(told(joint, `reach ${end}`)).toBe(0)
          if (back && told(back, `reach ${end}`) > 0.01) brought++
          // a leg that stands while its hips are moved may have no such way
          if (end.endsWith('Hand') || !moved) expect(made).toHaveLength(3)
        },
      ),
      { numRuns: 60 },
    )
    expect(brought).toBeGreaterThan(30)
  })
  it('is not told where the figure has no such limb', () => {
    const p = played()
    const l = layer([turn('head', 0, [0.1, 0, 0])])
    expect(limbTold(l, p, 'thirdHand', 'end', 0)).toBeUndefined()
  })
})

describe('a frame shown apart from its layers', () => {
  it('is as shown where nothing changed, moves along where something did, and is told back exactly', () => {
    const random = seededRandom(5)
    const frame = (): { translations: Float32Array; rotations: Float32Array } => ({
      translations: Float32Array.from({ length: 9 }, () => random() - 0.5),
      rotations: Float32Array.from([0, 1, 2].flatMap(() => normalizeQuat([random() - 0.5, random() - 0.5, random() - 0.5, random()]))), // prettier-ignore
    })
    for (let n = 0; n < 20; n++) {
      const settled = frame()
      const shown = frame()
      // joints below the first one keep their places on what they hang on
      shown.translations.set(settled.translations.subarray(3), 3)
      const apart = { settled, shown }
      const same = laidApart(settled, apart)
      same.rotations.forEach((v, i) => expect(v).toBeCloseTo(shown.rotations[i], 5))
      same.translations.forEach((v, i) => expect(v).toBeCloseTo(shown.translations[i], 5))
      const changed = frame()
      const back = takenBack(laidApart(changed, apart), apart)
      back.rotations.forEach((v, i) => expect(v).toBeCloseTo(changed.rotations[i], 5))
      back.translations.forEach((v, i) => expect(v).toBeCloseTo(changed.translations[i], 5))
    }
  })
  it('leaves joints alone that stand where their layers put them', () => {
    const settled = { translations: new Float32Array([1, 2, 3, 0, 1, 0]), rotations: new Float32Array([0, 0, 0, 1, 0, 0, 0, 1]) } // prettier-ignore
    const shown = { ...settled, translations: new Float32Array([0, 2, 0, 0, 1, 0]) }
    const moved = { ...settled, translations: new Float32Array([1.5, 2, 3, 0, 1.25, 0]) }
    expect([...laidApart(moved, { settled, shown }).translations]).toEqual([0.5, 2, 0, 0, 1.25, 0])
  })
})
