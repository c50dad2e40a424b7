import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { makeFigure, ODA, PIM, referenceSkin, trueSkeleton } from '@chiraxis/demo/figures'
import { FERRY_POLE, propFile, SIGNAL_LANTERN } from '@chiraxis/demo/props'
import { floatValues, namedNodes, packGlb, type GltfDocument } from '../src/document'
import { batchSettingsSchema, createTransferJobs } from '../src/batch'
import { deliver, proveGlb, readGltf, writeBvh, writeGlb, type GltfContent } from '../src/formats'
import { MOVES, NORTH, record } from '@chiraxis/demo/takes'
import {
  angleOf,
  conjugate,
  dot,
  inverseOf,
  multiply,
  pointIn,
  quatAt,
  rotate,
  seededRandom,
  vec3At,
  within,
  fromAxisAngle,
  normalize,
  type Quat,
  type Rigid,
  type Vec3,
} from '../src/math'
import { propOutOfReachRule } from '../src/findings/prop-out-of-reach'
import { limbReach, limbsOfSet } from '../src/handles'
import { restingPose } from '../src/reach'
import {
  closedHand,
  handHolds,
  lowestOf,
  mirroredCarry,
  propsInPose,
  propsOnFigure,
  propsThroughTake,
  propThing,
  ridesOn,
  withPropKey,
  type Carry,
  type HandHold,
  type KnownProp,
  type Prop,
  type PropCourse,
  type PropKey,
  type PropsOnFigure,
} from '../src/props'
import { atBind, worldPose, type Skeleton } from '../src/skeleton'
import type { Mesh } from '../src/mesh'
import { findBleeding, type Skin } from '../src/skin'
import type { Take } from '../src/motion'
import { wildTake } from './skeletons'
import { box } from './shapes'

const far = (a: ArrayLike<number>, b: ArrayLike<number>): number => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2])
const apart = (a: Quat, b: Quat): number => angleOf(multiply(conjugate(a), b))
const propOf = (name: string, carry: Carry, more: Partial<Prop> = {}): Prop => ({
  id: name,
  name,
  file: { name: `${name}.glb`, hash: '0'.repeat(64), size: 1 },
  beside: [],
  carry,
  ...more,
})

interface Stood {
  readonly mesh: Mesh
  readonly skeleton: Skeleton
  readonly skin: Skin
  readonly joints: Record<string, number>
  readonly hands: readonly HandHold[]
}
function stood(who: typeof ODA): Stood {
  const figure = makeFigure(who, { vertices: 6000 })
  const skeleton = trueSkeleton(figure)
  const skin = referenceSkin(figure, skeleton)
  const joints = Object.fromEntries(skeleton.roles.flatMap((r, j) => (r ? [[r, j]] : [])))
  return { mesh: figure.mesh, skeleton, skin, joints, hands: handHolds(figure.mesh, skeleton, skin, joints) }
}

