import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  angleOf,
  fromAxisAngle,
  multiply,
  normalize,
  quatAt,
  rotate,
  setQuat,
  setVec3,
  vec3At,
  type Quat,
} from '../src/math'
import { evened, ROOT_CHANNELS, rootPath, type Played, type Take } from '../src/motion'
import { bodyFrame } from '../src/retarget'
import { ROOT_PLACES, rootJoint, rootTake, wayGone, type RootPlace, type RootSettings } from '../src/root-motion'
import { addRoot } from '../src/rig'
import { recogniseRoles, worldPose } from '../src/skeleton'
import { STYLES } from './rigs/styles'
import { biped, wildAxes, wildTake } from './skeletons'

const SPACES: Readonly<Record<string, Quat>> = {
  'Y up': [0, 0, 0, 1],
  'Z up': [Math.SQRT1_2, 0, 0, Math.SQRT1_2],
  'facing sideways': [0, Math.SQRT1_2, 0, Math.SQRT1_2],
}

interface Case {
  readonly seed: number
  readonly space: Quat
  readonly root: 'none' | 'still' | 'moving'
  readonly frames?: number
}

/** A body that walks a wide arc, turns and sways, on a skeleton with axes of no convention. */
function wandering({ seed, space, root, frames = 40 }: Case): Played {
  let skeleton = biped({ axes: wildAxes(seed), place: p => rotate(space, [p[0], p[1], p[2]]), name: r => `j_${r}` })
  let take: Take = wildTake(skeleton, seed, frames)
  const translations = take.translations.slice()
  const rotations = take.rotations.slice()
  const J = skeleton.names.length
  for (let f = 0; f < frames; f++) {
    const t = f / frames
    const yaw = 3 * t + 0.2 * Math.sin(9 * t)
    const turn = multiply(multiply(space, fromAxisAngle([0, 1, 0], yaw)), [-space[0], -space[1], -space[2], space[3]])
    setQuat(rotations, f * J, multiply(turn, quatAt(take.rotations, f * J)))
    setVec3(translations, f * J, rotate(space, [2 * Math.sin(2 * t), 1 + 0.1 * Math.sin(20 * t), 3 * t]))
  }
  take = { ...take, rotations, translations }
  if (root !== 'none') {
    const rooted = addRoot({ skeleton, takes: [take] }, 'ground', rotate(space, [0.1, 0, -0.2]))
    skeleton = rooted.skeleton
    ;[take] = rooted.takes
  }
  const { joints } = recogniseRoles(skeleton)
  const played: Played = { skeleton, joints, take, frame: bodyFrame(skeleton, joints) }
  if (root !== 'moving') return played
  // an author's root that carries some of it, and leans
  const at = skeleton.names.indexOf('ground')
  const n = skeleton.names.length
  const moved = { ...take, rotations: take.rotations.slice(), translations: take.translations.slice() }
  for (let f = 0; f < frames; f++) {
    const lean = fromAxisAngle(rotate(space, normalize([0.1, 0.9, 0.2])), 0.4 * Math.sin(f / 6))
    setQuat(moved.rotations, f * n + at, multiply(lean, quatAt(take.rotations, f * n + at)))
    setVec3(moved.translations, f * n + at, rotate(space, [0.03 * f, 0.01 * f, 0.05 * f]))
  }
  return { ...played, take: moved }
}

/** Farthest any joint but some is from where it was, metres, and most it is turned, degrees. */
function apart(a: Played, b: Played, but: readonly number[] = []): { metres: number; degrees: number } {
  const J = a.skeleton.names.length
  let metres = 0,
    degrees = 0
  for (let f = 0; f < a.take.frames; f++) {
    const [p, q] = [a, b].map(x => worldPose(x.skeleton, x.take.translations, x.take.rotations, f * J))
    for (let j = 0; j < J; j++) {
      if (but.includes(j)) continue
      const [u, v] = [vec3At(p.positions, j), vec3At(q.positions, j)]
      metres = Math.max(metres, Math.hypot(u[0] - v[0], u[1] - v[1], u[2] - v[2]))
      degrees = Math.max(degrees, (angleOf(quatAt(p.rotations, j), quatAt(q.rotations, j)) * 180) / Math.PI)
    }
  }
  return { metres, degrees }
}

const NO_FEET = { soles: {}, contacts: {} }
const anyCase = fc.record({
  seed: fc.integer({ min: 1, max: 5000 }),
  space: fc.constantFrom(...Object.values(SPACES)),
  root: fc.constantFrom('still' as const, 'moving' as const),
})
const anyPlace = fc.option(fc.constantFrom<RootPlace>('root', 'hips'), { nil: undefined })
const kept = fc.record({ across: anyPlace, ahead: anyPlace, height: anyPlace, turn: anyPlace })

