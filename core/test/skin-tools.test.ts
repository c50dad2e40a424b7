import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { isLeg, sideOf } from '../src/body'
import { compose, fromAxisAngle, normalize, seededRandom, transformPoint, vec3At, type Quat } from '../src/math'
import { adjacencyOf, weldByPosition, weldedIndices, weldedPositions } from '../src/mesh'
import { groundOf, mirrorWeights, openCanvas, closeCanvas } from '../src/paint'
import { transformRig } from '../src/rig'
import { bindPose, childrenOf, inverseBindMatrices, partnerJoint, worldPose } from '../src/skeleton'
import {
  checkWeights,
  deform,
  fillWeights,
  inpaint,
  jointWeights,
  nearestBoneSkin,
  normaliseWeights,
  pickRows,
  rideRigidly,
  smoothWeights,
  sortInfluences,
  type Skin,
} from '../src/skin'
import { partSides } from '../src/skin/part-limbs'
import { cleanDoll } from './figure'
import { biped, wildAxes } from './skeletons'

const seeds = fc.integer({ min: 1, max: 1e6 })
const JOINTS = 22
/** Weights of any kind: some places empty, some joints told twice, sums of one. */
function anySkin(seed: number, vertices: number, influences = 4): Skin {
  const random = seededRandom(seed)
  const joints = Uint16Array.from({ length: influences * vertices }, () => Math.floor(JOINTS * random()))
  const weights = Float32Array.from({ length: influences * vertices }, () => (random() < 0.3 ? 0 : random()))
  for (let v = 0; v < vertices; v++) {
    const row = weights.subarray(v * influences, (v + 1) * influences)
    if (row.every(w => w === 0)) row[0] = 1
    const sum = row.reduce((a, b) => a + b, 0)
    for (let i = 0; i < influences; i++) row[i] /= sum
  }
  return { influences, joints, weights }
}
const sums = (skin: Skin): number[] =>
  Array.from({ length: skin.joints.length / skin.influences }, (_, v) =>
    skin.weights.subarray(v * skin.influences, (v + 1) * skin.influences).reduce((a, b) => a + b, 0),
  )
const perJoint = (skin: Skin): Float32Array[] => Array.from({ length: JOINTS }, (_, j) => jointWeights(skin, j))
let doll: Awaited<ReturnType<typeof cleanDoll>>
beforeAll(async () => {
  doll = await cleanDoll()
})

describe('rows of weights', () => {
  it('are put in falling order without changing what any joint has', () => {
    fc.assert(
      fc.property(seeds, fc.integer({ min: 1, max: 8 }), (seed, k) => {
        const skin = anySkin(seed, 20, k)
        const before = perJoint(skin)
        sortInfluences(skin)
        perJoint(skin).forEach((w, j) => w.forEach((x, v) => expect(x).toBeCloseTo(before[j][v], 6)))
        for (let v = 0; v < 20; v++)
          for (let i = 1; i < k; i++) {
            expect(skin.weights[v * k + i]).toBeLessThanOrEqual(skin.weights[v * k + i - 1])
            if (skin.weights[v * k + i] === 0) expect(skin.joints[v * k + i]).toBe(0)
          }
      }),
    )
  })
  it('are picked and laid out with more room, each as it was', () => {
    fc.assert(
      fc.property(seeds, fc.array(fc.nat(19), { minLength: 1, maxLength: 30 }), (seed, rows) => {
        const skin = anySkin(seed, 20)
        const picked = pickRows(skin, Uint32Array.from(rows), 8)
        perJoint(picked).forEach((w, j) =>
          rows.forEach((v, i) => expect(w[i]).toBeCloseTo(jointWeights(skin, j)[v], 6)),
        )
      }),
      { numRuns: 20 },
    )
  })
  it('that do not sum to one are told, and made to', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const random = seededRandom(seed)
        const skin = anySkin(seed, 30)
        const wrong = {
          ...skin,
          weights: skin.weights.map((w, i) => w * (Math.floor(i / 4) % 3 === 0 ? 2 + random() : 1)),
        }
        const empty = Math.floor(30 * random())
        wrong.weights.fill(0, 4 * empty, 4 * empty + 4)
        const found = checkWeights(wrong)
        expect(found.loose).toBe(1)
        expect(found.looseAt).toBe(empty)
        expect(found.uneven).toBe(10 - (empty % 3 === 0 ? 1 : 0))
        const mended = normaliseWeights(wrong)
        sums(mended).forEach((s, v) => expect(s).toBeCloseTo(v === empty ? 0 : 1, 5))
        expect(checkWeights(mended).uneven).toBe(0)
        // what was right stays
        for (let v = 0; v < 30; v++)
          if (v % 3 !== 0 && v !== empty) expect(mended.weights[4 * v]).toBeCloseTo(wrong.weights[4 * v], 6)
      }),
    )
  })
})

