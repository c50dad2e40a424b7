/**
 * Landmarks on seeded strangers: builds from child to ogre, stances, dresses, ways of modelling, turned and in any unit.
 * Writes a table by each of them and a calibration chart: how far off landmarks of each confidence really are.
 * `npx tsx bench/landmarks.ts [bodies] [first seed]`
 */
import { fork } from 'node:child_process'
import { mkdirSync, writeFileSync } from 'node:fs'
import { availableParallelism } from 'node:os'
import { detectBody, landmarkKind, standUp } from '@chiraxis/core/landmarks'
import { ChiraxisError, distance, maxOf, transformPoint } from '@chiraxis/core/math'
import { applyStraighten } from '@chiraxis/core/shape'
import { asItComes, makeStranger, type Stranger } from '@chiraxis/demo/strangers'
import { calibrationChart } from './calibration-chart'

/** Tips that are told by no joint. */
const TIPS: Record<string, string> = { crown: 'headEnd', leftHandTip: 'leftHandEnd', rightHandTip: 'rightHandEnd' }
const WRONG = 0.04
const GROUPS = ['build', 'stance', 'dress', 'make'] as const

interface Miss {
  readonly id: string
  readonly off: number
  readonly confidence: number
}
interface Measured extends Pick<Stranger, (typeof GROUPS)[number]> {
  readonly seed: number
  readonly misses: readonly Miss[]
  readonly swapped: boolean
  readonly refused?: string
  readonly milliseconds: number
  /** Off by along x, y, z, by landmark. */
  readonly bias: readonly (readonly [string, number, number, number])[]
}

async function measure(seed: number): Promise<Measured> {
  const stranger = await makeStranger(seed)
  const { build, stance, dress, make } = stranger
  const awkward = asItComes(stranger, seed)
  const from = performance.now()
  const kinds = { seed, build, stance, dress, make }
  try {
    const s = await standUp(awkward.mesh)
    const { landmarks, plan } = await detectBody(applyStraighten(awkward.mesh, s), 'auto', { stance: s.confidence })
    const told = landmarks.flatMap(l => {
      const role = landmarkKind(l.id)!.role ?? TIPS[l.id]
      const truth = role ? awkward.joints[role] : undefined
      return truth ? [{ l, truth: transformPoint(s.matrix, truth) }] : []
    })
    return {
      ...kinds,
      milliseconds: performance.now() - from,
      misses: told.map(({ l, truth }) => ({
        id: l.id,
        off: distance(l.position, truth) / s.height,
        confidence: l.confidence,
      })),
      bias: told.map(({ l, truth }) => {
        const [x, y, z] = [0, 1, 2].map(k => (l.position[k] - truth[k]) / s.height)
        return [l.id, x, y, z]
      }),
      // sides are told by the truth: a straightened body facing back has them swapped too
      swapped: plan !== 'biped' || told.some(({ l, truth }) => truth[0] * l.position[0] < -((0.02 * s.height) ** 2)),
    }
  } catch (error) {
    if (!(error instanceof ChiraxisError)) throw error
    return {
      ...kinds,
      milliseconds: performance.now() - from,
      misses: [],
      bias: [],
      swapped: false,
      refused: error.message,
    }
  }
}

async function measureAll(seeds: readonly number[], told: (m: Measured) => void): Promise<void> {
  for (const seed of seeds) told(await measure(seed))
}

const median = (list: number[]): number => list.sort((a, b) => a - b)[list.length >> 1] ?? 0
const mean = (list: readonly number[]): number => list.reduce((a, b) => a + b, 0) / Math.max(1, list.length)
const percent = (v: number): string => `${(100 * v).toFixed(2)} %`
const bodyMean = (m: Measured): number => mean(m.misses.map(x => x.off))