describe('travel on root and hips', () => {
  it('leaves every other joint where it is, however it is split, at 0.01 mm', () => {
    fc.assert(
      fc.property(anyCase, kept, fc.constantFrom(0, 0.3, 0.6), (at, places, smooth) => {
        const own = wandering(at)
        const { take, noRoot } = rootTake(own, { ...places, smooth }, NO_FEET)
        expect(noRoot).toBe(false)
        const off = apart(own, { ...own, take }, [own.skeleton.names.indexOf('ground')])
        expect(off.metres).toBeLessThan(1e-5)
        expect(off.degrees).toBeLessThan(0.01)
      }),
      { numRuns: 40 },
    )
  })
  it('puts all of the hips on the root where nothing is evened out', () => {
    fc.assert(
      fc.property(anyCase, at => {
        const own = wandering(at)
        const all = { across: 'root', ahead: 'root', height: 'root', turn: 'root', smooth: 0 } as const
        const { take } = rootTake(own, all, NO_FEET)
        // seen from the root the hips stay over where they stand at rest, and turn about no vertical
        const root = rootJoint(own.skeleton, own.joints)!
        const J = own.skeleton.names.length
        const still = { ...take, rotations: take.rotations.slice(), translations: take.translations.slice() }
        for (let f = 0; f < take.frames; f++) {
          setQuat(still.rotations, f * J + root, quatAt(own.skeleton.restRotations, root))
          setVec3(still.translations, f * J + root, vec3At(own.skeleton.restTranslations, root))
        }
        const path = rootPath({ ...own, take: still })
        for (const c of ROOT_CHANNELS) for (const v of path[c]) expect(Math.abs(v)).toBeLessThan(2e-5)
      }),
      { numRuns: 20 },
    )
  })
  it('comes back to the bit of a micrometre when it is put on the root and on the hips again', () => {
    const own = wandering({ seed: 7, space: SPACES['Z up'], root: 'still' })
    const on = rootTake(own, { across: 'root', ahead: 'root', turn: 'root' }, NO_FEET).take
    const back = rootTake(
      { ...own, take: on },
      { across: 'hips', ahead: 'hips', height: 'hips', turn: 'hips' },
      NO_FEET,
    ).take
    expect(Math.max(...own.take.translations.map((v, i) => Math.abs(v - back.translations[i])))).toBeLessThan(5e-6)
  })
  it('leaves what is not told as an author had it', () => {
    const own = wandering({ seed: 3, space: SPACES['Y up'], root: 'moving' })
    const root = own.skeleton.names.indexOf('ground')
    const J = own.skeleton.names.length
    const { take } = rootTake(own, { ahead: 'hips' }, NO_FEET)
    const rest = vec3At(own.skeleton.restTranslations, root)
    for (let f = 0; f < take.frames; f++) {
      const at = vec3At(take.translations, f * J + root)
      expect(at[1]).toBeCloseTo(0.01 * f, 4)
      // across keeps what it had but for the lean, ahead stays at rest but for the turn about the hips
      expect(Math.abs(at[2] - rest[2])).toBeLessThan(0.1)
    }
  })
  it('is not asked for: the very same take', () => {
    const own = wandering({ seed: 5, space: SPACES['Y up'], root: 'still' })
    expect(rootTake(own, {}, NO_FEET).take).toBe(own.take)
  })
  it('says so where there is no root to put it on, and leaves the take', () => {
    const own = wandering({ seed: 5, space: SPACES['Y up'], root: 'none' })
    const { take, noRoot } = rootTake(own, { ahead: 'root' }, NO_FEET)
    expect(noRoot).toBe(true)
    expect(take).toBe(own.take)
  })
})

describe('travel that is dropped', () => {
  const roots = fc.constantFrom('none' as const, 'still' as const, 'moving' as const)
  it('is gone, and what is not dropped stays', () => {
    fc.assert(
      fc.property(
        fc.record({
          seed: fc.integer({ min: 1, max: 5000 }),
          space: fc.constantFrom(...Object.values(SPACES)),
          root: roots,
        }),
        fc.subarray([...ROOT_CHANNELS], { minLength: 1 }),
        (at, gone) => {
          const own = wandering(at)
          const settings = { smooth: 0, ...Object.fromEntries(gone.map(c => [c, 'dropped'])) } as RootSettings
          const { take } = rootTake(own, settings, NO_FEET)
          const before = rootPath(own),
            after = rootPath({ ...own, take })
          for (const c of ROOT_CHANNELS)
            for (let f = 0; f < take.frames; f++)
              expect(Math.abs(after[c][f] - (gone.includes(c) ? before[c][0] : before[c][f]))).toBeLessThan(2e-5)
        },
      ),
      { numRuns: 30 },
    )
  })
  it('leaves the sway of steps', () => {
    const own = wandering({ seed: 2, space: SPACES['Y up'], root: 'none', frames: 90 })
    const { take } = rootTake(own, { height: 'dropped', smooth: 1 }, NO_FEET)
    const after = rootPath({ ...own, take }).height
    expect(Math.max(...after) - Math.min(...after)).toBeGreaterThan(0.1)
  })
})

