import { readFileSync, writeFileSync } from 'node:fs'
import { beforeAll, describe, expect, it } from 'vitest'
import { readFile, writeBvh, writeGlb, type Received } from '@chiraxis/core/formats'
import { vec3At } from '@chiraxis/core/math'
import { emptyRecipe, hashBytes, writeProject, type FileRef } from '@chiraxis/core/recipe'
import { worldPose } from '@chiraxis/core/skeleton'
import { gait, NORTH, record, SOUTH, WALK } from '@chiraxis/demo/takes'
import { cleanDoll } from '../core/test/figure'
import { commandLine } from './running'

const { file, chiraxis } = commandLine('ground')
interface Report {
  readonly ok: boolean
  readonly root: string | null
  readonly rootAdded: boolean
  readonly error?: { readonly code: string }
  readonly takes: readonly { readonly distance: number; readonly metresPerSecond: number; readonly inPlace: boolean }[]
}

beforeAll(async () => {
  const walk = gait('walk', WALK, 3 * WALK.cycle, 21)
  for (const [name, habit] of [
    ['north', NORTH],
    ['south', SOUTH],
  ] as const) {
    const { skeleton, take } = record(walk, habit)
    writeFileSync(file(`${name}.bvh`), writeBvh(skeleton, take))
  }
  writeFileSync(file('doll.glb'), await writeGlb({ name: 'doll', ...(await cleanDoll()) }))
})

/** Farthest any joint of one file is from that of its name in the other, in any frame of the first take. */
function apart(a: Received, b: Received): number {
  let most = 0
  const [m, n] = [a.skeleton!.names.length, b.skeleton!.names.length]
  for (let f = 0; f < a.takes[0].frames; f++) {
    const p = worldPose(a.skeleton!, a.takes[0].translations, a.takes[0].rotations, f * m)
    const q = worldPose(b.skeleton!, b.takes[0].translations, b.takes[0].rotations, f * n)
    a.skeleton!.names.forEach((name, j) => {
      const [u, v] = [vec3At(p.positions, j), vec3At(q.positions, b.skeleton!.names.indexOf(name))]
      most = Math.max(most, Math.hypot(u[0] - v[0], u[1] - v[1], u[2] - v[2]))
    })
  }
  return most
}
const read = (name: string): Promise<Received> => readFile(readFileSync(file(name)), name)

