import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  angleOf,
  conjugate,
  distance,
  dot,
  fromAxisAngle,
  lerp,
  multiply,
  normalize,
  quatAt,
  rotate,
  seededRandom,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../src/math'
import { createLimbSolver, limbOf, reachingLimb, shareTwistAt, twistSegment, type TwistSegment } from '../src/motion'
import {
  forwardKinematics,
  skeletonFromWorld,
  worldPose,
  worldPoseBuffer,
  type Skeleton,
  type WorldJoint,
} from '../src/skeleton'

/** A root with one limb of two bones, made anew from a seed: any length, any axes, any number of joints along it. */
function randomLimb(seed: number) {
  const random = seededRandom(seed)
  const some = (): Vec3 => normalize([random() - 0.5, random() - 0.5, random() - 0.5])
  const turn = (most = 3): Quat => fromAxisAngle(some(), most * random())
  const places: Vec3[] = [[random(), random(), random()]]
  places.push([places[0][0] + 0.1, places[0][1], places[0][2]])
  const bones = [0.2 + random(), 0.2 + random()]
  const along = some()
  const bent = rotate(fromAxisAngle(some(), 0.05 + 0.6 * random()), along)
  const middle = places[1].map((v, k) => v + bones[0] * along[k]) as Vec3
  const end = middle.map((v, k) => v + bones[1] * bent[k]) as Vec3
  const counts = [Math.floor(4 * random()), Math.floor(4 * random())]
  const joints: WorldJoint[] = [
    { name: 'root', parent: -1, position: places[0], rotation: turn() },
    { name: 'upper', parent: 0, position: places[1], rotation: turn() },
  ]
  const fill = (from: Vec3, to: Vec3, n: number, name: string): void => {
    for (let i = 1; i <= n; i++)
      joints.push({
        name: `${name}${i}`,
        parent: joints.length - 1,
        position: lerp(from, to, i / (n + 1)),
        rotation: turn(),
      })
  }
  fill(places[1], middle, counts[0], 'u')
  joints.push({ name: 'lower', parent: joints.length - 1, position: middle, rotation: turn() })
  fill(middle, end, counts[1], 'l')
  joints.push({ name: 'end', parent: joints.length - 1, position: end, rotation: turn() })
  const skeleton = skeletonFromWorld(joints)
  const at = (name: string): number => skeleton.names.indexOf(name)
  const rest = worldPose(skeleton)
  const limb = reachingLimb(skeleton, rest, limbOf(rest, at('upper'), at('lower'), at('end'), some()))
  // a frame in which root, shoulder and elbow are turned anyhow
  const rotations = skeleton.restRotations.slice()
  for (const name of ['root', 'upper', 'lower'])
    rotations.set(multiply(quatAt(rotations, at(name)), turn(name === 'lower' ? 1 : 2)), 4 * at(name))
  const frames = { rotations, translations: skeleton.restTranslations.slice() }
  const pose = worldPoseBuffer(skeleton.names.length)
  const follow = (): void => forwardKinematics(skeleton.parents, undefined, frames.translations, rotations, 0, pose)
  follow()
  const reach = bones[0] + bones[1]
  const place = vec3At(pose.positions, at('upper')).map(
    (() => {
      const way = some()
      const far = Math.abs(bones[0] - bones[1]) + (0.96 * reach - Math.abs(bones[0] - bones[1])) * random()
      return (v: number, k: number) => v + far * way[k]
    })(),
  ) as Vec3
  return { skeleton, limb, frames, pose, follow, at, bones, reach, place, some, turn, counts }
}
/** Whether the end is not bent right back on its bone, where twist fades. */
function isClear(skeleton: Skeleton, segment: TwistSegment, rotations: Float32Array): boolean {
  const q = multiply(quatAt(rotations, segment.to), conjugate(quatAt(skeleton.restRotations, segment.to)))
  return Math.hypot(dot([q[0], q[1], q[2]], segment.axes[segment.axes.length - 1]), q[3]) > 0.4
}
const seeds = fc.integer({ min: 1, max: 1e6 })
/** How far apart two turns are, radians. */
const apart = (a: Quat, b: Quat): number => angleOf(multiply(a, conjugate(b)))

