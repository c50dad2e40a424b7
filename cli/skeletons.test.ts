import { execFile } from 'node:child_process'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { describe, expect, it } from 'vitest'
import { readFile, writeGlb } from '@chiraxis/core/formats'
import { distance, type Vec3 } from '@chiraxis/core/math'
import { makeFigure, PIM } from '@chiraxis/demo/figures'
import { STYLES } from '../core/test/rigs/styles'

const folder = mkdtempSync(join(tmpdir(), 'chiraxis-skeletons-'))
const file = (name: string): string => join(folder, name)

interface Report {
  ok: boolean
  error?: { message: string }
  joints: { name: string; parent: string | null; role: string | null; position: Vec3 }[]
  reading: { kind: string; confidence: number; doubtful: { about: string; why: string }[] }
  landmarks: { name: string; position: Vec3 }[]
  findings: { rule: string }[]
  proof: { validatorErrors: number }
}
async function chiraxis(...args: string[]): Promise<Report> {
  const report = file(`report-${Math.random()}.json`)
  await promisify(execFile)(process.execPath, ['scripts/chiraxis.mjs', ...args, '--report', report]).catch(() => {
    // what went wrong stands in the report
  })
  return JSON.parse(readFileSync(report, 'utf8')) as Report
}
async function skeletonFile(style: string, seed: number): Promise<string> {
  const { skeleton } = STYLES.find(s => s.name === style)!.make(seed)
  const path = file(`${style.replaceAll(/\W+/g, '-')}.glb`)
  writeFileSync(path, await writeGlb({ name: 'studio', skeleton }))
  return path
}

describe('skeletons on the command line', () => {
  it('a reading is told with its confidence and its doubts', async () => {
    const sure = await chiraxis('inspect', await skeletonFile('plain names', 5))
    expect(sure.reading).toMatchObject({ kind: 'biped', doubtful: [] })
    expect(sure.joints.filter(j => j.role).length).toBeGreaterThan(20)
    const odd = await chiraxis('inspect', await skeletonFile('sides named from the viewer', 5))
    expect(odd.reading.doubtful.map(d => d.about)).toEqual(['sides'])
    expect(odd.reading.confidence).toBeLessThan(sure.reading.confidence)
    expect((odd as unknown as { facing: string | null }).facing).toBeNull()
  })
  it('a given skeleton is laid on a body: the same joints, where the body has them, moving its skin', async () => {
    writeFileSync(file('pim.glb'), await writeGlb({ name: 'pim', mesh: makeFigure(PIM, { vertices: 5000 }).mesh }))
    const given = await skeletonFile('targets and poles beside the skeleton', 9)
    const was = await chiraxis('inspect', given)
    const out = file('rigged.glb')
    const rigged = await chiraxis('rig', file('pim.glb'), '--skeleton', given, '--out', out)
    expect(rigged.joints.map(j => [j.name, j.parent])).toEqual(was.joints.map(j => [j.name, j.parent]))
    expect(rigged.proof.validatorErrors).toBe(0)
    expect(rigged.findings.filter(f => f.rule === 'joint-outside')).toEqual([])
    const knee = rigged.landmarks.find(l => l.name === 'leftKnee')!.position
    const joint = rigged.joints.find(j => j.role === 'leftLowerLeg')!.position
    // a straight knee is bent by a hair
    expect(distance(joint, knee)).toBeLessThan(0.02)
    const { skin, skeleton } = await readFile(new Uint8Array(readFileSync(out)), 'a.glb')
    const held = new Set<string>()
    skin!.weights.forEach((w, i) => w > 0.01 && held.add(skeleton!.names[skin!.joints[i]]))
    expect([...held].filter(n => /^(root|ik_|pole_)/.test(n))).toEqual([])
    expect(held.has('forearm_l')).toBe(true)
  })
  it('a skeleton that cannot be laid on the body is refused in words, and nothing is written', async () => {
    const refused = await chiraxis('rig', file('pim.glb'), '--skeleton', await skeletonFile('an animal without names', 3), '--plan', 'biped', '--out', file('no.glb')) // prettier-ignore
    expect(refused.ok).toBe(false)
    expect(refused.error!.message).toMatch(/four legs/)
    const body = await chiraxis('rig', file('pim.glb'), '--skeleton', file('pim.glb'), '--out', file('no.glb'))
    expect(body.error!.message).toMatch(/holds no skeleton/)
    expect(() => readFileSync(file('no.glb'))).toThrow()
  })
})