describe('ground', () => {
  it('adds a root and puts travel on it, every joint where it was, in GLB and BVH', async () => {
    for (const out of ['n.glb', 'n.bvh']) {
      const { code, report } = await chiraxis<Report>(
        ...['ground', file('north.bvh'), '--carry', 'across,ahead,turn', '--out', file(out)],
      )
      expect(code).toBe(0)
      expect(report).toMatchObject({ ok: true, root: 'root', rootAdded: true })
      expect(report.takes[0].metresPerSecond).toBeCloseTo(WALK.speed, 1)
      const [before, after] = [await read('north.bvh'), await read(out)]
      expect(apart(before, after)).toBeLessThan(1e-5 * 4)
      const root = after.skeleton!.names.indexOf('root')
      const n = after.skeleton!.names.length
      const last = vec3At(after.takes[0].translations, (after.takes[0].frames - 1) * n + root)
      expect(last[2]).toBeCloseTo(WALK.speed * 3 * WALK.cycle, 1)
    }
  })
  it('takes travel away, and finds it again from the feet', async () => {
    const spot = await chiraxis<Report>('ground', file('south.bvh'), '--on-the-spot', '--out', file('spot.bvh'))
    expect(spot.report.takes[0].distance).toBeGreaterThan(4)
    const back = await chiraxis<Report>(
      ...['ground', file('spot.bvh'), '--travel-from-feet', '--carry', 'ahead', '--out', file('back.glb')],
    )
    expect(back.code).toBe(0)
    expect(back.report.takes[0].distance / spot.report.takes[0].distance).toBeGreaterThan(0.97)
    expect(back.report.takes[0].distance / spot.report.takes[0].distance).toBeLessThan(1.03)
  })
  it('leaves a figure as it came but for what was asked', async () => {
    const { code } = await chiraxis<Report>(
      ...['ground', file('doll.glb'), '--carry', 'ahead', '--root', 'ground', '--out', file('rooted.glb')],
    )
    expect(code).toBe(0)
    const [before, after] = [await read('doll.glb'), await read('rooted.glb')]
    expect(after.skeleton!.names).toContain('ground')
    expect([...after.mesh!.positions]).toEqual([...before.mesh!.positions])
    expect(after.skin!.weights).toEqual(before.skin!.weights)
    expect(apart(before, after)).toBeLessThan(1e-5)
  })
  it('settles it for a whole project, which is delivered with all its takes', async () => {
    const files = new Map<string, Uint8Array>()
    const put = (name: string): FileRef => {
      const bytes = new Uint8Array(readFileSync(file(name)))
      const hash = hashBytes(bytes)
      files.set(hash, bytes)
      return { name, hash, size: bytes.length }
    }
    const recipe = {
      ...emptyRecipe('Doll'),
      body: put('doll.glb'),
      takes: [{ id: 'w', name: 'walk', performer: 'North', file: put('north.bvh'), index: 0 }],
    }
    writeFileSync(file('doll.chiraxis'), await writeProject(recipe, async f => files.get(f.hash)!))
    const { code, report, stderr } = await chiraxis<Report>(
      ...['ground', file('doll.chiraxis'), '--carry', 'ahead,turn', '--cues', 'footstep', '--out', file('all.glb')],
    )
    expect(code, stderr).toBe(0)
    expect(report).toMatchObject({ root: 'root', rootAdded: true })
    const read_ = await read('all.glb')
    const root = read_.skeleton!.names.indexOf('root')
    const walk = read_.takes.find(t => t.name === 'walk')!
    const last = vec3At(walk.translations, (walk.frames - 1) * read_.skeleton!.names.length + root)
    expect(last[2]).toBeGreaterThan(2)
    expect(walk.events!.every(e => e.name === 'footstep')).toBe(true)
    expect(walk.events!.length).toBeGreaterThan(3)
  })
  it('stands a take on a floor that rises', async () => {
    const { code, report, stderr } = await chiraxis<Report>(
      ...['ground', file('south.bvh'), '--floor', '10,0,0', '--out', file('up.glb')],
    )
    expect(code, stderr).toBe(0)
    const [before, after] = [await read('south.bvh'), await read('up.glb')]
    const hips = (r: Received, f: number): number => {
      const n = r.skeleton!.names.length
      const p = worldPose(r.skeleton!, r.takes[0].translations, r.takes[0].rotations, f * n)
      // the recording has Z up, in centimetres
      return p.positions[3 * 0 + 2]
    }
    const last = before.takes[0].frames - 1
    const climbed = (hips(after, last) - hips(before, last) - hips(after, 0) + hips(before, 0)) / 100
    expect(climbed).toBeGreaterThan(0.9 * report.takes[0].distance * Math.tan(Math.PI / 18))
    const steep = await chiraxis('ground', file('south.bvh'), '--floor', '80', '--out', file('no.glb'))
    expect(steep.stderr).toMatch(/up to 40 degrees/)
  })
  it('refuses in words what it cannot do', async () => {
    const asked = (...args: string[]) => chiraxis<Report>('ground', file('north.bvh'), '--out', file('no.glb'), ...args)
    const strange = await asked('--carry', 'up')
    expect(strange.code).toBe(1)
    expect(strange.stderr).toMatch(/across, ahead, height, turn, not up/)
    const two = await asked('--straight', '--bend', '20')
    expect(two.stderr).toMatch(/one way/)
    const head = (await read('north.bvh')).skeleton!.names.find(n => /head/i.test(n))!
    const wrong = await asked('--root', head, '--carry', 'ahead')
    expect(wrong.stderr).toMatch(/does not carry the hips/)
    writeFileSync(file('points.obj'), 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n')
    const still = await chiraxis<Report>('ground', file('points.obj'), '--out', file('no.glb'))
    expect(still.report.error?.code).toBe('no-take')
  })
})
