import { execFile } from 'node:child_process'
import { copyFileSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { beforeAll, describe, expect, it } from 'vitest'
import type { Manifest } from '@chiraxis/core/delivery'
import { readFile, writeBvh, writeGlb } from '@chiraxis/core/formats'
import { conjugate, quatAt } from '@chiraxis/core/math'
import { rebuildRig, sameJoints } from '@chiraxis/core/rig'
import { worldPose } from '@chiraxis/core/skeleton'
import { makeFigure, ODA } from '@chiraxis/demo/figures'
import { cleanDoll } from '../core/test/figure'
import { MOVES, record, SOUTH } from '@chiraxis/demo/takes'

const folder = mkdtempSync(join(tmpdir(), 'chiraxis-'))
const file = (name: string): string => join(folder, name)

interface Outcome {
  code: number
  stderr: string
  report: Record<string, never> & { ok?: boolean; error?: { code: string; message: string } }
}

async function chiraxis(...args: string[]): Promise<Outcome> {
  const report = file(`report-${Math.random()}.json`)
  const read = (): Outcome['report'] => {
    try {
      return JSON.parse(readFileSync(report, 'utf8')) as Outcome['report']
    } catch {
      return {} as Outcome['report']
    }
  }
  try {
    const { stderr } = await promisify(execFile)(process.execPath, [
      'scripts/chiraxis.mjs',
      ...args,
      '--report',
      report,
    ])
    return { code: 0, stderr, report: read() }
  } catch (error) {
    const e = error as { code: number; stderr: string }
    return {
      code: e.code,
      stderr: e.stderr
        .split('\n')
        .filter(l => !l.startsWith('npm warn'))
        .join('\n'),
      report: read(),
    }
  }
}

beforeAll(async () => {
  writeFileSync(file('oda.glb'), await writeGlb({ name: 'Oda', mesh: makeFigure(ODA, { vertices: 6000 }).mesh }))
  const walk = record(
    MOVES.find(m => m.name === 'walk')!,
    SOUTH,
  )
  writeFileSync(file('walk.bvh'), writeBvh(walk.skeleton, walk.take))
  writeFileSync(file('empty.glb'), '')
  writeFileSync(file('cut.glb'), readFileSync(file('oda.glb')).subarray(0, 5000))
  writeFileSync(file('nan.obj'), 'v 0 0 0\nv 1 nan 0\nv 0 1 0\nf 1 2 3\n')
  writeFileSync(
    file('cube.obj'),
    'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 0 0 1\nv 1 0 1\nv 1 1 1\nv 0 1 1\nf 4 3 2 1\nf 5 6 7 8\nf 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n',
  )
})

describe('chiraxis', () => {
  it('rigs a body, binds it again, and carries a motion onto it', async () => {
    const rigged = await chiraxis('rig', file('oda.glb'), '--out', file('rigged.glb'))
    expect(rigged.code).toBe(0)
    expect(rigged.report).toMatchObject({ ok: true, proof: { validatorErrors: 0 } })
    const report = rigged.report as unknown as {
      landmarks: { name: string }[]
      joints: { role: string }[]
      height: number
      timings: Record<string, number>
      peakMemoryMiB: number
    }
    expect(report.landmarks.filter(l => !/Thumb|Index|Ring|Little|(left|right)Middle/.test(l.name))).toHaveLength(24)
    expect(report.landmarks.map(l => l.name)).toContain('leftThumbTip')
    expect(report.joints.map(j => j.role)).toContain('leftLowerArm')
    expect(report.height).toBeCloseTo(1.72, 1)
    expect(Object.keys(report.timings)).toEqual(expect.arrayContaining(['read', 'straighten', 'landmarks', 'skin']))
    expect(report.peakMemoryMiB).toBeGreaterThan(10)

    const again = await chiraxis('rig', file('oda.glb'), '--out', file('rigged2.glb'))
    expect(again.code).toBe(0)
    expect(readFileSync(file('rigged2.glb')).equals(readFileSync(file('rigged.glb')))).toBe(true)

    expect(
      (
        await chiraxis(
          'bind',
          file('oda.glb'),
          '--skeleton',
          file('rigged.glb'),
          '--out',
          file('bound.glb'),
          '--influences',
          '8',
        )
      ).code,
    ).toBe(0)
    expect((await readFile(readFileSync(file('bound.glb')), 'bound.glb')).skin?.influences).toBe(8)

    const moved = await chiraxis(
      'transfer',
      '--take',
      file('walk.bvh'),
      '--onto',
      file('rigged.glb'),
      '--out',
      file('moved.glb'),
      '--ground',
    )
    expect(moved.code).toBe(0)
    expect(moved.report).toMatchObject({ roleMap: { leftLowerArm: 'elbow.L' }, proof: { validatorErrors: 0 } })
    expect(
      (moved.report as unknown as { measures: { footSkateMetresPerSecond: number } }).measures.footSkateMetresPerSecond,
    ).toBeLessThan(0.01)
    const seen = await readFile(readFileSync(file('moved.glb')), 'moved.glb')
    expect(seen.takes[0].frames).toBe(131)

    // the same settings as everywhere; nothing at all is corrected only where that is asked for
    const carry = (...more: string[]): ReturnType<typeof chiraxis> =>
      chiraxis('transfer', '--take', file('walk.bvh'), '--onto', file('rigged.glb'), ...more)
    const plain = await carry('--out', file('plain.glb'))
    const exact = await carry('--out', file('exact.glb'), '--exact')
    await carry('--out', file('loose.glb'), '--no-hold-feet', '--no-limits', '--hands', '0', '--elbow-room', 'off')
    type Measured = { measures: { armRoom?: number } }
    // an arm that hardly touches is let be
    expect((plain.report as unknown as Measured).measures.armRoom).toBeGreaterThan(-0.005)
    expect((exact.report as unknown as Measured).measures.armRoom).toBeUndefined()
    const turns = async (name: string): Promise<Float32Array> =>
      (await readFile(readFileSync(file(name)), name)).takes[0].rotations
    expect(await turns('plain.glb')).toEqual(await turns('moved.glb'))
    expect(await turns('loose.glb')).toEqual(await turns('exact.glb'))
    expect(await turns('plain.glb')).not.toEqual(await turns('exact.glb'))

    const tuned = await chiraxis(
      'transfer',
      '--take',
      file('walk.bvh'),
      '--onto',
      file('rigged.glb'),
      '--out',
      file('tuned.glb'),
      '--ground',
      '--elbow-room',
      '1',
      '--fps',
      '24',
      '--trim',
      '0.5,2.5',
      '--mirror',
    )
    expect(tuned.report).toMatchObject({ ok: true, takes: [{ frames: 49, fps: 24 }] })
    expect((tuned.report as unknown as { measures: { armRoom: number } }).measures.armRoom).toBeGreaterThan(0.006)

    // a batch carries over as a single command does
    writeFileSync(
      file('same.json'),
      JSON.stringify({ figures: [file('rigged.glb')], takes: [file('walk.bvh')], out: file('same'), content: 'whole' }),
    )
    expect((await chiraxis('batch', file('same.json'))).code).toBe(0)
    expect(await turns('same/rigged-walk.glb')).toEqual(await turns('plain.glb'))

    // takes by figures, one of them broken: the rest is done, and the same bytes come again
    writeFileSync(
      file('stump.bvh'),
      'HIERARCHY\nROOT a\n{\nOFFSET 0 0 0\nCHANNELS 3 Xrotation Yrotation Zrotation\nEnd Site\n{\nOFFSET 0 1 0\n}\n}\nMOTION\nFrames: 2\nFrame Time: 0.03\n0 0 0\n0 0 1\n',
    )
    const spec = (out: string): string =>
      JSON.stringify({
        figures: [file('rigged.glb')],
        takes: [file('walk.bvh'), file('stump.bvh')],
        out: file(out),
        name: '{figure}-{take}',
      })
    writeFileSync(file('spec.json'), spec('many'))
    const many = await chiraxis('batch', file('spec.json'))
    expect(many.code).toBe(1)
    expect(many.report).toMatchObject({ ok: true, total: { jobs: 2, done: 1, failed: 1 } })
    writeFileSync(file('spec.json'), spec('again'))
    await chiraxis('batch', file('spec.json'))
    expect(
      readFileSync(join(file('again'), 'rigged-walk.glb')).equals(readFileSync(join(file('many'), 'rigged-walk.glb'))),
    ).toBe(true)
    // written by a profile, with a manifest that stays whole where the batch is taken up again
    const figure = {
      figures: [file('rigged.glb')],
      out: file('by-profile'),
      profile: 'BVH: Y up, centimetres, 30 frames',
    }
    writeFileSync(file('profiled.json'), JSON.stringify({ ...figure, takes: [file('walk.bvh')] }))
    expect((await chiraxis('batch', file('profiled.json'))).code).toBe(0)
    copyFileSync(file('walk.bvh'), file('second.bvh'))
    const more = { ...figure, takes: [file('walk.bvh'), file('second.bvh')], resume: true }
    writeFileSync(file('profiled.json'), JSON.stringify(more))
    expect((await chiraxis('batch', file('profiled.json'))).code).toBe(0)
    const manifest = JSON.parse(readFileSync(join(file('by-profile'), 'manifest.json'), 'utf8')) as Manifest
    expect(manifest.files.map(f => f.name)).toEqual(['rigged-walk.bvh', 'rigged-second.bvh'])
    expect(manifest.takes.map(t => [t.name, t.fps])).toEqual([['walk', 30], ['second', 30]]) // prettier-ignore
    expect(manifest.figures).toHaveLength(1)
    expect(readFileSync(join(file('by-profile'), 'rigged-walk.bvh'), 'utf8')).toMatch(/^HIERARCHY/)

    writeFileSync(file('spec.json'), '{"jobs":[]}')
    expect(await chiraxis('batch', file('spec.json'))).toMatchObject({
      code: 1,
      report: { error: { code: 'bad-syntax' } },
    })

    const told = await chiraxis('inspect', file('walk.bvh'))
    expect(told.report).toMatchObject({ kind: 'motion', upAxis: '+z', unit: 'cm', restPose: 'arms down' })
  })
  it('mends a skeleton somebody else made, and tells what it mended', async () => {
    const doll = await cleanDoll()
    const world = worldPose(doll.skeleton)
    const faulty = rebuildRig(
      doll,
      sameJoints(doll.skeleton).map((j, i) => ({
        ...j,
        role: undefined,
        name: i % 2 ? `crew:${j.name}` : j.name,
        rotation: conjugate(quatAt(world.rotations, i)),
      })),
    )
    writeFileSync(
      file('faulty.glb'),
      await writeGlb({
        name: 'doll',
        mesh: doll.mesh,
        skeleton: faulty.skeleton,
        skin: faulty.skin,
        takes: faulty.takes,
      }),
    )
    const seen = await chiraxis('inspect', file('faulty.glb'))
    expect(
      (seen.report as unknown as { findings: { rule: string; mendable: boolean }[] }).findings
        .filter(f => f.mendable)
        .map(f => f.rule),
    ).toEqual(expect.arrayContaining(['prefix-missing', 'world-aligned-axes']))
    const r = await chiraxis('mend', file('faulty.glb'), '--out', file('mended.glb'))
    expect(r.code).toBe(0)
    expect((r.report as unknown as { mended: string[] }).mended).toEqual(
      expect.arrayContaining(['prefix-missing', 'world-aligned-axes']),
    )
    expect(r.report).toMatchObject({ proof: { validatorErrors: 0 } })
    const after = await chiraxis('inspect', file('mended.glb'))
    expect((after.report as unknown as { findings: { mendable: boolean }[] }).findings.filter(f => f.mendable)).toEqual(
      [],
    )
  })
  it('gives hands the fingers that are wished for', async () => {
    const r = await chiraxis('rig', file('oda.glb'), '--out', file('three.glb'), '--fingers', '3')
    const roles = (r.report as unknown as { joints: { role: string | null }[] }).joints.map(j => j.role)
    expect(roles.filter(x => /Proximal$/.test(x ?? ''))).toHaveLength(6)
    expect(roles).not.toContain('leftLittleProximal')
  })
  it('takes landmarks placed by hand', async () => {
    writeFileSync(file('hand.json'), JSON.stringify([{ name: 'leftElbow', position: [0.4, 1.3, 0.05] }]))
    const r = await chiraxis('rig', file('oda.glb'), '--out', file('hand.glb'), '--landmarks', file('hand.json'))
    expect(
      (r.report as unknown as { joints: { name: string; position: number[] }[] }).joints.find(
        j => j.name === 'leftLowerArm',
      )!.position[0],
    ).toBeCloseTo(0.4, 2)
  })
  it('refuses bad input with one clear line, status 1 and a code', async () => {
    const cases: [string[], string][] = [
      [['inspect', file('empty.glb')], 'empty-file'],
      [['inspect', file('cut.glb')], 'truncated-file'],
      [['rig', file('nan.obj'), '--out', file('x.glb')], 'not-finite'],
      [['rig', file('cube.obj'), '--out', file('x.glb')], 'not-a-biped'],
      [['rig', file('walk.bvh'), '--out', file('x.glb')], 'no-triangles'],
      [['inspect', file('nowhere.glb')], 'missing-file'],
      [['transfer', '--take', file('oda.glb'), '--onto', file('oda.glb'), '--out', file('x.glb')], 'no-take'],
    ]
    for (const [args, code] of cases) {
      const r = await chiraxis(...args)
      expect(r.code, args.join(' ')).toBe(1)
      expect(r.report.error?.code, args.join(' ')).toBe(code)
      expect(r.stderr.trim().split('\n')).toHaveLength(1)
    }
  })
  it('calls wrong usage wrong usage', async () => {
    for (const args of [
      ['rig', file('oda.glb')],
      ['dance'],
      ['rig', file('oda.glb'), '--out', 'x', '--influences', '99'],
      ['inspect'],
    ]) {
      expect((await chiraxis(...args)).code, args.join(' ')).toBe(2)
    }
  })
})
