/**
 * Every figure of speed in one run, each beside its peer, in turn, best against best.
 * `npm run bench` writes bench/results/speed.md; `npm run bench -- transfer reading` prints some parts;
 * `npm run bench -- body --sizes 10000,30000` chooses the bodies.
 */
import { execFileSync } from 'node:child_process'
import { mkdirSync, writeFileSync } from 'node:fs'
import { bodies, rigs, SIZES } from './body'
import { inTurn, machine, ms, pace, table } from './machine'
import { buildNative } from './native'
import { reading } from './reading'
import { transfers } from './transfer'

const told = process.argv.slice(2)
const at = told.indexOf('--sizes')
const sizes = at >= 0 ? told[at + 1].split(',').map(Number) : SIZES
const wanted = told.filter((word, i) => !word.startsWith('--') && (at < 0 || i !== at + 1))

async function start(): Promise<string> {
  const run =
    (...args: string[]) =>
    (): void =>
      void execFileSync(process.execPath, ['scripts/chiraxis.mjs', ...args])
  run('--help')()
  const best = await inTurn(7, {
    node: () => void execFileSync(process.execPath, ['-e', '0']),
    help: run('--help'),
    inspect: run('inspect', 'public/demo/walk.north.bvh'),
  })
  return [
    '## Start of the command line\n',
    table(
      ['command', 'ms'],
      [
        ['Node alone', ms(best.node)],
        ['`--help`', ms(best.help)],
        ['`inspect` of a take', ms(best.inspect)],
      ],
    ),
  ].join('\n')
}

const PARTS: Record<string, () => Promise<string>> = {
  start,
  reading,
  transfer: transfers,
  body: () => bodies(sizes, buildNative()),
  rig: () => rigs(sizes.filter(size => size <= 500_000)),
}
const unknown = wanted.filter(part => !PARTS[part])
if (unknown.length > 0) throw new Error(`No part ${unknown.join(', ')}: there are ${Object.keys(PARTS).join(', ')}.`)
const before = pace()
const sections: string[] = []
for (const [name, measure] of Object.entries(PARTS)) {
  if (wanted.length > 0 && !wanted.includes(name)) continue
  const section = await measure()
  console.log(`${section}\n`)
  sections.push(section)
}
const paces = `Pace, a fixed piece of work: ${ms(before)} ms at the start, ${ms(pace())} ms at the end (12 ms where this machine runs at full speed).`
const whole = `# Speed\n\nMade by \`npm run bench\`. ${machine()}. ${paces} What is compared was run in turn, several times; best of each.\n\n${sections.join('\n\n')}\n`
if (wanted.length === 0) {
  mkdirSync('bench/results', { recursive: true })
  writeFileSync('bench/results/speed.md', whole)
} else console.log(paces)
