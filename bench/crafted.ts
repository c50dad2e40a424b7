/**
 * Every crafted hostile file through the command line, one process each: exit status, seconds, memory. `npx tsx
 * bench/crafted.ts`; anything but a refusal within 2 s and 256 MiB is told.
 */
import { spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { CRAFTED } from '../loaders/test/crafted-files'

const folder = mkdtempSync(join(tmpdir(), 'crafted-'))
let bad = 0
const run = (file: string): { status: number | null; seconds: number; words: string; memory: number } => {
  const report = join(folder, 'report.json')
  const from = performance.now()
  const { status, stderr } = spawnSync(process.execPath, ['scripts/chiraxis.mjs', 'inspect', file, '--report', report])
  const told = JSON.parse(readFileSync(report, 'utf8')) as { peakMemoryMiB: number }
  return {
    status,
    seconds: (performance.now() - from) / 1000,
    words: String(stderr).trim(),
    memory: told.peakMemoryMiB,
  }
}
const plain = join(folder, 'plain.obj')
writeFileSync(plain, 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n')
run(plain)
const start = run(plain).seconds
console.log(`a plain file takes ${start.toFixed(2)} s`)
for (const file of CRAFTED) {
  if (file.read) continue
  const path = join(folder, file.name)
  writeFileSync(path, await file.make())
  for (const [name, bytes] of file.beside?.() ?? []) writeFileSync(join(folder, name), bytes)
  const { status, seconds, words, memory } = run(path)
  const wrong = status !== 1 || seconds - start > 2 || memory > 256
  if (wrong) bad++
  console.log(`${wrong ? 'BAD ' : 'ok  '} ${file.what.padEnd(58)} ${String(status)} ${seconds.toFixed(2)} s ${memory} MiB  ${words.slice(0, 110)}`) // prettier-ignore
}
rmSync(folder, { recursive: true, force: true })
console.log(`${bad} handled badly`)
process.exitCode = bad > 0 ? 1 : 0
