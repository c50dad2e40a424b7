import { describe, expect, it } from 'vitest'
import {
  angleBetween,
  fromAxisAngle,
  multiply,
  normalize,
  quatAt,
  rotate,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../src/math'
import type { Take } from '../src/motion'
import { jointsInWorld, skeletonFromWorld, worldPose, type Skeleton, type WorldJoint } from '../src/skeleton'
import { transfer } from '../src/retarget'
import { biped, wildAxes } from './skeletons'

const PARTS: Record<number, readonly string[]> = {
  1: ['Proximal'],
  2: ['Proximal', 'Intermediate'],
  3: ['Proximal', 'Intermediate', 'Distal'],
}

/** A biped whose left index finger, 9 cm, has so many joints, at rest curled by `curl` at each. */
function fingered(joints: number, curl = 0, seed = 1): Skeleton {
  const axes = wildAxes(seed)
  const list: WorldJoint[] = jointsInWorld(biped({ axes })).map(j => ({ ...j }))
  const hand = list.findIndex(j => j.role === 'leftHand')
  let p: Vec3 = [list[hand].position[0] + 0.09, list[hand].position[1], list[hand].position[2] + 0.03]
  let turn: Quat = [0, 0, 0, 1]
  PARTS[joints].forEach((part, i) => {
    turn = multiply(turn, fromAxisAngle([0, 0, -1], curl))
    const step = rotate(turn, [0.09 / joints, 0, 0])
    const end: Vec3 = [p[0] + step[0], p[1] + step[1], p[2] + step[2]]
    list.push({
      name: `leftIndex${part}`,
      role: `leftIndex${part}`,
      parent: i === 0 ? hand : list.length - 1,
      position: p,
      rotation: multiply(turn, axes('leftHand')),
      tip: end,
    })
    p = end
  })
  return skeletonFromWorld(list)
}

/** Every joint of the finger bent by as much about the palm's own axis, in the body's space. */
function curled(s: Skeleton, each: number): Take {
  const J = s.names.length
  const w = worldPose(s)
  const rotations = s.restRotations.slice()
  s.names.forEach((n, j) => {
    if (!n.startsWith('leftIndex')) return
    const up = quatAt(w.rotations, s.parents[j])
    const bend = fromAxisAngle([0, 0, -1], each)
    const local = multiply([-up[0], -up[1], -up[2], up[3]], multiply(bend, quatAt(w.rotations, j)))
    rotations.set(local, 4 * j)
  })
  return { name: 'curl', fps: 30, frames: 1, rotations, translations: s.restTranslations.slice(0, 3 * J) }
}

/** How far the finger's last bone is turned from where it rested, degrees. */
function tipTurn(s: Skeleton, take: Take): number {
  const last = s.names.length - 1
  const way = (p: ReturnType<typeof worldPose>): Vec3 =>
    rotate(quatAt(p.rotations, last), normalize(vec3At(s.tips!, last)))
  return (angleBetween(way(worldPose(s)), way(worldPose(s, take.translations, take.rotations))) * 180) / Math.PI
}

describe('a finger with other joints than the performer has', () => {
  for (const [theirs, own] of [
    [3, 2],
    [2, 3],
    [3, 1],
    [1, 3],
    [2, 1],
    [3, 3],
  ]) {
    it(`curls as far: ${theirs} joints onto ${own}`, async () => {
      const performer = fingered(theirs, 0, 2),
        figure = fingered(own, 0, 5)
      const take = curled(performer, 0.3)
      const { take: carried } = await transfer(performer, take, figure)
      const wanted = tipTurn(performer, take),
        got = tipTurn(figure, carried)
      // bones longer than the performer's turn as the mean of those they stand for
      expect(got).toBeGreaterThan(wanted * (own < theirs ? 0.6 : 0.95))
      expect(got).toBeLessThan(wanted * 1.05)
    })
  }

  it("lies as the performer's does where the rest poses are curled unlike", async () => {
    const performer = fingered(3, 0.25, 3),
      figure = fingered(2, 0, 4)
    const { take: carried } = await transfer(performer, curled(performer, 0), figure)
    // the performer at rest is curled by 43 degrees at the tip; the straight finger is brought there
    const w = worldPose(figure, carried.translations, carried.rotations)
    const [a, b] = [figure.names.indexOf('leftIndexProximal'), figure.names.indexOf('leftIndexIntermediate')]
    const first = normalize(sub(vec3At(w.positions, b), vec3At(w.positions, a)))
    const last = rotate(quatAt(w.rotations, b), normalize(vec3At(figure.tips!, b)))
    const between = (angleBetween(first, last) * 180) / Math.PI
    expect(between).toBeGreaterThan(15)
    expect(between).toBeLessThan(35)
  })
})
