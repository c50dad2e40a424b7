import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { findContacts, footSkate, resampleTake, sampleTake, takeSeconds, type Take } from '../src/motion'
import { holdFeet } from '../src/correct'
import { angleOf, conjugate, fromAxisAngle, multiply, quatAt, rotate, vec3At, type Quat, type Vec3 } from '../src/math'
import { worldPose, type Skeleton } from '../src/skeleton'
import { bodyFrame, transfer } from '../src/retarget'
import { solesOf } from '../src/surface'
import { EXACT_TRANSFER, perform } from '../src/perform'
import { biped, ROLES, wildAxes, wildTake } from './skeletons'

/** The same performance on a skeleton with other axes, another space and another unit. */
function rerecord(
  skeleton: Skeleton,
  take: Take,
  axes: (role: string) => Quat,
  space: Quat,
  unit: number,
): { skeleton: Skeleton; take: Take } {
  const place = (p: Vec3): Vec3 => rotate(space, p).map(v => v * unit) as Vec3
  const rest = worldPose(skeleton)
  const other = biped({ axes, place, roles: false, name: r => `x_${r}` })
  const n = ROLES.length
  const rotations = new Float32Array(4 * n * take.frames)
  const translations = new Float32Array(3 * n * take.frames)
  for (let f = 0; f < take.frames; f++) {
    const w = worldPose(skeleton, take.translations, take.rotations, f * n)
    const turned = ROLES.map((role, j) => {
      const delta = multiply(quatAt(w.rotations, j), conjugate(quatAt(rest.rotations, j)))
      return multiply(multiply(multiply(space, delta), conjugate(space)), axes(role))
    })
    for (let j = 0; j < n; j++) {
      const p = other.parents[j]
      rotations.set(p < 0 ? turned[j] : multiply(conjugate(turned[p]), turned[j]), 4 * (f * n + j))
      translations.set(
        p < 0 ? place(vec3At(w.positions, j)) : other.restTranslations.subarray(3 * j, 3 * j + 3),
        3 * (f * n + j),
      )
    }
  }
  return { skeleton: other, take: { ...take, rotations, translations } }
}

const worst = (skeleton: Skeleton, a: Take, b: Take): { degrees: number; metres: number } => {
  const n = skeleton.names.length
  let degrees = 0,
    metres = 0
  for (let f = 0; f < a.frames; f++) {
    const p = worldPose(skeleton, a.translations, a.rotations, f * n)
    const q = worldPose(skeleton, b.translations, b.rotations, f * n)
    for (let j = 0; j < n; j++) {
      degrees = Math.max(degrees, (angleOf(quatAt(p.rotations, j), quatAt(q.rotations, j)) * 180) / Math.PI)
      metres = Math.max(metres, Math.hypot(...vec3At(p.positions, j).map((v, k) => v - q.positions[3 * j + k])))
    }
  }
  return { degrees, metres }
}

describe('transfer', () => {
  it('onto the same skeleton is exact within 0.01 degree and 0.1 mm', async () => {
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 1, max: 1e6 }), async seed => {
        const s = biped({ axes: wildAxes(seed), roles: false })
        const take = wildTake(s, seed + 1)
        const w = worst(s, take, (await transfer(s, take, s)).take)
        expect(w.degrees).toBeLessThan(0.01)
        expect(w.metres).toBeLessThan(1e-4)
      }),
      { numRuns: 12 },
    )
  })
  it('does not depend on joint axes, up axis, facing or unit of the performer', async () => {
    const spaces: Quat[] = [
      [0, 0, 0, 1],
      fromAxisAngle([1, 0, 0], Math.PI / 2),
      fromAxisAngle([0, 1, 0], Math.PI / 2),
      fromAxisAngle([0, 1, 0], Math.PI),
    ]
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 1, max: 1e6 }),
        fc.constantFrom(...spaces),
        fc.constantFrom(1, 100, 0.01),
        async (seed, space, unit) => {
          const plain = biped()
          const take = wildTake(plain, seed)
          const figure = biped({ axes: wildAxes(seed + 2), place: ([x, y, z]) => [x * 1.1, y * 1.3, z] })
          const other = rerecord(plain, take, wildAxes(seed + 3), space, unit)
          const a = await transfer(plain, take, figure)
          const b = await transfer(other.skeleton, other.take, figure)
          expect(b.performer.by).toBe('names')
          const w = worst(figure, a.take, b.take)
          expect(w.degrees).toBeLessThan(0.05)
          expect(w.metres).toBeLessThan(1e-3)
        },
      ),
      { numRuns: 15 },
    )
  })
  it('scales travel by leg length and leaves joints without a player at rest', async () => {
    const s = biped()
    const take = wildTake(s, 4)
    const big = biped({ place: ([x, y, z]) => [2 * x, 2 * y, 2 * z] })
    const t = await transfer(s, take, big)
    expect(t.travel.scale).toBeCloseTo(2, 3)
    const f = take.frames - 1
    expect(t.take.translations[3 * f * 22 + 2]).toBeCloseTo(2 * take.translations[3 * f * 22 + 2], 3)
    const short = biped({ roles: false, name: r => (r.endsWith('Toes') ? `${r}Helper` : r) })
    const u = await transfer(short, wildTake(short, 4), s)
    const toes = ROLES.indexOf('leftToes')
    expect([...u.take.rotations.subarray(4 * toes, 4 * toes + 4)]).toEqual([
      ...s.restRotations.subarray(4 * toes, 4 * toes + 4),
    ])
  })
  it('says which joints are missing', async () => {
    const s = biped({ roles: false, name: () => 'bone' })
    const stump = {
      ...s,
      names: s.names.slice(0, 5),
      parents: s.parents.slice(0, 5),
      roles: s.roles.slice(0, 5),
      restTranslations: s.restTranslations.slice(0, 15),
      restRotations: s.restRotations.slice(0, 20),
    }
    await expect(transfer(stump, wildTake(stump, 1), biped())).rejects.toMatchObject({ code: 'no-roles' })
    await expect(
      transfer(biped(), wildTake(biped(), 1), biped(), { map: { performer: { hips: 'nobody' } } }),
    ).rejects.toThrow(/nobody/)
  })
})