describe('props', () => {
  let oda: Stood, pim: Stood
  let pole: { mesh: Mesh; document: GltfDocument }, lantern: { mesh: Mesh; document: GltfDocument }
  beforeAll(async () => {
    oda = stood(ODA)
    pim = stood(PIM)
    const read = async (bytes: Uint8Array): Promise<{ mesh: Mesh; document: GltfDocument }> => {
      const { mesh, document } = await readGltf(bytes)
      return { mesh: mesh!, document: document! }
    }
    pole = await read(propFile(FERRY_POLE))
    lantern = await read(propFile(SIGNAL_LANTERN))
  })
  const known = (which: typeof pole, prop: Prop): KnownProp => ({
    prop,
    thing: propThing(which.mesh, namedNodes(which.document), prop),
  })
  const poleIn = (carry: Carry): KnownProp => known(pole, propOf('pole', carry))
  const on = (who: Stood, ...list: KnownProp[]): PropsOnFigure =>
    propsOnFigure(who.skeleton, who.joints, [0, 0, 0, 1], who.hands, list)
  const TWO: Carry = { by: 'rightHand', grip: 'grip lower', second: { by: 'leftHand', grip: 'grip upper' } }
  const palm = (who: Stood, ref: string, w: ReturnType<typeof worldPose>, thick: number): Rigid => {
    const hand = who.hands.find(h => h.ref === ref)!
    const joint: Rigid = { at: vec3At(w.positions, hand.joint), turn: quatAt(w.rotations, hand.joint) }
    return within(joint, { at: hand.at.map((v, k) => v + thick * hand.palm[k]) as Vec3, turn: hand.turn })
  }
  const gripOf = (k: KnownProp, id: string, place: Rigid): Rigid => {
    const p = k.thing.places.find(x => x.id === id)!
    return within(place, { at: [...p.at] as Vec3, turn: [...p.turn] as Quat })
  }
  /** Both hands ahead of the body, somewhere and turned somehow. */
  const working = (seed: number, frames: number): Take => {
    const { skeleton, joints } = oda
    const take = wildTake(skeleton, seed, frames)
    const bind = worldPose(atBind(skeleton))
    const limbs = limbsOfSet(skeleton, joints, [0, 0, 0, 1], j => vec3At(bind.positions, j))
    const reach = limbReach(skeleton, limbs)
    const random = seededRandom(seed)
    const n = skeleton.names.length
    for (let f = 0; f < frames; f++) {
      const pose = {
        translations: take.translations.subarray(3 * n * f, 3 * n * (f + 1)),
        rotations: take.rotations.subarray(4 * n * f, 4 * n * (f + 1)),
      }
      const hips = vec3At(worldPose(skeleton, pose.translations, pose.rotations).positions, joints.hips)
      for (const [ref, x, y] of [
        ['leftHand', 0.1, 0.3],
        ['rightHand', -0.2, 0.1],
      ] as const) {
        const place = [x, y, 0.35].map((v, k) => hips[k] + v + 0.12 * (random() - 0.5)) as Vec3
        reach.to(
          pose,
          limbs.find(l => l.ref === ref)!,
          { place },
        )
      }
    }
    return take
  }
  const worldAt = (s: Skeleton, take: Take, f: number): ReturnType<typeof worldPose> => {
    const n = s.names.length
    return worldPose(
      s,
      take.translations.subarray(3 * n * f, 3 * n * (f + 1)),
      take.rotations.subarray(4 * n * f, 4 * n * (f + 1)),
    )
  }
  const courseAt = (c: PropCourse, f: number): Rigid => ({ at: vec3At(c.places, f), turn: quatAt(c.turns, f) })

  describe('a file', () => {
    it('tells places to hold it by as nodes, how thick it is there, what it encloses and weighs', () => {
      const { thing } = poleIn(TWO)
      expect(thing.places.map(p => [p.name, p.round])).toEqual([
        ['lower', true],
        ['upper', true],
      ])
      expect(thing.places[0].thick).toBeCloseTo(0.0235, 4)
      expect(thing.volume).toBeGreaterThan(0.002)
      expect(thing.mass).toBeCloseTo(650 * thing.volume, 6)
      const told = propThing(pole.mesh, [], { mass: 4 })
      expect([told.mass, told.massTold]).toEqual([4, true])
    })
    it('without any has its shaft found, whatever way it lies and whatever its unit', () => {
      fc.assert(
        fc.property(
          fc.integer({ min: 1, max: 1e6 }),
          fc.double({ min: 0.001, max: 100, noNaN: true }),
          (seed, unit) => {
            const random = seededRandom(seed)
            const turn = fromAxisAngle(normalize([random() - 0.5, random() - 0.5, random() - 0.5]), 3 * random())
            const positions = pole.mesh.positions.map(v => v / unit)
            for (let i = 0; i < positions.length / 3; i++) positions.set(rotate(turn, vec3At(positions, i)), 3 * i)
            const { places, volume } = propThing({ ...pole.mesh, positions }, [], { scale: unit })
            const [middle] = places
            expect(middle.round).toBe(true)
            const shaft = rotate(turn, [0, 1, 0])
            expect(Math.abs(dot(rotate([...middle.turn] as Quat, [1, 0, 0]), shaft))).toBeGreaterThan(0.9999)
            expect(middle.thick).toBeGreaterThan(0.01)
            expect(middle.thick).toBeLessThan(0.03)
            expect(volume).toBeCloseTo(poleIn(TWO).thing.volume, 5)
          },
        ),
        { numRuns: 20 },
      )
    })
    it('of a crate is held by its middle; places of one’s own are added, and stand for those of the file', () => {
      const crate = propThing(box([-0.2, -0.15, -0.1], [0.2, 0.15, 0.1]), [], {
        places: [
          { id: 'middle', name: 'Handle', at: [0, 0.2, 0], turn: [0, 0, 0, 1] },
          { id: 'foot', name: 'Foot', at: [0, -0.15, 0], turn: [0, 0, 0, 1], pivot: true },
        ],
      })
      expect(crate.places.map(p => [p.id, p.name, p.pivot === true])).toEqual([
        ['middle', 'Handle', false],
        ['foot', 'Foot', true],
      ])
      expect(crate.places[0].round).toBeUndefined()
    })
  })

  describe('in a hand', () => {
    it('lies in the grasp, thumb and fingers as its grip tells, on a palm that faces the body’s side', () => {
      for (const who of [oda, pim])
        for (const by of ['leftHand', 'rightHand']) {
          const k = poleIn({ by, grip: 'grip lower' })
          const { places, pose } = propsInPose(on(who, k), who.skeleton, restingPose(who.skeleton))
          const w = worldPose(who.skeleton, pose.translations, pose.rotations)
          const [grip, hand] = [gripOf(k, 'grip lower', places[0]), palm(who, by, w, 0.0235)]
          expect(far(grip.at, hand.at)).toBeLessThan(1e-6)
          expect(apart(grip.turn, hand.turn)).toBeLessThan(1e-4)
          // the thumb of hands held out to the side points ahead, their palms look down
          expect(rotate(hand.turn, [1, 0, 0])[2]).toBeGreaterThan(0.5)
          const own = who.hands.find(h => h.ref === by)!
          expect(rotate(quatAt(w.rotations, own.joint), own.palm)[1]).toBeLessThan(-0.6)
        }
    })
    it('has fingers close until they lie around it, farther around what is thinner, and not through it', () => {
      const hold = oda.hands[0]
      const grasp = (thick: number): Rigid => ({
        at: hold.at.map((v, k) => v + thick * hold.palm[k]) as Vec3,
        turn: hold.turn,
      })
      const bend = (thick: number): number => {
        const { turns, joints } = closedHand(oda.skeleton, oda.joints, hold, grasp(thick), thick)
        expect(joints.length).toBeGreaterThan(10)
        return turns.reduce((sum, q, i) => sum + apart(q, quatAt(oda.skeleton.restRotations, joints[i])), 0)
      }
      const [thin, thick, huge] = [0.008, 0.03, 0.09].map(bend)
      expect(thin).toBeGreaterThan(thick)
      expect(thick).toBeGreaterThan(huge)
      expect(thin / 15).toBeGreaterThan(0.6)
    })
    it('that holds on as a second one is brought to its grip to a tenth of a millimetre, where it can reach', () => {
      let met = 0
      fc.assert(
        fc.property(fc.integer({ min: 1, max: 1e6 }), seed => {
          const take = working(seed, 4)
          const k = poleIn({ ...TWO, ...(seed % 2 === 0 && { aim: 'between' as const }) })
          const { take: held, courses } = propsThroughTake(on(oda, k), { skeleton: oda.skeleton, take })
          for (let f = 0; f < 4; f++) {
            if (courses[0].off[f] > 5e-5) continue
            met++
            const w = worldAt(oda.skeleton, held, f)
            const [hand, grip] = [palm(oda, 'leftHand', w, 0.023), gripOf(k, 'grip upper', courseAt(courses[0], f))]
            expect(far(hand.at, grip.at)).toBeLessThan(1e-4)
            // around a shaft a hand may turn, along it it may not
            const along = dot(rotate(hand.turn, [1, 0, 0]), rotate(grip.turn, [1, 0, 0]))
            expect(Math.abs(along)).toBeGreaterThan(1 - 1e-5)
          }
        }),
        { numRuns: 40 },
      )
      expect(met).toBeGreaterThan(20)
    })
    it('out of reach stays off and is told how far', async () => {
      const k = poleIn({ by: 'hips', shift: [0, 0, 3], second: { by: 'leftHand', grip: 'grip upper' } })
      const { off } = propsInPose(on(oda, k), oda.skeleton, restingPose(oda.skeleton))
      expect(off[0]).toBeGreaterThan(1)
      // in a take it is a finding, with how far and when
      const take = { ...wildTake(oda.skeleton, 5, 6), name: 'work', fps: 30 }
      const { courses } = propsThroughTake(on(oda, k), { skeleton: oda.skeleton, take })
      const found = await propOutOfReachRule.detect({ performed: [{ take, courses } as never] })
      expect(found).toHaveLength(1)
      expect(found[0].message).toMatch(/^In work a hand stays up to \d+\.\d cm off its place on pole, at \d\.\d\d s\.$/)
      const near = propsThroughTake(on(oda, poleIn({ by: 'leftHand', grip: 'grip lower' })), {
        skeleton: oda.skeleton,
        take,
      })
      expect(propOutOfReachRule.detect({ performed: [{ take, courses: near.courses } as never] })).toEqual([])
    })
    it('hangs upright from a bail, however the hand is turned', () => {
      const k = known(lantern, propOf('lantern', { by: 'rightHand', grip: 'grip bail' }))
      const take = wildTake(oda.skeleton, 5, 6)
      const { courses } = propsThroughTake(on(oda, k), { skeleton: oda.skeleton, take })
      for (let f = 0; f < 6; f++) {
        const place = courseAt(courses[0], f)
        expect(rotate(place.turn, [0, 1, 0])[1]).toBeGreaterThan(0.99999)
        const hand = palm(oda, 'rightHand', worldAt(oda.skeleton, take, f), 0.011)
        expect(far(pointIn(place, [0, 0.3, 0]), hand.at)).toBeLessThan(1e-5)
      }
    })
  })

  describe('through a take', () => {
    const key = (at: number, carry: Carry, more: Partial<PropKey> = {}): PropKey => ({
      prop: 'pole',
      at,
      ...carry,
      ...more,
    })
    it('is the take itself where nobody holds anything, and the same figure on other joint axes', () => {
      const take = wildTake(oda.skeleton, 3, 6)
      const k = poleIn({ by: 'hips', shift: [0.2, 0, 0] })
      expect(propsThroughTake(on(oda, k), { skeleton: oda.skeleton, take }).take).toBe(take)
      const open = poleIn({ by: 'leftHand', grip: 'grip lower', open: true })
      expect(propsThroughTake(on(oda, open), { skeleton: oda.skeleton, take }).take).toBe(take)
    })
    it('goes from hand to hand, is put down and taken up without ever jumping', () => {
      const frames = 120
      const take: Take = { ...wildTake(oda.skeleton, 1, 1), fps: 30, frames }
      const n = oda.skeleton.names.length
      const rest = working(2, 1)
      const rotations = new Float32Array(4 * n * frames),
        translations = new Float32Array(3 * n * frames)
      for (let f = 0; f < frames; f++) {
        rotations.set(rest.rotations, 4 * n * f)
        translations.set(rest.translations, 3 * n * f)
      }
      const keys = [
        key(
          0.5,
          { by: 'rightHand', grip: 'grip lower', second: { by: 'leftHand', grip: 'grip upper' } },
          { over: 0.5 },
        ),
        key(1.2, { by: 'leftHand', grip: 'grip upper' }),
        key(2, { by: 'ground' }, { over: 0.4 }),
        key(3, { by: 'rightHand', grip: 'grip lower' }, { over: 0.6 }),
      ]
      const k = poleIn({ by: 'rightHand', grip: 'grip lower' })
      const still = { ...take, rotations, translations }
      const { courses, take: held } = propsThroughTake(on(oda, k), { skeleton: oda.skeleton, take: still }, keys)
      let most = 0,
        turned = 0,
        hand = 0
      for (let f = 1; f < frames; f++) {
        const [a, b] = [courseAt(courses[0], f - 1), courseAt(courses[0], f)]
        most = Math.max(most, far(a.at, b.at))
        turned = Math.max(turned, apart(a.turn, b.turn))
        const [p, q] = [f - 1, f].map(i => vec3At(worldAt(oda.skeleton, held, i).positions, oda.joints.leftHand))
        hand = Math.max(hand, far(p, q))
      }
      // what lies on the ground is taken up over a metre in the time that was asked for
      expect(most).toBeLessThan(0.16)
      expect(turned).toBeLessThan(0.2)
      expect(hand).toBeLessThan(0.1)
      // carried by the left hand alone, then lying still on the ground, then back in the right hand
      const left = palm(oda, 'leftHand', worldAt(oda.skeleton, held, 55), 0.023)
      expect(far(gripOf(k, 'grip upper', courseAt(courses[0], 55)).at, left.at)).toBeLessThan(1e-5)
      const [down, later] = [80, 88].map(f => courseAt(courses[0], f))
      expect(far(down.at, later.at)).toBe(0)
      expect(down.at[1] + lowestOf(k.thing, down.turn)).toBeCloseTo(0, 5)
      const right = palm(oda, 'rightHand', worldAt(oda.skeleton, held, 119), 0.0235)
      expect(far(gripOf(k, 'grip lower', courseAt(courses[0], 119)).at, right.at)).toBeLessThan(1e-5)
    })
    it('keeps the place it had where it is told to, follows trim, and is mirrored with the take', () => {
      const take = { ...wildTake(oda.skeleton, 9, 30), fps: 30 }
      const k = poleIn({ by: 'rightHand', grip: 'grip lower' })
      const keys = [key(0.5, { by: 'hips' }, { stays: true })]
      const { courses } = propsThroughTake(on(oda, k), { skeleton: oda.skeleton, take }, keys)
      const lies = (f: number): Rigid => {
        const w = worldAt(oda.skeleton, take, f)
        const hips: Rigid = { at: vec3At(w.positions, oda.joints.hips), turn: quatAt(w.rotations, oda.joints.hips) }
        return within(inverseOf(hips), courseAt(courses[0], f))
      }
      for (const f of [16, 22, 29]) {
        expect(far(lies(f).at, lies(15).at)).toBeLessThan(1e-5)
        expect(apart(lies(f).turn, lies(15).turn)).toBeLessThan(1e-3)
      }
      // half a second was cut away: the key stands at the beginning
      const cut = propsThroughTake(
        on(oda, k),
        { skeleton: oda.skeleton, take },
        [key(0.5, { by: 'leftHand', grip: 'grip lower' })],
        {
          timeOf: s => s - 0.5,
          mirrored: true,
        },
      )
      const right = palm(oda, 'rightHand', worldAt(oda.skeleton, take, 0), 0.0235)
      expect(far(gripOf(k, 'grip lower', courseAt(cut.courses[0], 0)).at, right.at)).toBeLessThan(1e-5)
    })
    it('mirrored twice is the same, keys stay in order, one a moment and prop', () => {
      const carry: Carry = {
        by: 'leftHand',
        grip: 'a',
        shift: [0.1, 0.2, 0.3],
        turn: [0.5, 0.5, 0.5, 0.5],
        second: { by: 'rightHand', grip: 'b' },
      }
      expect(mirroredCarry(carry).by).toBe('rightHand')
      expect(mirroredCarry(mirroredCarry(carry))).toEqual(carry)
      const list = withPropKey(
        withPropKey([key(1, { by: 'hips' })], key(0.5, { by: 'ground' })),
        key(1, { by: 'head' }),
      )
      expect(list.map(k => [k.at, k.by])).toEqual([
        [0.5, 'ground'],
        [1, 'head'],
      ])
    })
    it('names what this figure or this file lacks, and leaves the prop on the ground', () => {
      const k = poleIn({ by: 'thirdHand', grip: 'grip nowhere' })
      const all = on(oda, k)
      expect(all.lost).toEqual([
        { prop: 'pole', part: 'thirdHand' },
        { prop: 'pole', part: 'grip nowhere' },
      ])
      const { places } = propsInPose(all, oda.skeleton, restingPose(oda.skeleton))
      expect(places[0].at[1] + lowestOf(k.thing, places[0].turn)).toBeCloseTo(0, 5)
    })
  })

  describe('delivered', () => {
    const content = (carry: Carry, keys: PropKey[] = []): GltfContent => {
      const { mesh, skeleton, skin } = oda
      const k = poleIn(carry)
      const all = on(oda, k)
      const take = { ...wildTake(skeleton, 4, 20), name: 'work', fps: 30 }
      const { take: held, courses } = propsThroughTake(all, { skeleton, take }, keys)
      const rest = propsInPose(all, skeleton, restingPose(skeleton)).places[0]
      const joint = oda.joints[carry.by] ?? -1
      const rides = joint >= 0 && ridesOn(skeleton, joint, rest, [held], courses)
      const prop = {
        id: 'pole',
        name: 'Ferry pole',
        document: pole.document,
        scene: 0,
        unit: 1,
        joint: rides ? joint : -1,
        rest,
        ...(!rides && { courses: courses.map(c => ({ ...c, fps: 30 })) }),
      }
      return { name: 'Oda', mesh, skeleton, skin, takes: [held], props: [prop] }
    }
    it('hangs on the joint it rides on, without keys of its own', async () => {
      const all = content({ by: 'leftHand', grip: 'grip lower' })
      expect(all.props![0].joint).toBe(oda.joints.leftHand)
      const { bytes, proof } = await deliver(all)
      expect(proof.validatorErrors).toBe(0)
      const { document } = await readGltf(bytes)
      const nodes = document!.json.nodes!
      const mount = nodes.findIndex(n => n.name === 'Ferry pole' && n.extras)
      expect(nodes.find(n => n.children?.includes(mount))?.name).toBe(oda.skeleton.names[oda.joints.leftHand])
      expect(document!.json.animations!.some(a => a.channels.some(c => c.target.node === mount))).toBe(false)
    })
    it('moves by itself where it changes hands, in every take', async () => {
      const all = content({ by: 'leftHand', grip: 'grip lower' }, [{ prop: 'pole', at: 0.2, by: 'ground' }])
      const { bytes } = await deliver(all)
      const { document } = await readGltf(bytes)
      const { json } = document!
      const mount = json.nodes!.findIndex(n => n.name === 'Ferry pole' && n.extras)
      const channel = json.animations![0].channels.find(
        c => c.target.node === mount && c.target.path === 'translation',
      )!
      const values = floatValues(document!, json.animations![0].samplers[channel.sampler].output)
      expect(values.length).toBe(60)
      expect(far(values.subarray(57, 60), all.props![0].courses![0].places.subarray(57, 60))).toBeLessThan(1e-6)
    })
    it('read as a figure again its props ride on their hands as pieces, and are no fault of the skin', async () => {
      const { bytes } = await deliver(content({ by: 'leftHand', grip: 'grip lower' }))
      const { mesh, skeleton, skin } = await readGltf(bytes)
      const pole = mesh!.parts.find(p => p.name === 'pole')!
      const hand = skeleton!.names.indexOf(oda.skeleton.names[oda.joints.leftHand])
      for (let i = pole.start; i < pole.start + pole.count; i += 31)
        expect(skin!.joints[skin!.influences * mesh!.indices[i]]).toBe(hand)
      const { vertices } = await findBleeding(mesh!, skeleton!, skin!)
      const own = new Set(mesh!.indices.subarray(pole.start, pole.start + pole.count))
      expect(vertices.filter(v => own.has(v))).toEqual([])
    })
    it('goes along in batches: hands hold it, keyed as its take tells, and the file is proven', async () => {
      const { mesh, skeleton, skin } = oda
      const figure = await writeGlb({ name: 'Oda', mesh, skeleton, skin })
      const { skeleton: performer, take } = record(
        MOVES.find(m => m.name === 'pole push')!,
        NORTH,
      )
      const job = {
        figure: { key: 'oda', name: 'oda.glb', bytes: figure },
        take: { key: 'push', name: 'push.bvh', bytes: writeBvh(performer, take) },
        index: 0,
        takeName: 'push',
        settings: batchSettingsSchema.parse({ content: 'whole' }),
        adjust: { trim: [0, 2] as [number, number] },
      }
      const keys: PropKey[] = [
        { prop: 'pole', at: 0, ...TWO, aim: 'between' },
        { prop: 'pole', at: 1, by: 'ground' },
      ]
      const list = [propOf('pole', { by: 'leftHand', grip: 'grip lower' })]
      const propFiles = [{ key: list[0].file.hash, name: 'pole.glb', bytes: propFile(FERRY_POLE) }]
      const run = createTransferJobs()
      const [bare, carrying] = [await run(job), await run({ ...job, props: { list, keys }, propFiles })]
      const { document } = await readGltf(carrying.bytes)
      const mount = document!.json.nodes!.findIndex(n => (n.extras as { prop?: string } | undefined)?.prop === 'pole')
      expect(document!.json.animations![0].channels.some(c => c.target.node === mount)).toBe(true)
      const without = await readGltf(bare.bytes)
      expect(without.document!.json.nodes!.some(n => (n.extras as { prop?: string } | undefined)?.prop)).toBe(false)
      await expect(
        createTransferJobs()({ ...job, props: { list }, propFiles: [{ ...job.take, key: list[0].file.hash }] }),
      ).rejects.toThrow(/holds nothing that could be carried/)
      await expect(run({ ...job, props: { list } })).rejects.toThrow(/did not come along/)
    })
    it('is held back where the prop is not where it should be, is missing, or lost faces', async () => {
      const all = content({ by: 'leftHand', grip: 'grip lower' })
      const bytes = await writeGlb(all)
      await expect(proveGlb(bytes, all)).resolves.toBeDefined()
      const [prop] = all.props!
      const moved = {
        ...prop,
        rest: { ...prop.rest, at: [prop.rest.at[0], prop.rest.at[1] + 0.01, prop.rest.at[2]] as Vec3 },
      }
      await expect(proveGlb(bytes, { ...all, props: [moved] })).rejects.toThrow(
        /Ferry pole is not where it should be at rest/,
      )
      await expect(proveGlb(bytes, { ...all, props: [{ ...prop, id: 'other' }] })).rejects.toThrow(/is missing/)
      const { document } = await readGltf(bytes)
      const json = structuredClone(document!.json)
      json.nodes!.forEach(n => {
        if (n.extras && (n.extras as { prop?: string }).prop) delete n.children
      })
      await expect(proveGlb(packGlb({ ...document!, json }), all)).rejects.toThrow(/lost triangles/)
    })
  })
})