describe('weights spread over a surface', () => {
  const surface = () => {
    const { mesh } = doll
    const weld = weldByPosition(mesh.positions)
    return {
      weld,
      adjacency: adjacencyOf(weld.first.length, weldedIndices(mesh.indices, weld)),
      positions: weldedPositions(mesh.positions, weld),
    }
  }
  it('stay weights: sums are kept, nothing is below zero, and what is even stays even', async () => {
    const { weld, adjacency } = surface()
    const n = weld.first.length
    const rough = pickRows(doll.skin, weld.first, 8)
    const smooth = await smoothWeights(rough, doll.skeleton.names.length, adjacency, 3)
    sums(smooth).forEach(s => expect(s).toBeCloseTo(1, 3))
    expect(Math.min(...smooth.weights)).toBeGreaterThanOrEqual(0)
    const even: Skin = { influences: 1, joints: new Uint16Array(n).fill(3), weights: new Float32Array(n).fill(1) }
    const same = await smoothWeights(even, doll.skeleton.names.length, adjacency, 2)
    expect(jointWeights(same, 3).every(w => Math.abs(w - 1) < 1e-5)).toBe(true)
  })
  it('are filled in where nothing is told, between what is told around them, and told ones stay', async () => {
    const { weld, adjacency, positions } = surface()
    const n = weld.first.length
    const skin = pickRows(doll.skin, weld.first, 8)
    // a band about the left upper arm forgets its weights
    const told = Uint8Array.from({ length: n }, (_, w) => (positions[3 * w] > 0.3 && positions[3 * w] < 0.4 ? 0 : 1))
    const forgotten = [...told.keys()].filter(w => !told[w])
    expect(forgotten.length).toBeGreaterThan(10)
    const truth = perJoint(skin)
    for (const w of forgotten) skin.weights.fill(0, 8 * w, 8 * w + 8)
    const before = skin.weights.slice()
    await inpaint(skin, told, positions, adjacency, doll.skeleton.names.length)
    for (let w = 0; w < n; w++)
      if (told[w]) expect([...skin.weights.subarray(8 * w, 8 * w + 8)]).toEqual([...before.subarray(8 * w, 8 * w + 8)])
    const now = perJoint(skin)
    let off = 0
    for (const w of forgotten) {
      expect(sums(skin)[w]).toBeCloseTo(1, 2)
      for (let j = 0; j < JOINTS; j++) off += Math.abs(now[j][w] - truth[j][w]) / forgotten.length
    }
    // a stretch of one bone is guessed rightly
    expect(off).toBeLessThan(0.25)
  }, 60_000)
  it('of vertices without any come from their surroundings', () => {
    const skin = { ...doll.skin, weights: doll.skin.weights.slice() }
    const k = skin.influences
    const lost = [5, 80, 200]
    for (const v of lost) skin.weights.fill(0, v * k, v * k + k)
    const filled = fillWeights(skin, doll.mesh)
    sums(filled).forEach(s => expect(s).toBeCloseTo(1, 4))
    for (let v = 0; v < 300; v++) if (!lost.includes(v)) expect(filled.joints[v * k]).toBe(doll.skin.joints[v * k])
  })
})

describe('limbs', () => {
  it('of one side never move the other after they were parted', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const skeleton = biped()
        const skin = anySkin(seed, 60)
        skin.joints.forEach((j, i) => (skin.joints[i] = j % skeleton.names.length))
        partSides(skin, skeleton)
        sums(skin).forEach(s => expect(s).toBeCloseTo(1, 3))
        for (let v = 0; v < 60; v++) {
          const sides = new Set<string>()
          for (let i = 4 * v; i < 4 * v + 4; i++) {
            const role = skeleton.roles[skin.joints[i]]
            if (skin.weights[i] > 1e-5 && role && isLeg(role)) sides.add(sideOf(role))
          }
          expect(sides.size).toBeLessThan(2)
        }
      }),
    )
  })
  it('mirrored from one side are the same on the other, told by partner joints', async () => {
    const ground = await groundOf(doll.mesh, 1.72)
    const canvas = openCanvas(ground, doll.skeleton, doll.skin)
    mirrorWeights(canvas, 'left')
    const skin = closeCanvas(canvas, 8)
    const weightsOf = perJoint(skin)
    let worst = 0
    const { positions } = doll.mesh
    for (let v = 0; v < positions.length / 3; v += 7) {
      const [x, y, z] = vec3At(positions, v)
      if (x < 0.03) continue
      // the doll is made alike on both sides
      let other = -1
      for (let u = 0; u < positions.length / 3; u++)
        if (Math.hypot(positions[3 * u] + x, positions[3 * u + 1] - y, positions[3 * u + 2] - z) < 1e-4) other = u
      if (other < 0) continue
      for (let j = 0; j < JOINTS; j++) {
        const p = partnerJoint(doll.skeleton, j)
        worst = Math.max(worst, Math.abs(weightsOf[j][v] - weightsOf[p >= 0 ? p : j][other]))
      }
    }
    expect(worst).toBeLessThan(0.02)
  })
})

