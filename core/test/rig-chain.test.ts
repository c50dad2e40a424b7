import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { distance, fromAxisAngle, normalize, seededRandom, vec3At, type Vec3 } from '../src/math'
import { addChain, numberNames, removeJoint, renameJoints, reparentJoint, splitBone } from '../src/rig/chain'
import { addRoot, alignAxes, chainRecord, drawChain, turnAxes, type Rig } from '../src/rig'
import { freshName, childrenOf, findJoint, jointIds, jointRef, worldPose } from '../src/skeleton'
import { commonAncestor, isBelow } from '../src/skeleton/limb-runs'
import { deform } from '../src/skin'
import { cleanDoll } from './figure'

const seeds = fc.integer({ min: 1, max: 1e6 })
let doll: Awaited<ReturnType<typeof cleanDoll>>
beforeAll(async () => {
  doll = await cleanDoll()
})

/** Where every joint of a rig is at rest, by its identity. */
const placesOf = ({ skeleton }: Rig): Map<string, Vec3> => {
  const { positions } = worldPose(skeleton)
  const ids = jointIds(skeleton)
  return new Map(ids.map((id, j) => [id, vec3At(positions, j)]))
}
/** Some vertices of the body in some frame of its take. */
function shown({ skeleton, skin, takes }: Rig, frame: number): Float32Array {
  const [take] = takes
  const J = skeleton.names.length
  const pose = worldPose(skeleton, take.translations, take.rotations, frame * J)
  return deform(doll.mesh.positions, skeleton, skin!, pose)
}
function sound({ skeleton, skin, takes }: Rig): void {
  const J = skeleton.names.length
  skeleton.parents.forEach((p, j) => expect(p).toBeLessThan(j))
  expect(new Set(jointIds(skeleton)).size).toBe(J)
  expect(skeleton.restRotations.length).toBe(4 * J)
  for (const t of takes) expect(t.rotations.length).toBe(4 * J * t.frames)
  const k = skin!.influences
  for (let v = 0; v < skin!.joints.length / k; v++) {
    let sum = 0
    for (let i = v * k; i < v * k + k; i++) {
      sum += skin!.weights[i]
      expect(skin!.joints[i]).toBeLessThan(J)
    }
    if (Math.abs(sum - 1) > 1e-3) expect(sum).toBeCloseTo(1, 3)
  }
}

/** One change that moves nothing, from a seed; undefined where it is refused. */
function someChange(rig: Rig, random: () => number): Rig | undefined {
  const J = rig.skeleton.names.length
  const j = Math.floor(J * random())
  try {
    switch (Math.floor(9 * random())) {
      case 0:
        return splitBone(rig, j, 2 + Math.floor(3 * random()))
      case 1:
        return reparentJoint(rig, j, Math.floor(J * random()))
      case 2:
        return addChain(
          rig,
          jointRef(rig.skeleton, j),
          'mount',
          [0, 0.1, 0],
          [0, 0.05, 0],
          1 + Math.floor(3 * random()),
        )
      case 3:
        return numberNames(rig)
      case 4:
        return turnAxes(
          rig,
          j,
          fromAxisAngle(normalize([random() - 0.5, random() - 0.5, random() - 0.5]), 6 * random()),
          random() < 0.5,
        )
      case 5:
        return alignAxes(rig, new Set([j, Math.floor(J * random())]), random() < 0.5 ? 'body' : 'parent')
      case 6:
        return addRoot(rig, `root ${Math.floor(1e9 * random())}`, [random() - 0.5, 0, 0])
      case 7: {
        const places = Array.from({ length: 1 + Math.floor(4 * random()) }, (): Vec3 => [
          random() - 0.5,
          random() * 2,
          random() - 0.5,
        ])
        const told = {
          name: 'drawn',
          mirror: random() < 0.5,
          ...(random() < 0.5 && { joints: 1 + Math.floor(6 * random()) }),
        }
        return drawChain(rig, chainRecord(rig.skeleton, j, places, 1.7, told), 1.7)
      }
      default:
        return renameJoints(rig, { [rig.skeleton.names[j]]: `renamed ${Math.floor(1e9 * random())}` })
    }
  } catch {
    return undefined
  }
}

