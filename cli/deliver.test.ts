import { readFileSync, writeFileSync } from 'node:fs'
import { unzipSync } from 'fflate'
import { beforeAll, describe, expect, it } from 'vitest'
import { SHIPPED_PROFILES, writeProfile } from '@chiraxis/core/delivery'
import { readFile, writeBvh, writeGlb } from '@chiraxis/core/formats'
import { emptyRecipe, hashBytes, writeProject, type FileRef } from '@chiraxis/core/recipe'
import { gait, NORTH, record, WALK } from '@chiraxis/demo/takes'
import { cleanDoll } from '../core/test/figure'
import { wildTake } from '../core/test/skeletons'
import { commandLine } from './running'

const { file, chiraxis } = commandLine('deliver')
interface Report {
  readonly ok: boolean
  readonly error?: { readonly code: string; readonly message: string }
  readonly proof?: { readonly validatorErrors?: number; readonly maxPositionError: number }
  readonly files?: readonly { readonly name: string }[]
  readonly takes?: readonly string[]
  readonly beside?: readonly string[]
}

beforeAll(async () => {
  const doll = await cleanDoll()
  const takes = [doll.takes[0], { ...wildTake(doll.skeleton, 8, 20), name: 'second' }]
  const glb = await writeGlb({ name: 'doll', ...doll, takes })
  writeFileSync(file('doll.glb'), glb)
  const { skeleton, take } = record(gait('walk', WALK, 2, 3), NORTH)
  const bvh = writeBvh(skeleton, take)
  writeFileSync(file('walk.bvh'), bvh)
  const files = new Map<string, Uint8Array>()
  const put = (name: string, bytes: Uint8Array): FileRef => {
    const hash = hashBytes(bytes)
    files.set(hash, bytes)
    return { name, hash, size: bytes.length }
  }
  const recipe = {
    ...emptyRecipe('Doll'),
    body: put('doll.glb', glb),
    takes: [{ id: 'w', name: 'walk', performer: 'North', file: put('walk.bvh', bvh), index: 0 }],
  }
  writeFileSync(file('doll.chiraxis'), await writeProject(recipe, async f => files.get(f.hash)!))
})

describe('deliver', () => {
  it('writes a figure in every format by its ending, proven', async () => {
    for (const ending of ['glb', 'gltf', 'vrm', 'usda', 'obj']) {
      const { code, report, stderr } = await chiraxis<Report>(
        'deliver',
        file('doll.glb'),
        '--out',
        file(`out.${ending}`),
      )
      expect(code, `${ending} ${stderr}`).toBe(0)
      expect(report.proof!.maxPositionError).toBeLessThan(1e-4)
    }
    const read = await readFile(readFileSync(file('out.gltf')), 'out.gltf', {
      beside: new Map([['out.bin', readFileSync(file('out.bin'))]]),
    })
    expect(read.takes).toHaveLength(2)
  })
  it('writes a surface in a moment of a take, and refuses one that is no moment', async () => {
    const name = (await readFile(readFileSync(file('doll.glb')), 'doll.glb')).takes[0]!.name
    const at = (seconds: string) =>
      chiraxis<Report>('deliver', file('doll.glb'), '--take', name, '--at', seconds, '--out', file(`at-${seconds}.obj`))
    expect((await at('0')).code).toBe(0)
    expect((await at('0.3')).code).toBe(0)
    expect(readFileSync(file('at-0.obj'))).not.toEqual(readFileSync(file('at-0.3.obj')))
    expect((await at('soon')).stderr).toMatch(/seconds into a take/)
  })
  it('writes a small GLB by a shipped profile, compressed', async () => {
    const profile = 'GLB, small: whole numbers, compressed, images of 1024'
    const { code, report } = await chiraxis<Report>('deliver', file('doll.glb'), '--profile', profile, '--out', file('small.glb')) // prettier-ignore
    expect(code).toBe(0)
    expect((report.proof as unknown as { packed: { share: number } }).packed.share).toBeLessThan(0.8)
    expect(readFileSync(file('small.glb')).length).toBeLessThan(0.7 * readFileSync(file('out.glb')).length)
  })
  it('writes one take of several where a format holds one, and many into an archive with a manifest', async () => {
    const many = await chiraxis<Report>('deliver', file('doll.glb'), '--out', file('many.bvh'))
    expect(many.code).toBe(1)
    expect(many.stderr).toMatch(/archive \(\.zip\)/)
    const one = await chiraxis<Report>('deliver', file('doll.glb'), '--take', 'second', '--out', file('one.bvh'))
    expect(one.report.takes).toEqual(['second'])
    const profile = SHIPPED_PROFILES.find(p => p.format === 'bvh')!
    writeFileSync(file('own.json'), writeProfile({ ...profile, name: 'own', fps: 24 }))
    const zip = await chiraxis<Report>(
      ...['deliver', file('doll.chiraxis'), '--profile', file('own.json'), '--out', file('all.zip')],
    )
    expect(zip.code, zip.stderr).toBe(0)
    const entries = unzipSync(new Uint8Array(readFileSync(file('all.zip'))))
    expect(Object.keys(entries).sort()).toEqual(['manifest.json', 'second.bvh', 'walk.bvh', 'wild.bvh'].sort())
    const manifest = JSON.parse(new TextDecoder().decode(entries['manifest.json'])) as {
      takes: { name: string; fps: number; cues: unknown[] }[]
    }
    expect(manifest.takes.map(t => t.fps)).toEqual([24, 24, 24])
    expect(manifest.takes.find(t => t.name === 'walk')!.cues.length).toBeGreaterThan(2)
  })
  it('refuses in words what there is not', async () => {
    const asked = (...args: string[]) => chiraxis<Report>('deliver', file('doll.glb'), ...args)
    expect((await asked('--out', file('x.doc'))).stderr).toMatch(/\.doc cannot be written/)
    expect((await asked('--profile', 'Nobody', '--out', file('x.glb'))).stderr).toMatch(/There is no profile Nobody/)
    expect((await asked('--take', 'nothing', '--out', file('x.glb'))).stderr).toMatch(/no take nothing/)
    expect((await chiraxis('deliver', file('walk.bvh'), '--out', file('x.obj'))).stderr).toMatch(/surface/)
  })
})
