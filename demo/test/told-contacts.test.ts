import { beforeAll, describe, expect, it } from 'vitest'
import { type ToldContact } from '@chiraxis/core/correct'
import { performOwnTake } from '@chiraxis/core/steps'
import { findContacts, followPlaces, runsOf, type Take } from '@chiraxis/core/motion'
import { perform, TRANSFER_DEFAULTS, type Performed, type Stretch } from '@chiraxis/core/perform'
import { bodyFrame, transfer } from '@chiraxis/core/retarget'
import { recogniseRoles, worldPose, type Skeleton } from '@chiraxis/core/skeleton'
import { bodySurfaceOf, solesOf, type BodySurface } from '@chiraxis/core/surface'
import { makeStranger, trueSkin } from '../src/strangers'
import { MOVES, record, SOUTH } from '../src/takes'

let skeleton: Skeleton, surface: BodySurface, joints: Readonly<Record<string, number>>
beforeAll(async () => {
  const stranger = await makeStranger(88_301, {
    build: 'lanky',
    dress: 'bare',
    make: 'smooth pieces',
    stance: 'a-pose',
  })
  const { skeleton: s, skin } = trueSkin(stranger)
  skeleton = s
  joints = recogniseRoles(s).joints
  surface = await bodySurfaceOf(stranger.mesh, s, skin, joints)
})

const recorded = (name: string) =>
  record(
    MOVES.find(m => m.name === name)!,
    SOUTH,
  )
function carried(
  name: string,
  more: { contacts?: ToldContact[]; stretches?: Stretch[]; settings?: Partial<typeof TRANSFER_DEFAULTS> } = {},
): Promise<Performed> {
  const { skeleton: performer, take } = recorded(name)
  return perform(performer, take, skeleton, {
    surface,
    settings: { ...TRANSFER_DEFAULTS, ...more.settings },
    told: more,
  })
}
const frameOf = (p: Take, f: number): number[] => {
  const J = skeleton.names.length
  return [...p.rotations.subarray(4 * J * f, 4 * J * (f + 1)), ...p.translations.subarray(3 * J * f, 3 * J * (f + 1))]
}
const played = (take: Take) => ({ skeleton, joints, take, frame: bodyFrame(skeleton, joints) })
const ground = (leg: string, from: number, to: number, holds: boolean): ToldContact => ({
  part: `${leg}Foot`,
  onto: 'ground',
  from,
  to,
  holds,
})
/** How far a place strays from where it is in the middle of some frames, and how high it is over its rest at most, metres. */
function stirs(take: Take, leg: string, from: number, to: number): { flat: number; high: number } {
  const sole = solesOf(skeleton, joints, bodyFrame(skeleton, joints), surface.outermost)[leg]!
  const [track] = followPlaces(played(take), [sole.pivot])
  const middle = Math.round((from + to) / 2)
  let flat = 0,
    high = 0
  for (let f = from; f <= to; f++) {
    flat = Math.max(flat, Math.hypot(track[3 * f] - track[3 * middle], track[3 * f + 2] - track[3 * middle + 2]))
    high = Math.max(high, Math.abs(track[3 * f + 1] - sole.rest[1]))
  }
  return { flat, high }
}

