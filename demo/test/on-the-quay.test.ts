import { beforeAll, describe, expect, it } from 'vitest'
import { angleOf, quatAt } from '@chiraxis/core/math'
import { findContacts, type Played } from '@chiraxis/core/motion'
import { clipOf, createRecorder, createWalkabout, quayFloor, type Floor, type Walker } from '@chiraxis/core/trial'
import { BRISK, gait, MOVES, RUN, WALK } from '../src/takes'
import { bodyOf, walkerOf } from './walkers'

const idle = MOVES.find(m => m.name === 'lookout idle')!

describe('on the quay', () => {
  /** Where it is led along, one place after the other. */
  const ROUND = [[0, 3], [0, 7], [-4.8, 6.6], [-8, 6.6], [-8, 0], [5, -2], [5, 5]] as const // prettier-ignore
  it.each([4, 27])(
    'steps on every surface, up the steps and down the ramp, feet on the ground and in place (%i)',
    async seed => {
      // prettier-ignore
      const walker = await walkerOf(bodyOf(seed), [idle, gait('walk', WALK, 5, 11), gait('brisk', BRISK, 5, 12), gait('run', RUN, 5, 13)]) // prettier-ignore
      const floor = quayFloor()
      const { step } = createWalkabout({ ...walker, floor })
      const sounds = new Set<string>()
      let [slide, frames, falls, next, off] = [0, 0, 0, 0, 0]
      let at: readonly [number, number] = [0, 0]
      for (let t = 0; t < 90 && next < ROUND.length; t += 1 / 60) {
        const [x, z] = ROUND[next]!
        const to: [number, number] = [x - at[0], z - at[1]]
        if (Math.hypot(...to) < 0.3) next++
        const w = step(1 / 60, { to })
        at = w.place
        slide += w.slide
        frames++
        off = Math.max(off, Math.abs(w.height - floor.heightAt(...at)))
        for (const f of w.footfalls) {
          sounds.add(f.surface)
          expect(f.surface).toBe(floor.surfaceAt(f.at[0], f.at[2]))
          falls++
        }
      }
      expect(next).toBe(ROUND.length)
      expect([...sounds].sort()).toEqual(['mud', 'planks', 'shingle', 'stone'])
      expect(slide / frames).toBeLessThan(0.05)
      // the body follows its feet over steps softly
      expect(off).toBeLessThan(0.3)
      expect(falls).toBeGreaterThan(40)
    },
  )
})