describe('resting feet', () => {
  const s = biped()
  const roles = Object.fromEntries(ROLES.map((r, j) => [r, j]))
  const n = ROLES.length

  /** Standing still while the whole figure drifts: feet skate by construction. */
  const drift = (): Take => {
    const frames = 40
    const rotations = new Float32Array(4 * n * frames)
    const translations = new Float32Array(3 * n * frames)
    for (let f = 0; f < frames; f++) {
      rotations.set(s.restRotations, 4 * n * f)
      translations.set(s.restTranslations, 3 * n * f)
      translations[3 * n * f + 2] = 0.001 * f
      translations[3 * n * f + 1] -= 0.03
    }
    return { name: 'drift', fps: 30, frames, rotations, translations }
  }
  it('are found, and held without moving the hips', () => {
    const take = drift()
    const frame = bodyFrame(s, roles)
    const played = { skeleton: s, joints: roles, take, frame }
    const contacts = findContacts(played)
    expect(contacts.left.every(v => v === 1)).toBe(true)
    expect(footSkate(played, contacts)).toBeCloseTo(0.03, 3)
    const footed = { played, soles: solesOf(s, roles, frame), lift: 0 }
    // the performer stood still
    const still = { ...take, translations: take.translations.map((_, i) => take.translations[i % (3 * n)]) }
    const held = holdFeet(footed, { ...footed, played: { ...played, take: still } }, { travel: { scale: 1 }, contacts })
    expect(footSkate({ ...played, take: held }, contacts)).toBeLessThan(1e-3)
    expect([...held.translations]).toEqual([...take.translations])
  })
  it('are measured by perform', async () => {
    const p = await perform(s, drift(), s, { settings: EXACT_TRANSFER })
    expect(p.measures.footSkateMetresPerSecond).toBeCloseTo(0.03, 3)
    expect(p.measures.handError).toBeLessThan(1e-6)
  })
})

describe('takes', () => {
  it('are read between frames and held at both ends', () => {
    const s = biped()
    const take = wildTake(s, 2, 5)
    const out = { translations: new Float32Array(66), rotations: new Float32Array(88) }
    sampleTake(take, 2 / 30, out)
    expect([...out.rotations]).toEqual([...take.rotations.subarray(88 * 2, 88 * 3)])
    sampleTake(take, 99, out)
    expect([...out.translations]).toEqual([...take.translations.subarray(66 * 4)])
    sampleTake(take, 0.5 / 30, out)
    expect(angleOf(quatAt(out.rotations, 3), quatAt(take.rotations, 3))).toBeCloseTo(
      angleOf(quatAt(take.rotations, 25), quatAt(take.rotations, 3)) / 2,
      3,
    )
  })
  it('keep their length at another rate', () => {
    const take = wildTake(biped(), 2, 31)
    const slow = resampleTake(take, 24)
    expect(slow.frames).toBe(25)
    expect(takeSeconds(slow)).toBeCloseTo(takeSeconds(take), 5)
    expect(resampleTake(take, 30)).toBe(take)
  })
})