function report(all: readonly Measured[]): { lines: string[]; chart: string } {
  const found = all.filter(m => !m.refused && m.misses.length > 0)
  const misses = found.flatMap(m => m.misses)
  const wrong = misses.filter(m => m.off > WRONG)
  const lines = [
    '# Landmarks on strangers',
    '',
    `${all.length} bodies from seed ${all[0].seed}, ${misses.length} landmarks; distances as shares of height, hats and horns included.`,
    '',
    `Mean of bodies **${percent(mean(found.map(bodyMean)))}**, worst body ${percent(maxOf(found.map(bodyMean)))}. Refused: ${all.filter(m => m.refused).length}. Left and right swapped or read as four-legged: ${found.filter(m => m.swapped).length}. ${Math.round(mean(found.map(m => m.milliseconds)))} ms a body.`,
    '',
    `Off by more than ${percent(WRONG)}: ${wrong.length} of ${misses.length}; of these told as a guess (under 0.6): ${percent(wrong.filter(m => m.confidence < 0.6).length / Math.max(1, wrong.length))}. Told as a guess in all: ${percent(misses.filter(m => m.confidence < 0.6).length / misses.length)}.`,
  ]
  for (const group of GROUPS) {
    lines.push('', `| ${group} | bodies | refused | mean | 9 of 10 under | worst |`, '|---|---|---|---|---|---|')
    const kinds = [...new Set(all.map(m => m[group]))]
    const rows = kinds.map(kind => {
      const own = all.filter(m => m[group] === kind)
      const means = own
        .filter(m => !m.refused && m.misses.length > 0)
        .map(bodyMean)
        .sort((a, b) => a - b)
      return { kind, n: own.length, no: own.filter(m => m.refused).length, means }
    })
    for (const r of rows.sort((a, b) => mean(b.means) - mean(a.means)))
      lines.push(
        `| ${r.kind} | ${r.n} | ${r.no} | ${percent(mean(r.means))} | ${percent(r.means[Math.floor(r.means.length * 0.9)] ?? 0)} | ${percent(r.means[r.means.length - 1] ?? 0)} |`,
      )
  }
  lines.push('', '| confidence | landmarks | mean off | 9 of 10 under | over 4 % |', '|---|---|---|---|---|')
  const bins = Array.from({ length: 10 }, (_, b) => ({
    from: b / 10,
    offs: misses
      .filter(m => Math.min(9, Math.floor(m.confidence * 10)) === b)
      .map(m => m.off)
      .sort((x, y) => x - y),
  })).filter(b => b.offs.length > 0)
  for (const b of bins)
    lines.push(
      `| ${b.from.toFixed(1)} to ${(b.from + 0.1).toFixed(1)} | ${b.offs.length} | ${percent(mean(b.offs))} | ${percent(b.offs[Math.floor(b.offs.length * 0.9)])} | ${percent(b.offs.filter(o => o > WRONG).length / b.offs.length)} |`,
    )
  lines.push(
    '',
    '| landmark | mean | 95 of 100 under | worst | usually outwards | up | ahead |',
    '|---|---|---|---|---|---|---|',
  )
  const part = (id: string): string => id.replace(/^(left|right)/, '')
  const parts = [...new Set(misses.map(m => part(m.id)))].map(name => ({
    name,
    offs: misses
      .filter(m => part(m.id) === name)
      .map(m => m.off)
      .sort((a, b) => a - b),
    bias: found.flatMap(m => m.bias).filter(b => part(b[0]) === name),
  }))
  for (const p of parts.sort((a, b) => mean(b.offs) - mean(a.offs))) {
    const out = median(p.bias.map(b => (b[0].startsWith('right') ? -b[1] : b[1])))
    lines.push(
      `| ${p.name} | ${percent(mean(p.offs))} | ${percent(p.offs[Math.floor(p.offs.length * 0.95)])} | ${percent(p.offs[p.offs.length - 1])} | ${percent(out)} | ${percent(median(p.bias.map(b => b[2])))} | ${percent(median(p.bias.map(b => b[3])))} |`,
    )
  }
  const refused = all.filter(m => m.refused)
  if (refused.length > 0)
    lines.push(
      '',
      'Refused:',
      '',
      ...refused.map(m => `- ${m.seed} ${m.build}, ${m.stance}, ${m.dress}, ${m.make}: ${m.refused}`),
    )
  return { lines, chart: calibrationChart(bins) }
}

async function main(): Promise<void> {
  if (process.send) {
    const seeds = JSON.parse(process.argv[2]) as number[]
    await measureAll(seeds, m => process.send!(m))
    return
  }
  const bodies = Number(process.argv[2] ?? 400)
  const first = Number(process.argv[3] ?? 50_001)
  const workers = Math.min(availableParallelism(), 4)
  const all: Measured[] = []
  await Promise.all(
    Array.from({ length: workers }, (_, w) => {
      const seeds = Array.from({ length: bodies }, (_, i) => first + i).filter((_, i) => i % workers === w)
      return new Promise<void>((done, failed) => {
        const child = fork(process.argv[1], [JSON.stringify(seeds)], { execArgv: process.execArgv })
        child.on('message', m => void all.push(m as Measured))
        child.on('exit', code => (code === 0 ? done() : failed(new Error(`a worker ended with ${code}`))))
      })
    }),
  )
  all.sort((a, b) => a.seed - b.seed)
  if (process.env.WORST)
    for (const m of [...all].sort((a, b) => bodyMean(b) - bodyMean(a)).slice(0, Number(process.env.WORST)))
      console.log(
        `${m.seed} ${m.build}, ${m.stance}, ${m.dress}, ${m.make}: ${percent(bodyMean(m))}${m.swapped ? ' swapped' : ''}`,
        [...m.misses]
          .sort((a, b) => b.off - a.off)
          .slice(0, 5)
          .map(x => `${x.id} ${(100 * x.off).toFixed(1)} (${x.confidence.toFixed(2)})`)
          .join(', '),
      )
  const { lines, chart } = report(all)
  console.log(lines.join('\n'))
  mkdirSync('bench/results', { recursive: true })
  writeFileSync('bench/results/landmarks.md', `${lines.join('\n')}\n`)
  writeFileSync('bench/results/landmarks.svg', chart)
}

void main()
