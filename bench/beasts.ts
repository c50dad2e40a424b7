/**
 * Landmarks on seeded four-legged strangers: kinds from hound to elephant, ways of modelling, turned and in any unit.
 * `npx tsx bench/beasts.ts [bodies] [first seed]`
 */
import { writeFileSync } from 'node:fs'
import { detectBody, landmarkKind, standUp } from '@chiraxis/core/landmarks'
import { ChiraxisError, distance, maxOf, seededRandom, transformPoint } from '@chiraxis/core/math'
import { applyStraighten } from '@chiraxis/core/shape'
import { disturb, variedDisturbance } from '@chiraxis/demo/figures'
import { BEAST_KINDS, makeBeast } from '@chiraxis/demo/strangers'

const TIPS: Record<string, string> = { nose: 'headEnd', crown: 'crown', tailMiddle: 'tailMiddle', tailTip: 'tailEnd' }
for (const side of ['left', 'right']) {
  for (const leg of ['Front', 'Hind']) TIPS[`${side}${leg}Tip`] = `${side}${leg}ToesEnd`
  TIPS[`${side}EarTip`] = `${side}EarEnd`
}

const bodies = Number(process.argv[2] ?? 100)
const first = Number(process.argv[3] ?? 80_001)
interface Miss {
  id: string
  off: number
  confidence: number
}
const rows: { seed: number; kind: string; make: string; misses: Miss[]; fault?: string }[] = []
for (let i = 0; i < bodies; i++) {
  const seed = first + i
  const beast = await makeBeast(seed, { kind: BEAST_KINDS[i % BEAST_KINDS.length] })
  const noise = variedDisturbance(seed)
  const random = seededRandom(seed)
  const awkward = disturb(
    { ...beast, labels: [], near: () => [] },
    { ...noise, noise: 0, turn: random() < 0.5 ? noise.turn : 0 },
    seed,
  )
  const row = { seed, kind: beast.kind, make: beast.make, misses: [] as Miss[], fault: undefined as string | undefined }
  rows.push(row)
  try {
    const s = await standUp(awkward.mesh)
    const { landmarks, plan } = await detectBody(applyStraighten(awkward.mesh, s), 'auto', { stance: s.confidence })
    const at = (role: string): [number, number, number] =>
      transformPoint(s.matrix, awkward.joints[role]) as [number, number, number]
    const size = s.height
    if (at('head')[1] < at('leftHindToes')[1] || Math.abs(at('hips')[1] - at('chest')[1]) > 0.5 * size) row.fault = 'up'
    else if (at('chest')[2] < at('hips')[2]) row.fault = 'facing'
    else if (plan !== 'fourleg') row.fault = 'biped'
    row.misses = landmarks.flatMap(l => {
      const role = TIPS[l.id] ?? landmarkKind(l.id)!.role
      return role && awkward.joints[role]
        ? [{ id: l.id, off: distance(l.position, at(role)) / size, confidence: l.confidence }]
        : []
    })
  } catch (error) {
    if (!(error instanceof ChiraxisError)) throw error
    row.fault = error.message
  }
}
const mean = (list: number[]): number => list.reduce((a, b) => a + b, 0) / Math.max(1, list.length)
const percent = (v: number): string => `${(100 * v).toFixed(2)} %`
const good = rows.filter(r => !r.fault)
const lines = [
  `${rows.length} bodies from seed ${first}; ${rows.length - good.length} stood or read wrongly; the others off by ${percent(mean(good.map(r => mean(r.misses.map(m => m.off)))))} on the mean.`,
  '',
  '| kind | bodies | wrong | mean | worst body |',
  '|---|---|---|---|---|',
  ...BEAST_KINDS.map(kind => {
    const own = rows.filter(r => r.kind === kind)
    const means = own.filter(r => !r.fault).map(r => mean(r.misses.map(m => m.off)))
    return `| ${kind} | ${own.length} | ${own.filter(r => r.fault).length} | ${percent(mean(means))} | ${percent(maxOf(means, 0))} |`
  }),
  '',
  '| landmark | mean | worst | told under 0.6 |',
  '|---|---|---|---|',
]
const all = good.flatMap(r => r.misses)
const part = (id: string): string => id.replace(/^(left|right)/, '')
for (const id of new Set(all.map(m => part(m.id)))) {
  const own = all.filter(m => part(m.id) === id)
  lines.push(
    `| ${id} | ${percent(mean(own.map(m => m.off)))} | ${percent(maxOf(own.map(m => m.off)))} | ${percent(own.filter(m => m.confidence < 0.6).length / own.length)} |`,
  )
}
const faults = rows.filter(r => r.fault)
lines.push('', ...faults.map(r => `- ${r.seed} ${r.kind}, ${r.make}: ${r.fault}`))
const wrong = all.filter(m => m.off > 0.08)
lines.push(
  '',
  `Off by more than 8 % of height: ${wrong.length} of ${all.length}, ${percent(wrong.filter(m => m.confidence < 0.6).length / Math.max(1, wrong.length))} of them told under 0.6.`,
)
console.log(lines.join('\n'))
writeFileSync('bench/results/beasts.md', `# Landmarks on four-legged strangers\n\n${lines.join('\n')}\n`)
