import { beforeAll, describe, expect, it } from 'vitest'
import { angleOf, quatAt } from '@chiraxis/core/math'
import { findContacts, movingGround, type Played } from '@chiraxis/core/motion'
import { bodyFrame } from '@chiraxis/core/retarget'
import { recogniseRoles } from '@chiraxis/core/skeleton'
import { createWalkabout, gaitOf, gaitsAt, restsAt, type Clip, type Floor, type Walker } from '@chiraxis/core/trial'
import { BRISK, gait, MOVES, NORTH, record, RUN, WALK } from '../src/takes'
import { bodyOf, walkerOf } from './walkers'

const idle = MOVES.find(m => m.name === 'lookout idle')!
const THREE = [idle, gait('walk', WALK, 5, 11), gait('brisk', BRISK, 5, 12), gait('run', RUN, 5, 13)]

const stepsOf = (w: Walker): Clip[] => w.clips.filter(c => c.kind === 'steps')
let bodies: { readonly walker: Walker }[]
beforeAll(async () => {
  bodies = []
  for (const seed of [4, 19]) bodies.push({ walker: await walkerOf(bodyOf(seed), THREE) })
})

/** Frames of a walk, and what was seen in them. */
function led(walker: Walker, seconds: number, lead: (t: number) => { to?: [number, number]; speed?: number }) {
  const { step } = createWalkabout(walker)
  const out = []
  for (let t = 0; t < seconds; t += 1 / 60) {
    const w = step(1 / 60, lead(t))
    out.push({ ...w, rotations: w.rotations.slice(), translations: w.translations.slice(), place: [...w.place] })
  }
  return out
}
const fastest = (frames: readonly { rotations: Float32Array }[], fps: number): number => {
  let most = 0
  for (let f = 1; f < frames.length; f++)
    for (let j = 0; j < frames[f]!.rotations.length / 4; j++)
      most = Math.max(most, angleOf(quatAt(frames[f]!.rotations, j), quatAt(frames[f - 1]!.rotations, j)) * fps)
  return most
}
const framesOf = (g: Clip): { rotations: Float32Array }[] => {
  const J = g.rotations.length / (4 * g.samples)
  return Array.from({ length: g.samples + 1 }, (_, k) => ({ rotations: g.rotations.slice(4 * J * (k % g.samples), 4 * J * ((k % g.samples) + 1)) })) // prettier-ignore
}

describe('cycles of takes', () => {
  it('go as fast as their takes, run on without a jump, and both feet come down half a cycle apart', () => {
    for (const { walker } of bodies)
      for (const g of stepsOf(walker)) {
        const frames = framesOf(g)
        const fps = g.samples / g.seconds
        const seam = fastest(frames.slice(-2), fps)
        expect(seam, g.name).toBeLessThan(1.2 * fastest(frames.slice(0, -1), fps) + 0.5)
        expect(restsAt(g, 'left', 0.001)).toBe(true)
        const right = [...g.rests.right!].findIndex(
          (v, k) => v === 1 && g.rests.right![(k + g.samples - 1) % g.samples] === 0,
        )
        expect(Math.abs(right / g.samples - 0.5), g.name).toBeLessThan(0.06)
      }
  })
  it('are measured the same on the spot as where they travel', () => {
    const { skeleton, take } = record(gait('walk', WALK, 5, 11), NORTH, 60)
    const { joints } = recogniseRoles(skeleton)
    const own: Played = { skeleton, joints, take, frame: bodyFrame(skeleton, joints) }
    const moving = gaitOf(own, findContacts(own))!
    const treadmill = MOVES.find(m => m.name === 'treadmill walk')!
    const r = record(treadmill, NORTH, 60)
    const k = recogniseRoles(r.skeleton).joints
    const still: Played = { skeleton: r.skeleton, joints: k, take: r.take, frame: bodyFrame(r.skeleton, k) }
    const standing = gaitOf(still, findContacts(still), { ground: movingGround(still) })!
    expect(moving.speed).toBeGreaterThan(0.5)
    expect(standing.speed).toBeGreaterThan(0.5)
  })
  it('lie between each other by their speeds', () => {
    const [a, b] = [...stepsOf(bodies[0]!.walker)].sort((p, q) => p.speed - q.speed)
    const { shares, seconds } = gaitsAt([a!, b!], (a!.speed + b!.speed) / 2)
    expect(shares.map(s => s.share)).toEqual([0.5, 0.5])
    expect(seconds).toBeGreaterThan(Math.min(a!.seconds, b!.seconds))
    expect(seconds).toBeLessThan(Math.max(a!.seconds, b!.seconds))
    expect(gaitsAt([a!, b!], 0.1).shares).toHaveLength(1)
  })
})

describe('a figure that is led', () => {
  it('keeps its feet in place at every steady speed, and goes as fast as it says', () => {
    for (const { walker } of bodies) {
      const speeds = [...stepsOf(walker).map(g => g.speed), 1.7, 2.6]
      for (const speed of speeds) {
        const frames = led(walker, 6, () => ({ to: [0, 1], speed }))
        const steady = frames.slice(180)
        const slide = steady.reduce((s, f) => s + f.slide, 0) / steady.length
        expect(slide, `${speed}`).toBeLessThan(0.02)
        const gone = steady.at(-1)!.place[1]! - steady[0]!.place[1]!
        expect(Math.abs(gone / ((steady.length - 1) / 60) - speed)).toBeLessThan(0.02)
        expect(frames.flatMap(f => f.footfalls).length).toBeGreaterThan(6)
      }
    }
  })
  it('starts, turns, runs and stops without a pop: no joint faster than its takes by three tenths', () => {
    for (const { walker } of bodies) {
      const sources = Math.max(...stepsOf(walker).map(g => fastest(framesOf(g), g.samples / g.seconds)))
      const frames = led(walker, 9, t =>
        t < 0.5 ? {} : t < 2.5 ? { to: [0, 1] } : t < 4 ? { to: [1, 0.2], speed: 3 } : t < 6 ? { to: [-0.4, -1] } : {},
      )
      expect(fastest(frames, 60)).toBeLessThan(1.3 * sources)
      const end = frames.at(-1)!
      expect(end.speed).toBe(0)
      expect(end.shares).toEqual([{ name: 'lookout idle', share: 1 }])
      for (const v of end.rotations) expect(Number.isFinite(v)).toBe(true)
    }
  })
  it('goes up and down a ramp and a step with its feet on the ground', () => {
    for (const { walker } of bodies) {
      const heightAt = (_: number, z: number): number =>
        Math.min(0.5, Math.max(0, (z - 1.5) * 0.2)) + (z > 6 ? 0.15 : 0)
      const floor: Floor = { heightAt, surfaceAt: () => 'planks' }
      const frames = led({ ...walker, floor }, 8, () => ({ to: [0, 1] }))
      const slide = frames.slice(120).reduce((s, f) => s + f.slide, 0) / (frames.length - 120)
      expect(slide).toBeLessThan(0.05)
      const falls = frames.flatMap(f => f.footfalls)
      expect(falls.some(f => f.at[1] > 0.45)).toBe(true)
    }
  })
})