describe('another way', () => {
  const own = wandering({ seed: 11, space: SPACES['Y up'], root: 'still', frames: 120 })
  const pathOf = (settings: RootSettings) => rootTake(own, settings, NO_FEET).path
  const length = wayGone(rootPath(own, 0.6)).gone[119]

  it('straight goes as far in one line, facing along it as it faced along the old one', () => {
    const path = pathOf({ way: { kind: 'straight' } })
    const { gone, heading } = wayGone(path)
    expect(gone[119]).toBeCloseTo(length, 0)
    const [x, z] = [path.across[119] - path.across[0], path.ahead[119] - path.ahead[0]]
    expect(Math.hypot(x, z) / gone[119]).toBeGreaterThan(0.985)
    expect(Math.max(...heading) - Math.min(...heading)).toBeLessThan(0.4)
  })
  it('bent by nothing is the same', () => {
    const { take } = rootTake(own, { way: { kind: 'bent', degrees: 0 } }, NO_FEET)
    expect(apart(own, { ...own, take }).metres).toBeLessThan(1e-5)
  })
  it('bent turns by as much as told, to its left', () => {
    const before = wayGone(pathOf({ fromFeet: false })).heading
    const after = wayGone(pathOf({ way: { kind: 'bent', degrees: 60 } })).heading
    const change = ((after[118] - before[118] - (after[1] - before[1])) * 180) / Math.PI
    expect(change).toBeGreaterThan(50)
    expect(change).toBeLessThan(70)
  })
  it('goes through points', () => {
    const points: [number, number][] = [
      [0.5, 1.5],
      [-0.5, 3],
    ]
    const path = pathOf({ way: { kind: 'points', points } })
    for (const [x, z] of points) {
      const near = Math.min(
        ...Array.from({ length: 120 }, (_, f) =>
          Math.hypot(path.across[f] - path.across[0] - x, path.ahead[f] - path.ahead[0] - z),
        ),
      )
      expect(near).toBeLessThan(0.08)
    }
  })
  it('closes: place and turn end as they began', () => {
    const path = pathOf({ close: ['across', 'ahead', 'height', 'turn'], smooth: 0 })
    for (const c of ['across', 'ahead', 'height'] as const) expect(path[c][119]).toBeCloseTo(path[c][0], 4)
    const turned = (path.turn[119] - path.turn[0]) / (2 * Math.PI)
    expect(turned - Math.round(turned)).toBeCloseTo(0, 4)
  })
  it('starts where the body stands at rest, facing as it does there', () => {
    for (const space of Object.values(SPACES)) {
      const body = wandering({ seed: 4, space, root: 'moving' })
      const { path } = rootTake(body, { start: ['place', 'facing'], smooth: 0 }, NO_FEET)
      for (const c of ['across', 'ahead', 'turn'] as const) expect(path[c][0]).toBeCloseTo(0, 4)
    }
  })
})

describe('evening out', () => {
  it('keeps straight lines and both ends', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 60 }), fc.integer({ min: 1, max: 20 }), (n, half) => {
        const line = Float64Array.from({ length: n }, (_, i) => 3 - 0.5 * i)
        evened(line, half).forEach((v, i) => expect(v).toBeCloseTo(line[i], 9))
      }),
    )
  })
})

it('offers no place twice', () => {
  expect(new Set(ROOT_PLACES).size).toBe(ROOT_PLACES.length)
})

describe('skeletons somebody else made', () => {
  it('keep every joint where it is, whatever is above their hips', () => {
    let rooted = 0
    for (const { name: style, make } of STYLES)
      for (const seed of [3, 4]) {
        const { skeleton: made, kind } = make(seed)
        if (kind === 'other') continue
        const { joints, missing } = recogniseRoles(made)
        if (missing.length > 0 || joints.hips === undefined) continue
        const own: Played = { skeleton: made, joints, take: wildTake(made, seed, 8), frame: bodyFrame(made, joints) }
        const root = rootJoint(made, joints)
        const { take, noRoot } = rootTake(own, { across: 'root', ahead: 'root', turn: 'root', height: 'hips' }, NO_FEET)
        expect(noRoot).toBe(root === undefined)
        if (root === undefined) continue
        rooted++
        const off = apart(own, { ...own, take }, [root])
        expect(off.metres, style).toBeLessThan(1e-5 * 10 ** Math.max(0, Math.ceil(Math.log10(sizeOf(own)))))
        expect(off.degrees, style).toBeLessThan(0.02)
      }
    expect(rooted).toBeGreaterThan(5)
  })
})

/** How far joints lie apart at rest. */
function sizeOf({ skeleton }: Played): number {
  const p = worldPose(skeleton).positions
  let most = 0
  p.forEach(v => (most = Math.max(most, Math.abs(v))))
  return most
}