describe('feet told by hand', () => {
  it('rest where the performer slid, on the ground and still, and nothing else changes far from there', async () => {
    const plain = await carried('jig')
    const flags = plain.contacts.left
    // a stretch in which the foot is in the air
    let from = flags.findIndex((flag, f) => f > 20 && !flag)
    let to = from
    while (to + 1 < flags.length && !flags[to + 1]) to++
    const { fps, frames } = plain.take
    const middle = Math.round((from + to) / 2)
    from = middle - 2
    to = middle + 2
    expect(stirs(plain.take, 'left', from, to).high).toBeGreaterThan(0.02)
    const told = await carried('jig', { contacts: [ground('left', from / fps, to / fps, true)] })
    const now = stirs(told.take, 'left', from, to)
    expect(now.flat).toBeLessThan(0.002)
    expect([...told.contacts.left.subarray(from, to + 1)]).toEqual(new Array<number>(to - from + 1).fill(1))
    const far = [...Array(frames).keys()].filter(f => f < from - fps || f > to + fps)
    for (const f of far) expect(frameOf(told.take, f)).toEqual(frameOf(plain.take, f))
  })
  it('are let go where the performer rested', async () => {
    const plain = await carried('walk')
    const { fps } = plain.take
    const flags = plain.contacts.right
    const from = flags.findIndex((flag, f) => f > 10 && flag === 1 && flags[f - 1] === 0)
    let to = from
    while (flags[to + 1]) to++
    const free = await carried('walk', { contacts: [ground('right', from / fps, to / fps, false)] })
    expect([...free.contacts.right.subarray(from, to + 1)].some(v => v === 1)).toBe(false)
    // what was told later holds
    const again = await carried('walk', {
      contacts: [ground('right', from / fps, to / fps, false), ground('right', from / fps, to / fps, true)],
    })
    expect(again.contacts.right).toEqual(flags)
  })
  it('go along with the recording through a trim, another pace and a mirror', async () => {
    const { skeleton: performer, take } = recorded('walk')
    const told = { contacts: [ground('left', 1, 1.2, true)] }
    const of = async (adjust: object): Promise<Performed> =>
      perform(performer, take, skeleton, { surface, adjust, told })
    const plain = await of({})
    const inside = (p: Performed, leg: string, second: number): boolean =>
      p.contacts[leg]![Math.round(second * p.take.fps)] === 1
    expect(inside(plain, 'left', 1.1)).toBe(true)
    const cut = await of({ trim: [0.5, 3] })
    expect(inside(cut, 'left', 0.6)).toBe(true)
    const slow = await of({ pace: 0.5 })
    expect(inside(slow, 'left', 2.2)).toBe(true)
    const mirrored = await of({ mirror: true })
    expect(inside(mirrored, 'right', 1.1)).toBe(true)
    // what is cut away is left out and harms nothing
    const gone = await of({ trim: [2, 3] })
    expect(gone.contacts.left).toEqual(
      findContactsOf(await perform(performer, take, skeleton, { surface, adjust: { trim: [2, 3] } })),
    )
  })
})

describe('feet of a take that came with the body', () => {
  const rig = async () => {
    const { take } = await transfer(recorded('jig').skeleton, recorded('jig').take, skeleton)
    return { skeleton, takes: [{ ...take, name: 'jig' }] }
  }
  it('stay as they came until something is told of them', async () => {
    const own = await rig()
    const { take } = await performOwnTake(own, 'own:jig', { surface })
    expect(take.rotations).toBe(own.takes[0]!.rotations)
  })
  it('rest where they are told to, still and on the ground, and far from there no frame changes', async () => {
    const own = await rig()
    const plain = await performOwnTake(own, 'own:jig')
    const flags = plain.contacts.left!
    let from = flags.findIndex((flag, f) => f > 20 && !flag)
    let to = from
    while (to + 1 < flags.length && !flags[to + 1]) to++
    const { fps, frames } = plain.take
    const middle = Math.round((from + to) / 2)
    from = middle - 2
    to = middle + 2
    expect(stirs(plain.take, 'left', from, to).flat + stirs(plain.take, 'left', from, to).high).toBeGreaterThan(0.02)
    const told = await performOwnTake(own, 'own:jig', {
      surface,
      contacts: [ground('left', from / fps, to / fps, true)],
    })
    const now = stirs(told.take, 'left', from, to)
    expect(now.flat).toBeLessThan(0.002)
    expect([...told.contacts.left!.subarray(from, to + 1)]).toEqual(new Array<number>(to - from + 1).fill(1))
    const far = [...Array(frames).keys()].filter(f => f < from - fps || f > to + fps)
    expect(far.length).toBeGreaterThan(20)
    for (const f of far) expect(frameOf(told.take, f)).toEqual(frameOf(plain.take, f))
  })
})

describe('how feet slide', () => {
  it('is told before and after corrections, on the spot too', async () => {
    for (const name of ['walk', 'treadmill walk']) {
      const { measures } = await carried(name)
      expect(measures.slide!, name).toBeLessThan(0.03)
      expect(measures.slide!, name).toBeLessThanOrEqual(measures.slideBefore! + 0.005)
    }
    expect((await carried('treadmill walk')).measures.footSkateMetresPerSecond).toBeNull()
  })
})

