import { beforeAll, describe, expect, it } from 'vitest'
import { angleOf, quatAt, vec3At } from '@chiraxis/core/math'
import { movingGround, type Take } from '@chiraxis/core/motion'
import { perform, TRANSFER_DEFAULTS } from '@chiraxis/core/perform'
import { bodyFrame, transfer } from '@chiraxis/core/retarget'
import { recogniseRoles, worldPose, type Skeleton } from '@chiraxis/core/skeleton'
import { deform, type Skin } from '@chiraxis/core/skin'
import { bodySurfaceOf, type BodySurface } from '@chiraxis/core/surface'
import type { Mesh } from '@chiraxis/core/mesh'
import { makeStranger, trueSkin, type BuildKind, type DressKind, type Nature } from '../src/strangers'
import { MOVES, NORTH, record, SOUTH } from '../src/takes'

interface Body {
  readonly mesh: Mesh
  readonly skeleton: Skeleton
  readonly skin: Skin
  readonly joints: Readonly<Record<string, number>>
  readonly surface: BodySurface
  readonly natures: readonly Nature[]
  readonly height: number
}

async function bodyOf(seed: number, build: BuildKind, dress: DressKind): Promise<Body> {
  const stranger = await makeStranger(seed, { build, dress, make: 'smooth pieces', stance: 'a-pose' })
  const { skeleton, skin, natures } = trueSkin(stranger)
  const { joints } = recogniseRoles(skeleton)
  const surface = await bodySurfaceOf(stranger.mesh, skeleton, skin, joints)
  return { mesh: stranger.mesh, skeleton, skin, natures, joints, surface, height: stranger.height }
}

const move = (name: string) => MOVES.find(m => m.name === name)!

/** Lowest place of what some joints move most, in a frame, measured by posing every vertex. */
function lowest(body: Body, take: Take, frame: number, which: (role: string) => boolean): number {
  const J = body.skeleton.names.length
  const posed = worldPose(body.skeleton, take.translations, take.rotations, frame * J)
  const places = deform(body.mesh.positions, body.skeleton, body.skin, posed)
  const { skeleton, skin } = body
  const role = skeleton.names.map((_, j) => {
    for (let p = j; p >= 0; p = skeleton.parents[p]) if (skeleton.roles[p]) return skeleton.roles[p]!
    return ''
  })
  let low = Infinity
  for (let v = 0; v < places.length / 3; v++)
    // cloth drapes over the ground
    if (body.natures[v] !== 'cloth' && which(role[skin.joints[skin.influences * v]]))
      low = Math.min(low, places[3 * v + 1])
  return low
}

let bodies: Record<'heavy' | 'child' | 'lanky', Body>
beforeAll(async () => {
  bodies = {
    heavy: await bodyOf(77_101, 'heavy', 'bare'),
    child: await bodyOf(77_102, 'child', 'skirt'),
    lanky: await bodyOf(77_103, 'lanky', 'cape'),
  }
})

describe('a take onto its own skeleton', () => {
  it('comes back as it was, all corrections on, whatever body is around it', async () => {
    for (const { skeleton, surface } of Object.values(bodies)) {
      const J = skeleton.names.length
      for (const [k, m] of MOVES.entries()) {
        const recorded = record(m, k % 2 ? NORTH : SOUTH)
        const own = (await transfer(recorded.skeleton, recorded.take, skeleton)).take
        const again = await perform(skeleton, own, skeleton, { surface })
        expect(again.asPerformed, m.name).toBe(true)
        let degrees = 0,
          metres = 0
        for (let f = 0; f < own.frames; f += 7) {
          const a = worldPose(skeleton, own.translations, own.rotations, f * J),
            b = worldPose(skeleton, again.take.translations, again.take.rotations, f * J)
          for (let j = 0; j < J; j++) {
            degrees = Math.max(degrees, (angleOf(quatAt(a.rotations, j), quatAt(b.rotations, j)) * 180) / Math.PI)
            metres = Math.max(metres, Math.hypot(...vec3At(a.positions, j).map((v, i) => v - b.positions[3 * j + i])))
          }
        }
        expect(degrees, m.name).toBeLessThan(0.1)
        expect(metres, m.name).toBeLessThan(0.001)
      }
    }
  })
  it('is corrected all the same where that is asked for', async () => {
    const { skeleton, surface } = bodies.heavy
    const recorded = record(move('sit on bench'), NORTH)
    const own = (await transfer(recorded.skeleton, recorded.take, skeleton)).take
    const strict = await perform(skeleton, own, skeleton, {
      surface,
      settings: { ...TRANSFER_DEFAULTS, asPerformed: false, elbowRoom: 0.04 },
    })
    expect(strict.asPerformed).toBe(false)
    expect([...strict.take.rotations]).not.toEqual([...own.rotations])
  })
})