describe('changes of a skeleton in any number and order', () => {
  it('leave every joint and every vertex of every frame where they were, and the rig sound', () => {
    let made = 0
    fc.assert(
      fc.property(seeds, seed => {
        const random = seededRandom(seed)
        let rig: Rig = doll
        const frame = Math.floor(doll.takes[0].frames * random())
        const before = placesOf(rig)
        const body = shown(rig, frame)
        for (let i = 0; i < 5; i++) {
          const next = someChange(rig, random)
          if (!next) continue
          rig = next
          made++
        }
        sound(rig)
        const now = placesOf(rig)
        for (const [id, place] of before) expect(distance(now.get(id)!, place), id).toBeLessThan(2e-5)
        const then = shown(rig, frame)
        let worst = 0
        for (let i = 0; i < body.length; i++) worst = Math.max(worst, Math.abs(then[i] - body[i]))
        expect(worst).toBeLessThan(1e-4)
      }),
      { numRuns: 40 },
    )
    expect(made).toBeGreaterThan(100)
  })
  it('take a joint out: all others stay where they were at rest, and its skin goes to whom it hung on', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const j = 1 + (seed % (doll.skeleton.names.length - 1))
        const rig = removeJoint(doll, j)
        sound(rig)
        const [gone, heir] = [jointIds(doll.skeleton)[j], jointIds(doll.skeleton)[doll.skeleton.parents[j]]]
        const now = placesOf(rig)
        expect(now.has(gone)).toBe(false)
        for (const [id, place] of placesOf(doll))
          if (id !== gone) expect(distance(now.get(id)!, place)).toBeLessThan(2e-5)
        const weight = (r: Rig, id: string): number => {
          const at = jointIds(r.skeleton).indexOf(id)
          return r.skin!.weights.reduce((s, w, i) => s + (r.skin!.joints[i] === at ? w : 0), 0)
        }
        expect(weight(rig, heir)).toBeCloseTo(weight(doll, heir) + weight(doll, gone), 1)
        // whoever hung on it hangs on its parent now
        for (const c of childrenOf(doll.skeleton)[j]) {
          const own = jointIds(rig.skeleton).indexOf(jointIds(doll.skeleton)[c])
          expect(jointIds(rig.skeleton)[rig.skeleton.parents[own]]).toBe(heir)
        }
      }),
      { numRuns: 40 },
    )
  })
  it('refuse rings, doubles and what has no bone, and say which joint it is', () => {
    const at = (ref: string): number => findJoint(doll.skeleton, ref)
    expect(() => reparentJoint(doll, at('hips'), at('leftHand'))).toThrow(/one of its children/)
    const [a, b] = doll.skeleton.names
    expect(() => renameJoints(doll, { [a]: b })).toThrow(`Two joints would be called ${b}`)
    expect(() => addChain(doll, 'nobody', 'mount', [0, 0, 0], [0, 0, 0], 1)).toThrow(/no joint nobody/)
    expect(() => removeJoint(doll, 0)).toThrow(/root of \d+ branches/)
  })
})

describe('joints above and below', () => {
  it('are told alike from either side', () => {
    const { skeleton } = doll
    const J = skeleton.names.length
    fc.assert(
      fc.property(fc.nat(J - 1), fc.nat(J - 1), (a, b) => {
        const shared = commonAncestor(skeleton, a, b)
        expect(commonAncestor(skeleton, b, a)).toBe(shared)
        // nothing carries the root
        if (a === 0 || b === 0) {
          expect(shared).toBe(-1)
          return
        }
        for (const j of [a, b]) expect(isBelow(skeleton, j, shared)).toBe(true)
        // no joint below it is above both
        for (const c of childrenOf(skeleton)[shared]) {
          expect(isBelow(skeleton, a, c) && isBelow(skeleton, b, c)).toBe(false)
        }
      }),
    )
  })
  it('get names that nobody bears', () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom('a', 'a 2', 'a 3', 'b')), taken => {
        expect(taken).not.toContain(freshName(taken, 'a'))
        if (!taken.includes('a')) expect(freshName(taken, 'a')).toBe('a')
      }),
    )
  })
})