describe('what is done on keys', () => {
  let made: Walker
  beforeAll(async () => {
    const wanted = ['lookout idle', 'walk', 'run', 'hop ashore', 'wave', 'turn left', 'turn right', 'clap', 'sit on floor'] // prettier-ignore
    made = await walkerOf(
      bodyOf(52),
      MOVES.filter(m => wanted.includes(m.name)),
    )
  })
  it('takes are told by what they are: steps, stands, turns on the spot, what is done once', () => {
    expect(Object.fromEntries(made.clips.map(c => [c.name, c.kind]))).toEqual({ 'lookout idle': 'stand', walk: 'steps', run: 'steps', 'hop ashore': 'once', wave: 'stand', 'turn left': 'once', 'turn right': 'once', clap: 'stand', 'sit on floor': 'once' }) // prettier-ignore
    const { states } = createWalkabout(made)
    expect(states.table.states.map(s => s.name)).toEqual(['stands', 'turns left', 'turns right', 'goes'])
    expect(states.jump).toEqual({ key: 'Space', take: 'hop ashore' })
    expect(states.actions.map(a => [a.take, a.part]).sort()).toEqual([
      ['clap', 'upper'],
      ['sit on floor', 'whole'],
      ['wave', 'upper'],
    ])
  })
  it('it turns where it stands by the take for it, as far as that goes, then goes on', () => {
    const { step } = createWalkabout(made)
    const seen = new Set<string>()
    let turned = 0
    for (let t = 0; t < 5; t += 1 / 60) {
      const w = step(1 / 60, { to: [1, 0] })
      seen.add(w.state[0]!)
      if (w.state[0] === 'turns left') {
        turned = w.heading
        expect(Math.hypot(...w.place)).toBeLessThan(0.2)
      }
    }
    expect([...seen]).toEqual(['turns left', 'goes'])
    expect(turned).toBeGreaterThan(1.1)
    expect(step(1 / 60, { to: [1, 0] }).heading).toBeCloseTo(Math.PI / 2, 1)
  })
  it('it jumps with its take, or from the crouch where there is none, and lands on what it comes down on', () => {
    const flight = (w: ReturnType<typeof createWalkabout>, lead: object): { air: number; far: number } => {
      for (let t = 0; t < 1; t += 1 / 60) w.step(1 / 60, lead)
      const from = w.step(1 / 60, lead).place
      let air = 0
      for (let t = 0; t < 3.6; t += 1 / 60)
        if (!w.step(1 / 60, { ...lead, pressed: t === 0 ? ['Space'] : [] }).grounded) air += 1 / 60
      const to = w.step(1 / 60, lead).place
      return { air, far: Math.hypot(to[0] - from[0], to[1] - from[1]) }
    }
    const hop = made.clips.find(c => c.name === 'hop ashore')!
    const far = hop.way![3 * (hop.samples - 1) + 1]!
    const taken = flight(createWalkabout(made), {})
    expect(taken.air).toBeGreaterThan(0.08)
    expect(Math.abs(taken.far - far)).toBeLessThan(0.12 * far)
    const noHop = { ...made, clips: made.clips.filter(c => c !== hop) }
    const { air } = flight(createWalkabout(noHop), {})
    expect(air).toBeGreaterThan(0.3)
    expect(air).toBeLessThan(0.7)
    // up a step in the air
    const floor: Floor = { heightAt: (_, z) => (z > 1.6 ? 0.2 : 0), surfaceAt: () => 'planks' }
    const up = createWalkabout({ ...noHop, floor })
    let w = up.step(1 / 60, {})
    for (let t = 0; t < 4; t += 1 / 60) {
      w = up.step(1 / 60, { to: [0, 1], pressed: w.place[1] > 1.2 && w.place[1] < 1.25 ? ['Space'] : [] })
      for (const v of w.rotations) expect(Number.isFinite(v)).toBe(true)
    }
    expect(w.height).toBeCloseTo(0.2, 1)
  })
  it('arms wave while legs go on; for what the whole body does the way is not gone', () => {
    const { step, states } = createWalkabout(made)
    const key = (take: string): string => states.actions.find(a => a.take === take)!.key
    const hand = made.joints.rightUpperArm!,
      knee = made.joints.rightLowerLeg!
    const other = createWalkabout(made)
    let arms = 0,
      legs = 0
    for (let i = 0; i < 240; i++) {
      const lead = { to: [0, 1] as const }
      const w = step(1 / 60, { ...lead, pressed: i === 60 ? [key('wave')] : [] })
      const own = [quatAt(w.rotations, hand), quatAt(w.rotations, knee)] as const
      const o = other.step(1 / 60, lead)
      arms = Math.max(arms, angleOf(own[0], quatAt(o.rotations, hand)))
      legs = Math.max(legs, angleOf(own[1], quatAt(o.rotations, knee)))
    }
    expect(arms).toBeGreaterThan(0.8)
    expect(legs).toBeLessThan(0.02)
    for (let i = 0; i < 300; i++) step(1 / 60, {})
    let w = step(1 / 60, { pressed: [key('sit on floor')] })
    for (let i = 0; i < 60; i++) w = step(1 / 60, { to: [0, 1] })
    expect(w.doing).toEqual(['sit on floor'])
    expect(w.speed).toBe(0)
    for (let i = 0; i < 480; i++) w = step(1 / 60, {})
    expect(w.doing).toEqual([])
  })
  it('a state whose take is not there stands as bound, where it was, however long', () => {
    const { states } = createWalkabout(made)
    const table = { ...states.table, first: 'gone', states: [...states.table.states, { name: 'gone', plays: { take: 'nowhere' } }] } // prettier-ignore
    const { step } = createWalkabout({ ...made, states: { ...states, table } })
    let w = step(1 / 60, {})
    for (let i = 0; i < 200; i++) w = step(1 / 60, {})
    expect(w.state).toEqual(['gone'])
    const hips = made.joints.hips!
    for (let k = 0; k < 3; k++)
      expect(Math.abs(w.translations[3 * hips + k]! - made.skeleton.restTranslations[3 * hips + k]!)).toBeLessThan(0.1)
  })
  it('what is held is held in its middle until its key is let go', () => {
    const states = { ...createWalkabout(made).states, actions: [{ key: 'q', take: 'sit on floor', how: 'held' as const, part: 'whole' as const, blend: 0.2 }] } // prettier-ignore
    const { step } = createWalkabout({ ...made, states })
    let w = step(1 / 60, {})
    for (let i = 0; i < 900; i++) w = step(1 / 60, { held: ['q'] })
    expect(w.doing).toEqual(['sit on floor'])
    for (let i = 0; i < 400; i++) w = step(1 / 60, {})
    expect(w.doing).toEqual([])
  })
  it('a run is recorded at even steps, as it was seen, with its footsteps', () => {
    const { step } = createWalkabout({ ...made, floor: quayFloor() })
    const recorder = createRecorder()
    const seen: Float32Array[] = []
    let time = 0
    for (let i = 0; i < 240; i++) {
      const dt = i % 3 === 0 ? 1 / 30 : 1 / 60
      time += dt
      const w = step(dt, { to: [0, 1] })
      recorder.add(time, w)
      seen.push(w.rotations.slice())
    }
    const take = recorder.take('run 1', 60)!
    expect(take.frames).toBe(Math.floor(recorder.seconds() * 60) + 1)
    const J = made.skeleton.names.length
    expect(angleOf(quatAt(take.rotations, 3), quatAt(seen[0]!, 3))).toBeLessThan(1e-5)
    /** The fastest turn of a joint, radians a second, of poses at such distances in time. */
    const fastest = (poses: readonly Float32Array[], dt: (i: number) => number): number => {
      let most = 0
      for (let i = 1; i < poses.length; i++)
        for (let j = 0; j < J; j++)
          most = Math.max(most, angleOf(quatAt(poses[i]!, j), quatAt(poses[i - 1]!, j)) / dt(i))
      return most
    }
    const taken = Array.from({ length: take.frames }, (_, f) => take.rotations.subarray(4 * J * f, 4 * J * (f + 1)))
    expect(fastest(taken, () => 1 / 60)).toBeLessThan(1.01 * fastest(seen, i => (i % 3 === 0 ? 1 / 30 : 1 / 60)))
    const feet = take.events!.filter(e => e.name === 'footstep')
    expect(feet.length).toBeGreaterThan(6)
    expect(new Set(feet.map(e => e.data!.surface))).toContain('planks')
    expect(createRecorder().take('nothing')).toBeUndefined()
  })
})