describe('a recording of somebody else', () => {
  it('keeps hands where plain carrying puts them where no arm meets the body', async () => {
    const { skeleton, surface, joints, height } = bodies.child
    const J = skeleton.names.length
    for (const name of ['walk', 'hop ashore', 'carry box', 'turn left', 'arms overhead']) {
      const recorded = record(move(name), SOUTH)
      const done = await perform(recorded.skeleton, recorded.take, skeleton, { surface })
      let most = 0
      for (let f = 0; f < done.take.frames; f += 5) {
        const [a, b] = [done.carried, done.take].map(t => worldPose(skeleton, t.translations, t.rotations, f * J))
        for (const hand of [joints.leftHand, joints.rightHand]) {
          const from = (p: typeof a): number[] =>
            vec3At(p.positions, hand).map((v, k) => v - p.positions[3 * joints.hips + k])
          const [x, y] = [from(a), from(b)]
          most = Math.max(most, Math.hypot(...x.map((v, k) => v - y[k])))
        }
      }
      expect(most / height, name).toBeLessThan(0.01)
    }
  })
  it('is never hurried: no joint turns much faster than in plain carrying', async () => {
    for (const { skeleton, surface } of Object.values(bodies)) {
      const J = skeleton.names.length
      const fastest = (t: Take): number[] =>
        Array.from({ length: J }, (_, j) => {
          let most = 0
          for (let f = 1; f < t.frames; f++)
            most = Math.max(most, angleOf(quatAt(t.rotations, f * J + j), quatAt(t.rotations, (f - 1) * J + j)) * t.fps)
          return most
        })
      for (const name of ['walk', 'jig', 'wave', 'haul rope', 'fall back', 'stumble', 'crouched walk']) {
        const recorded = record(move(name), NORTH)
        const done = await perform(recorded.skeleton, recorded.take, skeleton, { surface })
        const before = fastest(done.carried)
        fastest(done.take).forEach((speed, j) =>
          expect(speed, `${name}, ${skeleton.names[j]}`).toBeLessThan(1.25 * Math.max(1.2, before[j])),
        )
      }
    }
  })
})