describe('a skin', () => {
  it('moves the body as it is moved: turned, scaled and shifted whole, every frame lands in the same place', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const random = seededRandom(seed)
        const size = 0.2 + 3 * random()
        const axis = normalize([random() - 0.5, random() - 0.5, random() - 0.5])
        const m = compose([random(), random(), random()], fromAxisAngle(axis, 6 * random()), [size, size, size])
        const moved = transformRig(doll, m)
        const [take, other] = [doll.takes[0], moved.takes[0]]
        const f = Math.floor(take.frames * random())
        const J = doll.skeleton.names.length
        const at = deform(doll.mesh.positions, doll.skeleton, doll.skin, worldPose(doll.skeleton, take.translations, take.rotations, f * J)) // prettier-ignore
        const then = deform(moved.mesh!.positions, moved.skeleton, doll.skin, worldPose(moved.skeleton, other.translations, other.rotations, f * J)) // prettier-ignore
        for (let v = 0; v < at.length / 3; v += 13) {
          const p = transformPoint(m, vec3At(at, v))
          p.forEach((x, k) => expect(then[3 * v + k]).toBeCloseTo(x, 3))
        }
      }),
      { numRuns: 20 },
    )
  })
  it('at rest leaves the body where it is, whatever axes its joints have', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const skeleton = biped({ axes: wildAxes(seed) })
        const pose = bindPose(skeleton)
        const at = deform(doll.mesh.positions, skeleton, anySkin(seed, doll.mesh.positions.length / 3), pose)
        for (let i = 0; i < at.length; i += 17) expect(at[i]).toBeCloseTo(doll.mesh.positions[i], 4)
        // and the matrices that files tell say the same
        const inverse = inverseBindMatrices(skeleton)
        skeleton.names.forEach((_, j) => {
          const [px, py, pz] = vec3At(pose.positions, j)
          const r = [...pose.rotations.subarray(4 * j, 4 * j + 4)] as Quat
          const whole = compose([px, py, pz], r)
          const p = transformPoint([...inverse.subarray(16 * j, 16 * j + 16)], transformPoint(whole, [0.3, -0.2, 0.9]))
          ;[0.3, -0.2, 0.9].forEach((x, k) => expect(p[k]).toBeCloseTo(x, 4))
        })
      }),
      { numRuns: 20 },
    )
  })
  it('by nearest bone gives every vertex to one joint that has a bone near it', () => {
    const skin = nearestBoneSkin(doll.mesh, doll.skeleton)
    sums(skin).forEach(s => expect(s).toBeCloseTo(1, 6))
    const at = bindPose(doll.skeleton)
    const children = childrenOf(doll.skeleton)
    for (let v = 0; v < doll.mesh.positions.length / 3; v += 29) {
      const j = skin.joints[v * skin.influences]
      const p = vec3At(doll.mesh.positions, v)
      const ends = [j, ...children[j]].map(c => vec3At(at.positions, c))
      expect(Math.min(...ends.map(e => Math.hypot(p[0] - e[0], p[1] - e[1], p[2] - e[2])))).toBeLessThan(0.45)
    }
  })
  it('of a rigid piece rides on one joint, and all else stays', () => {
    const { indices } = doll.mesh
    const some = indices.subarray(0, 300)
    const ridden = rideRigidly(doll.skin, some, 4)
    const k = doll.skin.influences
    const on = new Set(some)
    for (let v = 0; v < doll.mesh.positions.length / 3; v++) {
      if (on.has(v)) {
        expect(ridden.joints[v * k]).toBe(4)
        expect(ridden.weights[v * k]).toBe(1)
      } else expect([...ridden.weights.subarray(v * k, v * k + k)]).toEqual([...doll.skin.weights.subarray(v * k, v * k + k)]) // prettier-ignore
    }
  })
})
