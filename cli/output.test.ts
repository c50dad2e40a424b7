import { execFile, execFileSync, spawn } from 'node:child_process'
import { chmodSync, copyFileSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs' // prettier-ignore
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { writeGlb } from '@chiraxis/core/formats'
import { cleanDoll } from '../core/test/figure'

const folder = mkdtempSync(join(tmpdir(), 'chiraxis-out-'))
const file = (name: string): string => join(folder, name)
const EARLIER = 'an earlier result'

/** Where the program may put what it needs for a while. */
const scratch = file('scratch')
async function run(...args: string[]): Promise<{ code: number; words: string }> {
  try {
    const { stderr } = await promisify(execFile)(process.execPath, ['scripts/chiraxis.mjs', ...args], {
      env: { ...process.env, TMPDIR: scratch },
    })
    return { code: 0, words: stderr }
  } catch (error) {
    const { code, stderr } = error as { code: number; stderr: string }
    return { code, words: stderr }
  }
}
/** One sentence, with the path, and nothing of ours left lying about. */
function expectRefused({ code, words }: { code: number; words: string }, path: string, why: RegExp): void {
  expect(code).toBe(1)
  const lines = words.split('\n').filter(l => l && !l.startsWith('npm warn'))
  expect(lines).toHaveLength(1)
  expect(lines[0]).toContain(path)
  expect(lines[0]).toMatch(why)
  expect(words).not.toMatch(/Error:|at .*\.ts|ENOSPC|EACCES|EISDIR/)
}
const leftOvers = (where: string): string[] => readdirSync(where).filter(n => n.endsWith('.part'))

beforeAll(async () => {
  mkdirSync(scratch)
  const { mesh, skeleton, skin, takes } = await cleanDoll()
  writeFileSync(file('doll.glb'), await writeGlb({ name: 'doll', mesh, skeleton, skin, takes }))
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))

describe('what the command line writes', () => {
  it('is there whole, and where a link leads', async () => {
    writeFileSync(file('real.glb'), EARLIER)
    symlinkSync(file('real.glb'), file('link.glb'))
    expect(await run('mend', file('doll.glb'), '--out', file('link.glb'))).toMatchObject({ code: 0 })
    expect(readFileSync(file('real.glb')).subarray(0, 4).toString()).toBe('glTF')
    expect(leftOvers(folder)).toEqual([])
  })
  it('never goes over what is read, whatever it is called', async () => {
    const before = readFileSync(file('doll.glb'))
    symlinkSync(file('doll.glb'), file('other-name.glb'))
    for (const out of ['doll.glb', 'other-name.glb'])
      expectRefused(await run('mend', file('doll.glb'), '--out', file(out)), out, /same file as/)
    expectRefused(
      await run('mend', file('doll.glb'), '--out', file('m.glb'), '--report', file('doll.glb')),
      'doll.glb',
      /report/,
    )
    expectRefused(
      await run('mend', file('doll.glb'), '--out', file('both.glb'), '--report', file('both.glb')),
      'both.glb',
      /same file as/,
    )
    expect(readFileSync(file('doll.glb')).equals(before)).toBe(true)
  })
  it('is refused in one sentence where there is no folder, or a folder in its place', async () => {
    expectRefused(await run('mend', file('doll.glb'), '--out', file('nowhere/a.glb')), 'nowhere', /no folder/)
    mkdirSync(file('taken.glb'))
    expectRefused(await run('mend', file('doll.glb'), '--out', file('taken.glb')), 'taken.glb', /is a folder/)
    expectRefused(await run('inspect', folder), folder, /is a folder/)
    expectRefused(await run('inspect', file('doll.glb'), '--report', file('nowhere/r.json')), 'nowhere', /no folder/)
  })
  it.skipIf(process.getuid?.() === 0)('is refused where one may not write', async () => {
    mkdirSync(file('closed'))
    chmodSync(file('closed'), 0o500)
    expectRefused(await run('mend', file('doll.glb'), '--out', file('closed/a.glb')), 'closed', /may not write/)
  })
  it('leaves an earlier result alone on a full disk, and nothing half written', async context => {
    const disk = file('disk')
    mkdirSync(disk)
    try {
      execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=64k', 'tmpfs', disk], { stdio: 'ignore' })
    } catch {
      // this machine does not let a small disk be made
      return context.skip()
    }
    try {
      writeFileSync(join(disk, 'a.glb'), EARLIER)
      expectRefused(
        await run('mend', file('doll.glb'), '--out', join(disk, 'a.glb')),
        'a.glb',
        /disk is full.*untouched/,
      )
      expect(readFileSync(join(disk, 'a.glb'), 'utf8')).toBe(EARLIER)
      expect(leftOvers(disk)).toEqual([])
    } finally {
      execFileSync('umount', [disk])
    }
  })
  it('is thrown away when the program is ended, and the earlier result stays', async () => {
    const own = file('ended')
    mkdirSync(own)
    writeFileSync(join(own, 'a.glb'), EARLIER)
    const child = spawn(process.execPath, ['scripts/chiraxis.mjs', 'rig', file('doll.glb'), '--out', join(own, 'a.glb')]) // prettier-ignore
    await new Promise(done => setTimeout(done, 1500))
    child.kill('SIGTERM')
    await new Promise(done => child.on('exit', done))
    expect(leftOvers(own)).toEqual([])
    expect(existsSync(join(own, 'a.glb'))).toBe(true)
  })
  it('goes on when nobody reads its words any more', async () => {
    const child = spawn(process.execPath, ['scripts/chiraxis.mjs', 'inspect', file('doll.glb')])
    child.stdout.destroy()
    let words = ''
    child.stderr.on('data', d => (words += String(d)))
    expect(await new Promise(done => child.on('exit', done))).toBe(0)
    expect(words.replace(/npm warn.*\n/g, '')).toBe('')
  })
  it('of a batch is taken up again where a file was never finished, and never goes over what it reads', async () => {
    const out = file('batch')
    mkdirSync(out)
    copyFileSync(file('doll.glb'), file('figure.glb'))
    const spec = { figures: [file('figure.glb')], takes: [file('doll.glb')], out, name: 'one', resume: true }
    writeFileSync(join(out, 'one.glb'), '')
    writeFileSync(file('spec.json'), JSON.stringify(spec))
    expect(await run('batch', file('spec.json'))).toMatchObject({ code: 0 })
    expect(readFileSync(join(out, 'one.glb')).length).toBeGreaterThan(1000)
    writeFileSync(file('over.json'), JSON.stringify({ ...spec, out: folder, name: 'figure', resume: false }))
    expectRefused(await run('batch', file('over.json')), 'figure.glb', /write over/)
    expect(readdirSync(scratch)).toEqual([])
  })
})