describe('other parts on the ground', () => {
  it('are found where a body sits or lies, and none in a walk', async () => {
    expect(Object.keys((await carried('walk')).lying!)).toEqual([])
    const sat = await carried('sit on floor')
    const middle = Math.round(sat.take.frames / 2)
    expect([...sat.lying!.hips!.subarray(middle - 5, middle + 5)]).toEqual(new Array<number>(10).fill(1))
    expect(sat.lying!.hips![0]).toBe(0)
    const fallen = await carried('fall back')
    expect(Object.keys(fallen.lying!)).toEqual(expect.arrayContaining(['hips', 'chest']))
  })
  it('are as they were told', async () => {
    const told = await carried('sit on floor', { contacts: [{ part: 'head', onto: 'ground', from: 0.5, to: 0.9, holds: true }] }) // prettier-ignore
    const { fps } = told.take
    expect(told.lying!.head![Math.round(0.7 * fps)]).toBe(1)
    expect(told.lying!.head![Math.round(1.5 * fps)]).toBe(0)
  })
})

describe('heels and balls', () => {
  it('of a walk come down heel first and leave ball last, step after step', async () => {
    const { heels, contacts, take } = await carried('walk')
    for (const leg of ['left', 'right']) {
      const [heel, ball] = [runsOf(heels![leg]!), runsOf(contacts[leg]!)]
      const whole = ball.filter(([a, b]) => a > 0.2 * take.fps && b < take.frames - 0.2 * take.fps)
      expect(whole.length).toBeGreaterThan(2)
      for (const [a, b] of whole) {
        const own = heel.find(([c, d]) => c <= b && d >= a - 2)!
        expect(own).toBeDefined()
        expect(own[0]).toBeLessThanOrEqual(a + 1)
        expect(own[1]).toBeLessThan(b)
      }
    }
  })
  it('are told apart: a heel that is told to rest leaves the ball as found', async () => {
    const plain = await carried('walk')
    const { fps } = plain.take
    const told = await carried('walk', {
      contacts: [{ part: 'leftHeel', onto: 'ground', from: 1, to: 1.5, holds: true }],
    })
    expect(told.contacts.left).toEqual(plain.contacts.left)
    expect([...told.heels!.left!.subarray(Math.round(fps), Math.round(1.5 * fps))].every(v => v === 1)).toBe(true)
    expect(told.heels!.right).toEqual(plain.heels!.right)
  })
})

const findContactsOf = (p: Performed): Uint8Array => p.contacts.left!

describe('hands told by hand', () => {
  /** How far the two hands' joints are apart at a moment. */
  const apart = (take: Take, f: number): number => {
    const J = skeleton.names.length
    const { positions: P } = worldPose(skeleton, take.translations, take.rotations, f * J)
    const [a, b] = [3 * joints.leftHand!, 3 * joints.rightHand!]
    return Math.hypot(P[a] - P[b], P[a + 1] - P[b + 1], P[a + 2] - P[b + 2])
  }
  it('meet where the performer’s did not, and no longer where they are told apart', async () => {
    const plain = await carried('point and talk')
    const { fps } = plain.take
    const gaps = Array.from({ length: plain.take.frames }, (_, f) => apart(plain.take, f))
    // the quietest moment of hands that are not too far
    const at = gaps.reduce((best, gap, f) => (f > fps && f < gaps.length - fps && gap < gaps[best]! ? f : best), fps)
    const span = { from: (at - 6) / fps, to: (at + 6) / fps }
    const told = await carried('point and talk', {
      contacts: [{ part: 'leftHand', onto: 'rightHand', ...span, holds: true }],
    })
    expect(told.handContacts!.together[at]).toBe(1)
    expect(apart(told.take, at)).toBeLessThan(0.75 * gaps[at]!)
    const [height] = [plain.measures.height]
    expect(apart(told.take, at)).toBeLessThan(0.16 * height)
    expect(frameOf(told.take, 0)).toEqual(frameOf(plain.take, 0))
    const clap = await carried('clap')
    const first = clap.handContacts!.together.findIndex(w => w === 1)
    const seconds = first / clap.take.fps
    const parted = await carried('clap', {
      contacts: [{ part: 'rightHand', onto: 'leftHand', from: seconds - 0.1, to: seconds + 0.3, holds: false }],
    })
    expect(parted.handContacts!.together[first]).toBe(0)
    expect(apart(parted.take, first)).not.toBeCloseTo(apart(clap.take, first), 4)
  })
  it('lie on a part of the body', async () => {
    const plain = await carried('point and talk')
    const { fps } = plain.take
    const span = { from: 2, to: 2.6 }
    const told = await carried('point and talk', {
      contacts: [{ part: 'leftHand', onto: 'hips', ...span, holds: true }],
    })
    const f = Math.round(2.3 * fps)
    expect(told.handContacts!.body.left.weight[f]).toBe(1)
    const near = (take: Take): number => {
      const J = skeleton.names.length
      const { positions: P } = worldPose(skeleton, take.translations, take.rotations, f * J)
      const [a, b] = [3 * joints.leftHand!, 3 * joints.hips!]
      return Math.hypot(P[a] - P[b], P[a + 1] - P[b + 1], P[a + 2] - P[b + 2])
    }
    expect(near(told.take)).toBeLessThan(near(plain.take))
  })
})

