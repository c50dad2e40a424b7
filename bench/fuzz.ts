/**
 * Reads thousands of damaged files of every kind: `npx tsx bench/fuzz.ts [mutations a kind] [first seed] [kind]`. Whatever is
 * read with a number that is none, refused in words nobody understands, or slow, is told with its seed.
 */
import { goodFiles } from '../loaders/test/good-files'
import { judge, type Verdict } from '../loaders/test/judge'
import { mutate } from '../loaders/test/mutations'

const COUNT = Number(process.argv[2] ?? 1000)
const FIRST = Number(process.argv[3] ?? 1)
const only = process.argv[4]

let bad = 0
for (const file of await goodFiles()) {
  if (only && file.name !== only) continue
  const counts = new Map<Verdict['kind'], number>()
  let slowest = 0
  for (let seed = FIRST; seed < FIRST + COUNT; seed++) {
    const verdict = await judge(file, mutate(file.bytes, seed))
    counts.set(verdict.kind, (counts.get(verdict.kind) ?? 0) + 1)
    slowest = Math.max(slowest, verdict.milliseconds)
    if (verdict.kind === 'accepted' || verdict.kind === 'refused') continue
    bad++
    if ((counts.get(verdict.kind) ?? 0) <= 4)
      console.log(`  ${file.name} seed ${seed}: ${verdict.kind}: ${verdict.told}`)
  }
  const told = [...counts].map(([kind, n]) => `${n} ${kind}`).join(', ')
  console.log(`${file.name.padEnd(14)} ${told}; slowest ${slowest.toFixed(0)} ms`)
}
console.log(`${bad} handled badly; resident ${Math.round(process.resourceUsage().maxRSS / 1024)} MiB at most`)
process.exitCode = bad > 0 ? 1 : 0