describe('the ground', () => {
  const LIES = /^(hips|spine|chest|upperChest|head|(left|right)UpperLeg)$/
  it('carries a body by the part that lies on it: no hovering, no sinking, told from every vertex', async () => {
    for (const [name, from] of [
      ['fall back', 2.2],
      ['sit on floor', 3],
    ] as const)
      for (const body of Object.values(bodies)) {
        const recorded = record(move(name), SOUTH)
        const done = await perform(recorded.skeleton, recorded.take, body.skeleton, { surface: body.surface })
        for (let f = Math.round(30 * from); f < done.take.frames; f += 20) {
          const gap = lowest(body, done.take, f, r => LIES.test(r)) / body.height
          expect(gap, `${name} ${f}`).toBeGreaterThan(-0.012)
          expect(gap, `${name} ${f}`).toBeLessThan(0.02)
        }
      }
  })
  it('is never gone under by soles, with toe joints or without', async () => {
    const { lanky } = bodies
    const toeless: Skeleton = {
      ...lanky.skeleton,
      names: lanky.skeleton.names.map(n => n.replace(/Toes/, 'Tip')),
      roles: lanky.skeleton.roles.map(r => (r?.endsWith('Toes') ? undefined : r)),
    }
    for (const skeleton of [lanky.skeleton, toeless]) {
      const { joints } = recogniseRoles(skeleton)
      const body = {
        ...lanky,
        skeleton,
        joints,
        surface: await bodySurfaceOf(lanky.mesh, skeleton, lanky.skin, joints),
      }
      for (const name of ['walk', 'run', 'stumble', 'jig']) {
        const recorded = record(move(name), SOUTH)
        const done = await perform(recorded.skeleton, recorded.take, skeleton, { surface: body.surface })
        for (let f = 0; f < done.take.frames; f += 6)
          expect(lowest(body, done.take, f, r => /Foot|Toes/.test(r)) / body.height, `${name} ${f}`).toBeGreaterThan(
            -0.0025,
          )
        expect(done.measures.clearance, name).toBeGreaterThan(-0.002)
      }
    }
  })
  it('is told to move under who walks on the spot, and under nobody else', () => {
    for (const m of MOVES)
      for (const habit of [NORTH, SOUTH]) {
        const { skeleton, take } = record(m, habit)
        const { joints } = recogniseRoles(skeleton)
        const moves = movingGround({ skeleton, joints, take, frame: bodyFrame(skeleton, joints) })
        if (m.name !== 'treadmill walk') expect(moves, m.name).toBeUndefined()
        else expect(Math.hypot(moves!.x, moves!.z) / habit.unit).toBeCloseTo(1.4, 1)
      }
  })
})

describe('hands', () => {
  it('are found to touch what they touch, and nothing else', async () => {
    const share = (w: Float32Array): number => w.filter(v => v > 0.5).length / w.length
    for (const [name, together, body] of [
      ['clap', 0.2, undefined],
      ['hands on hips', undefined, 0.9],
      ['jig', undefined, 0.9],
      ['arms overhead', 0, 0],
      ['carry box', 0, 0],
      ['walk', 0, 0],
      ['lookout idle', 0, 0],
      ['run', 0, 0],
    ] as const) {
      const recorded = record(move(name), NORTH)
      const { handContacts } = await perform(recorded.skeleton, recorded.take, bodies.child.skeleton, {
        surface: bodies.child.surface,
      })
      const found = {
        together: share(handContacts!.together),
        body: Math.min(share(handContacts!.body.left.weight), share(handContacts!.body.right.weight)),
      }
      for (const [told, is] of [
        [together, found.together],
        [body, found.body],
      ] as const) {
        if (told === 0) expect(is, name).toBe(0)
        else if (told !== undefined) expect(is, name).toBeGreaterThan(told)
      }
    }
  })
  it('rest on the hips of any body where the performer’s rest on the own', async () => {
    for (const { skeleton, surface, joints, height } of Object.values(bodies)) {
      const J = skeleton.names.length
      const recorded = record(move('hands on hips'), SOUTH)
      const done = await perform(recorded.skeleton, recorded.take, skeleton, { surface })
      const f = 60
      const posed = worldPose(skeleton, done.take.translations, done.take.rotations, f * J)
      surface.exact!.pose(posed)
      const out = { distance: 0, x: 0, y: 0, z: 0 }
      for (const side of ['left', 'right']) {
        surface.exact!.distanceTo(out, [joints.hips, joints.spine], ...vec3At(posed.positions, joints[`${side}Hand`]))
        // the palm is half a hand from the wrist
        expect(out.distance / height, side).toBeGreaterThan(-0.012)
        expect(out.distance / height, side).toBeLessThan(0.075)
      }
    }
  })
})