describe('a limb that reaches', () => {
  it('brings its end to the place, keeps its bones as long and its end turned as it was', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const l = randomLimb(seed)
        const before = quatAt(l.pose.rotations, l.limb.end)
        createLimbSolver(l.skeleton).reach(l.limb, l.pose, l.frames, 0, { place: l.place })
        const told = vec3At(l.pose.positions, l.limb.end)
        l.follow()
        const now = vec3At(l.pose.positions, l.limb.end)
        expect(distance(now, l.place)).toBeLessThan(2e-5 * l.reach)
        // the pose handed back is the one that follows from the local turns
        expect(distance(told, now)).toBeLessThan(1e-6)
        expect(distance(vec3At(l.pose.positions, l.limb.lower), now)).toBeCloseTo(l.bones[1], 5)
        expect(apart(quatAt(l.pose.rotations, l.limb.end), before)).toBeLessThan(1e-4)
      }),
      { numRuns: 300 },
    )
  })
  it('points its middle joint to the pole', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const l = randomLimb(seed)
        const pole = l.place.map((v, k) => v + 0.7 * l.some()[k]) as Vec3
        createLimbSolver(l.skeleton).reach(l.limb, l.pose, l.frames, 0, { place: l.place, pole })
        l.follow()
        const start = vec3At(l.pose.positions, l.limb.upper)
        const line = normalize(sub(l.place, start))
        const off = (p: Vec3): Vec3 => {
          const d = sub(p, start)
          const along = dot(d, line)
          return d.map((v, k) => v - along * line[k]) as Vec3
        }
        const [wanted, is] = [off(pole), off(vec3At(l.pose.positions, l.limb.lower))]
        // seen along the limb, where both stand out at all
        if (Math.hypot(...wanted) > 0.05 && Math.hypot(...is) > 0.05)
          expect(dot(normalize(wanted), normalize(is))).toBeGreaterThan(0.9999)
        expect(distance(vec3At(l.pose.positions, l.limb.end), l.place)).toBeLessThan(2e-5 * l.reach)
      }),
      { numRuns: 300 },
    )
  })
  it('turns its end as asked, and shares the twist along its bones without moving it', () => {
    let shared = 0
    fc.assert(
      fc.property(seeds, seed => {
        const l = randomLimb(seed)
        const turn = multiply(l.turn(), quatAt(l.pose.rotations, l.limb.end))
        createLimbSolver(l.skeleton).reach(l.limb, l.pose, l.frames, 0, { place: l.place, turn })
        l.follow()
        expect(apart(quatAt(l.pose.rotations, l.limb.end), turn)).toBeLessThan(1e-4)
        expect(distance(vec3At(l.pose.positions, l.limb.end), l.place)).toBeLessThan(2e-5 * l.reach)
        // joints along a bone stay on it
        const [from, to] = [l.limb.lower, l.limb.end].map(j => vec3At(l.pose.positions, j))
        for (let i = 1; i <= l.counts[1]; i++) {
          const p = vec3At(l.pose.positions, l.at(`l${i}`))
          expect(distance(p, lerp(from, to, i / (l.counts[1] + 1)))).toBeLessThan(1e-4)
        }
        const far = l.limb.twists.find(t => t.end === 'far')
        if (far && isClear(l.skeleton, far, l.frames.rotations)) {
          shared++
          // shared already: asking again moves nothing
          const again = l.frames.rotations.slice()
          shareTwistAt(l.skeleton, far, again, 0)
          for (let i = 0; i < again.length; i++) expect(Math.abs(again[i] - l.frames.rotations[i])).toBeLessThan(5e-3)
        }
      }),
      { numRuns: 300 },
    )
    expect(shared).toBeGreaterThan(100)
  })
  it('stretches towards a place beyond its reach and does not snap straight', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const l = randomLimb(seed)
        const start = vec3At(l.pose.positions, l.limb.upper)
        const far = start.map((v, k) => v + 3 * (l.place[k] - v)) as Vec3
        if (distance(start, far) < 1.2 * l.reach) return
        createLimbSolver(l.skeleton).reach(l.limb, l.pose, l.frames, 0, { place: far })
        const now = vec3At(l.pose.positions, l.limb.end)
        expect(distance(start, now)).toBeGreaterThan(0.96 * l.reach)
        expect(distance(start, now)).toBeLessThan(l.reach)
        expect(dot(normalize(sub(now, start)), normalize(sub(far, start)))).toBeGreaterThan(0.99999)
      }),
      { numRuns: 200 },
    )
  })
})

describe('twist along a bone', () => {
  it('is shared evenly, and sharing it again changes nothing', () => {
    fc.assert(
      fc.property(
        seeds,
        fc.constantFrom('far' as const, 'near' as const),
        fc.double({ min: -2.6, max: 2.6, noNaN: true }),
        (seed, end, angle) => {
          const l = randomLimb(seed)
          const [from, to] = end === 'far' ? [l.limb.lower, l.limb.end] : [l.limb.upper, l.limb.lower]
          const rest = worldPose(l.skeleton)
          const segment = twistSegment(l.skeleton, rest, from, to, end)
          if (!segment) return
          const rotations = l.skeleton.restRotations.slice()
          const turned = end === 'far' ? to : from
          const bone = normalize(sub(vec3At(rest.positions, to), vec3At(rest.positions, from)))
          const own = rotate(conjugate(quatAt(rest.rotations, turned)), bone)
          rotations.set(multiply(quatAt(rotations, turned), fromAxisAngle(own, angle)), 4 * turned)
          const world = (r: Float32Array, j: number): Quat => {
            const pose = worldPoseBuffer(l.skeleton.names.length)
            forwardKinematics(l.skeleton.parents, undefined, l.skeleton.restTranslations, r, 0, pose)
            return quatAt(pose.rotations, j)
          }
          const before = world(rotations, to)
          expect(shareTwistAt(l.skeleton, segment, rotations, 0)).toBeCloseTo(angle, 3)
          expect(apart(world(rotations, to), before)).toBeLessThan(1e-4)
          segment.between.forEach((j, i) => {
            const off = multiply(world(rotations, j), conjugate(quatAt(rest.rotations, j)))
            expect(apart(off, fromAxisAngle(bone, angle * segment.shares[i]))).toBeLessThan(2e-3)
          })
          const once = rotations.slice()
          shareTwistAt(l.skeleton, segment, rotations, 0, angle)
          for (let i = 0; i < once.length; i++) expect(rotations[i]).toBeCloseTo(once[i], 3)
        },
      ),
      { numRuns: 300 },
    )
  })
  it('is left alone where a joint lies beside the bone: turning it would move the hand', () => {
    const skeleton = skeletonFromWorld([
      { name: 'elbow', parent: -1, position: [0, 0, 0], rotation: [0, 0, 0, 1] },
      { name: 'beside', parent: 0, position: [0.5, 0.1, 0], rotation: [0, 0, 0, 1] },
      { name: 'hand', parent: 1, position: [1, 0, 0], rotation: [0, 0, 0, 1] },
    ])
    expect(twistSegment(skeleton, worldPose(skeleton), 0, 2, 'far')).toBeUndefined()
  })
})