describe('a take on its own skeleton', () => {
  it('is changed only where something was told of it', async () => {
    const { skeleton: performer, take } = recorded('walk')
    const own = (await transfer(performer, take, skeleton)).take
    const flags = findContacts(played(own)).left!
    let from = flags.findIndex((flag, f) => f > 20 && !flag)
    let to = from
    while (!flags[to + 1]) to++
    const { fps } = own
    from = Math.round((from + to) / 2) - 1
    to = from + 3
    const plain = await perform(skeleton, own, skeleton, { surface })
    const again = await perform(skeleton, own, skeleton, {
      surface,
      told: { contacts: [ground('left', from / fps, to / fps, true)] },
    })
    expect(again.asPerformed).toBe(true)
    expect(stirs(again.take, 'left', from, to).flat).toBeLessThan(0.002)
    for (let f = 0; f < own.frames; f++)
      if (f < from - 0.4 * fps || f > to + 0.4 * fps) expect(frameOf(again.take, f)).toEqual(frameOf(plain.take, f))
  })
})

describe('a stretch with settings of its own', () => {
  it('is corrected by them, the rest as before, and led in and out without a leap', async () => {
    const [plain, free] = [
      await carried('hands on hips'),
      await carried('hands on hips', { settings: { hands: 0, elbowRoom: null } }),
    ]
    const span = { from: 1.5, to: 2.5 }
    const mixed = await carried('hands on hips', { stretches: [{ ...span, correct: { hands: 0, elbowRoom: null } }] })
    const { fps, frames } = plain.take
    let inside = 0
    for (let f = 0; f < frames; f++) {
      const t = f / fps
      if (t >= span.from && t <= span.to) {
        // feet are held after arms were blended, on the same hips
        expect(frameOf(mixed.take, f)).toEqual(frameOf(free.take, f))
        inside++
      } else if (t < span.from - 0.4 || t > span.to + 0.4)
        expect(frameOf(mixed.take, f)).toEqual(frameOf(plain.take, f))
    }
    expect(inside).toBeGreaterThan(20)
    const J = skeleton.names.length
    const step = (take: Take, f: number): number => {
      let most = 0
      for (let i = 4 * J * f; i < 4 * J * (f + 1); i++)
        most = Math.max(most, Math.abs(take.rotations[i] - take.rotations[i - 4 * J]))
      return most
    }
    const between = (a: Take, b: Take, f: number): number => {
      let most = 0
      for (let i = 4 * J * f; i < 4 * J * (f + 1); i++) most = Math.max(most, Math.abs(a.rotations[i] - b.rotations[i]))
      return most
    }
    // no faster than both and the way from the one to the other in 0.3 seconds
    for (let f = 1; f < frames; f++)
      expect(step(mixed.take, f)).toBeLessThan(
        step(plain.take, f) + step(free.take, f) + (1.7 / (0.3 * fps + 1)) * between(plain.take, free.take, f) + 1e-3,
      )
  })
  it('lets feet slide there alone', async () => {
    const [plain, free] = [await carried('walk'), await carried('walk', { settings: { ground: false } })]
    const mixed = await carried('walk', { stretches: [{ from: 1, to: 2, correct: { ground: false } }] })
    const { fps } = plain.take
    expect(frameOf(mixed.take, Math.round(1.5 * fps))).toEqual(frameOf(free.take, Math.round(1.5 * fps)))
    expect(frameOf(mixed.take, Math.round(3 * fps))).toEqual(frameOf(plain.take, Math.round(3 * fps)))
    expect(frameOf(plain.take, Math.round(1.5 * fps))).not.toEqual(frameOf(free.take, Math.round(1.5 * fps)))
  })
})