describe('setting off and stopping', () => {
  it.each([52, 7])('by takes for it: in step with the walk, as fast as it goes, without a pop (%i)', async seed => {
    const wanted = ['lookout idle', 'walk', 'brisk walk', 'stop', 'stumble']
    const made = await walkerOf(
      bodyOf(seed),
      MOVES.filter(m => wanted.includes(m.name)),
    )
    const stop = made.clips.find(c => c.name === 'stop')!
    expect(stop.begins).toBeGreaterThan(0.3)
    // one who stumbles ends standing too, but that is not how one stops
    expect(made.clips.find(c => c.name === 'stumble')!.begins).toBeUndefined()
    // a take in which it sets off, recorded of itself
    const recorder = createRecorder()
    const led = createWalkabout({ ...made, clips: made.clips.filter(c => c !== stop) })
    for (let t = 0; t < 2.6; t += 1 / 60) recorder.add(t, led.step(1 / 60, t < 0.5 ? {} : { to: [0, 1] }))
    const own: Played = { ...made, frame: [...made.frame], take: recorder.take('set off')! }
    const start = clipOf(own, findContacts(own))
    const walk = made.clips.find(c => c.name === 'walk')!
    expect(Math.abs(start.ends! - walk.speed)).toBeLessThan(0.15 * walk.speed)

    const walker = { ...made, clips: [...made.clips.filter(c => c.name !== 'stumble'), start] }
    const { step, states } = createWalkabout(walker)
    expect(states.table.states.map(s => s.name)).toEqual(['stands', 'goes', 'sets off', 'stops'])
    const seen: string[] = []
    const J = made.skeleton.names.length
    const turned = (a: ArrayLike<number>, i: number, b: ArrayLike<number>, k: number): number => {
      let most = 0
      for (let j = 0; j < J; j++) most = Math.max(most, 60 * angleOf(quatAt(a, i * J + j), quatAt(b, k * J + j)))
      return most
    }
    let source = 0
    for (const c of walker.clips)
      for (let k = 0; k + 1 < c.samples; k++) source = Math.max(source, turned(c.rotations, k, c.rotations, k + 1))
    let [most, slide, frames, slowest] = [0, 0, 0, Infinity]
    let last: Float32Array | undefined
    for (let t = 0; t < 11; t += 1 / 60) {
      const w = step(1 / 60, t > 1 && t < 6 ? { to: [0, 1] } : {})
      if (seen.at(-1) !== w.state[0]) seen.push(w.state[0]!)
      if (last) most = Math.max(most, turned(last, 0, w.rotations, 0))
      // once it goes it does not falter where the one is gone over into the other
      if (seen.length === 3 && t < 6) slowest = Math.min(slowest, w.speed)
      last = w.rotations.slice()
      slide += w.slide
      frames++
    }
    expect(seen).toEqual(['stands', 'sets off', 'goes', 'stops', 'stands'])
    expect(most).toBeLessThan(1.3 * source)
    expect(slide / frames).toBeLessThan(0.02)
    expect(slowest).toBeGreaterThan(0.6 * walk.speed)
  })
})
