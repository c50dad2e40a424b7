/**
 * Landmarks on 200 seeded bodies nobody tuned on: other proportions, dresses, arm poses, noise, holes, turns, units.
 * Writes a table and a calibration chart: how far off landmarks of each confidence really are.
 * `npx tsx bench/landmarks.ts [bodies] [first seed]`
 */
import { mkdirSync, writeFileSync } from 'node:fs'
import { detectBody, landmarkKind, type Landmark } from '@chiraxis/core/landmarks'
import { ChiraxisError, distance, seededRandom, transformPoint, type Vec3 } from '@chiraxis/core/math'
import { applyStraighten, straighten } from '@chiraxis/core/shape'
import {
  disturb,
  makeFigure,
  ODA_COLORS,
  outfit,
  variedDisturbance,
  variedProportions,
  type MadeFigure,
} from '@chiraxis/demo/figures'
import { joinMeshes, type Mesh } from '@chiraxis/core/mesh'

const bodies = Number(process.argv[2] ?? 200)
const first = Number(process.argv[3] ?? 9001)
const TIPS: Record<string, string> = { crown: 'headEnd', leftHandTip: 'leftHandEnd', rightHandTip: 'rightHandEnd' }
const WRONG = 0.04

interface Miss {
  id: string
  off: number
  confidence: number
  dress: string
}
const all: Miss[] = []
const perBody: { mean: number; dress: string; swapped: boolean }[] = []
const refused: string[] = []

/** A closed cone from the waist down, as a skirt is. */
function skirt(figure: MadeFigure, long: number): Mesh {
  const H = figure.height
  const [hips, knee] = [figure.joints.spine, figure.joints.leftLowerLeg]
  const rings = 12,
    around = 40
  const low = hips[1] - long * (hips[1] - knee[1]) * 1.5
  const positions: number[] = [],
    indices: number[] = []
  for (let r = 0; r < rings; r++) {
    const t = r / (rings - 1)
    for (let a = 0; a < around; a++) {
      const q = (2 * Math.PI * a) / around
      const radius = (0.085 + 0.075 * t) * H
      positions.push(
        radius * Math.cos(q),
        hips[1] + t * (Math.max(0.08 * H, low) - hips[1]),
        0.85 * radius * Math.sin(q),
      )
    }
  }
  const top = positions.length / 3
  positions.push(0, hips[1], 0, 0, Math.max(0.08 * H, low), 0)
  const at = (r: number, a: number): number => r * around + (a % around)
  for (let a = 0; a < around; a++) {
    for (let r = 0; r + 1 < rings; r++)
      indices.push(at(r, a), at(r, a + 1), at(r + 1, a), at(r, a + 1), at(r + 1, a + 1), at(r + 1, a))
    indices.push(top, at(0, a + 1), at(0, a), top + 1, at(rings - 1, a), at(rings - 1, a + 1))
  }
  return {
    positions: Float32Array.from(positions),
    indices: Uint32Array.from(indices),
    parts: [{ name: 'skirt', start: 0, count: indices.length, color: [0.5, 0.2, 0.2] }],
  }
}

function dressed(
  figure: MadeFigure,
  p: ReturnType<typeof variedProportions>,
  kind: string,
  random: () => number,
): Mesh {
  const body: Mesh = { ...figure.mesh, colors: undefined }
  if (kind === 'coat')
    return joinMeshes([body, ...outfit(p, ODA_COLORS, figure.joints, 1500).map(m => ({ ...m, colors: undefined }))])
  if (kind === 'skirt') return joinMeshes([body, skirt(figure, 0.4 + 0.6 * random())])
  if (kind === 'holes') {
    const holes = Array.from({ length: 10 }, () => 3 * Math.floor(random() * (body.positions.length / 3)))
    const kept: number[] = []
    for (let f = 0; f < body.indices.length; f += 3) {
      const v = 3 * body.indices[f]
      if (
        !holes.some(
          h =>
            Math.hypot(
              body.positions[v] - body.positions[h],
              body.positions[v + 1] - body.positions[h + 1],
              body.positions[v + 2] - body.positions[h + 2],
            ) <
            0.012 * figure.height,
        )
      )
        kept.push(...body.indices.subarray(f, f + 3))
    }
    return { ...body, indices: Uint32Array.from(kept), parts: [{ ...body.parts[0], count: kept.length }] }
  }
  if (kind === 'lopsided') {
    const positions = body.positions.slice()
    for (let i = 0; i < positions.length; i += 3)
      if (positions[i] > 0.1 * figure.height) positions[i + 1] += 0.06 * (positions[i] - 0.1 * figure.height)
    return { ...body, positions, normals: body.normals }
  }
  return body
}

for (let i = 0; i < bodies; i++) {
  const seed = first + i
  const random = seededRandom(seed * 31 + 7)
  const arms = random()
  const base = variedProportions(seed)
  const p = { ...base, armsDown: arms < 0.15 ? -60 * random() : arms < 0.3 ? 50 + 28 * random() : base.armsDown }
  const dress = ['bare', 'bare', 'bare', 'coat', 'skirt', 'holes', 'lopsided'][Math.floor(random() * 7)]
  const figure = makeFigure(p, { vertices: 5000 })
  const mesh = dressed(figure, p, dress, random)
  const awkward = disturb(
    { ...figure, mesh: { ...mesh, normals: mesh.normals ?? figure.mesh.normals } },
    variedDisturbance(seed),
    seed,
  )
  try {
    const s = await straighten(awkward.mesh)
    const { landmarks, plan } = await detectBody(applyStraighten(awkward.mesh, s), 'auto')
    const list = landmarks.flatMap((l: Landmark) => {
      const role = landmarkKind(l.id)!.role ?? TIPS[l.id]
      const truth = role && awkward.joints[role]
      return truth
        ? [
            {
              id: l.id,
              off: distance(l.position, transformPoint(s.matrix, truth) as Vec3) / s.height,
              confidence: l.confidence,
              dress,
            },
          ]
        : []
    })
    all.push(...list)
    const swapped =
      plan !== 'biped' ||
      landmarks.some(
        l =>
          (landmarkKind(l.id)!.side === 'left' && l.position[0] < 0) ||
          (landmarkKind(l.id)!.side === 'right' && l.position[0] > 0),
      )
    const mean = list.reduce((a, m) => a + m.off, 0) / list.length
    perBody.push({ mean, dress, swapped })
    if (process.env.WRONG)
      for (const m of list)
        if (m.off > WRONG)
          console.log(seed, dress, p.armsDown.toFixed(0), m.id, (100 * m.off).toFixed(1), m.confidence.toFixed(2))
    if (mean > 0.03 || swapped)
      console.log(
        `seed ${seed} ${dress} arms ${p.armsDown.toFixed(0)}: mean ${(100 * mean).toFixed(2)} %${swapped ? ' swapped' : ''}, worst ${list
          .sort((a, b) => b.off - a.off)
          .slice(0, 4)
          .map(m => `${m.id} ${(100 * m.off).toFixed(1)} (${m.confidence.toFixed(2)})`)
          .join(', ')}`,
      )
  } catch (error) {
    if (!(error instanceof ChiraxisError)) throw error
    refused.push(`seed ${seed} ${dress} arms ${p.armsDown.toFixed(0)}: ${error.message}`)
  }
}

const percent = (v: number): string => `${(100 * v).toFixed(2)} %`
const mean = (list: readonly number[]): number => list.reduce((a, b) => a + b, 0) / Math.max(1, list.length)
const wrong = all.filter(m => m.off > WRONG)
const lines = [
  '# Landmarks on bodies nobody tuned on',
  '',
  `${bodies} bodies from seed ${first}, ${all.length} landmarks; distances as shares of height.`,
  '',
  '| dress | bodies | mean | worst body |',
  '|---|---|---|---|',
  ...[...new Set(perBody.map(b => b.dress))].sort().map(d => {
    const own = perBody.filter(b => b.dress === d).map(b => b.mean)
    return `| ${d} | ${own.length} | ${percent(mean(own))} | ${percent(Math.max(...own))} |`
  }),
  `| all | ${perBody.length} | ${percent(mean(perBody.map(b => b.mean)))} | ${percent(Math.max(...perBody.map(b => b.mean)))} |`,
  '',
  `Refused with a reason: ${refused.length}. Left and right swapped: ${perBody.filter(b => b.swapped).length}.`,
  `Off by more than ${percent(WRONG)}: ${wrong.length} of ${all.length} (${percent(wrong.length / all.length)}); of these told as a guess (under 0.6): ${wrong.filter(m => m.confidence < 0.6).length} (${percent(wrong.filter(m => m.confidence < 0.6).length / Math.max(1, wrong.length))}).`,
  `Told as a guess: ${all.filter(m => m.confidence < 0.6).length} (${percent(all.filter(m => m.confidence < 0.6).length / all.length)}).`,
  '',
  '| confidence | landmarks | mean off | 90th of 100 | over 4 % |',
  '|---|---|---|---|---|',
]
const bins = Array.from({ length: 10 }, (_, b) => ({
  from: b / 10,
  own: all
    .filter(m => Math.min(9, Math.floor(m.confidence * 10)) === b)
    .map(m => m.off)
    .sort((x, y) => x - y),
})).filter(b => b.own.length > 0)
for (const b of bins)
  lines.push(
    `| ${b.from.toFixed(1)} to ${(b.from + 0.1).toFixed(1)} | ${b.own.length} | ${percent(mean(b.own))} | ${percent(b.own[Math.floor(b.own.length * 0.9)])} | ${percent(b.own.filter(o => o > WRONG).length / b.own.length)} |`,
  )
lines.push('', '| landmark | mean | 95th of 100 | worst |', '|---|---|---|---|')
const parts = new Map<string, number[]>()
for (const m of all) {
  const part = m.id.replace(/^(left|right)/, '')
  parts.set(part, [...(parts.get(part) ?? []), m.off])
}
for (const [part, own] of [...parts].sort((a, b) => mean(b[1]) - mean(a[1]))) {
  own.sort((a, b) => a - b)
  lines.push(
    `| ${part} | ${percent(mean(own))} | ${percent(own[Math.floor(own.length * 0.95)])} | ${percent(own[own.length - 1])} |`,
  )
}
if (refused.length > 0) lines.push('', 'Refused:', '', ...refused.map(r => `- ${r}`))
console.log(lines.join('\n'))
mkdirSync('bench/results', { recursive: true })
writeFileSync('bench/results/landmarks.md', `${lines.join('\n')}\n`)
writeFileSync('bench/results/landmarks.svg', chart())

/** Mean and 90th of 100 off by confidence. */
function chart(): string {
  const W = 640,
    H = 320,
    L = 64,
    B = 44,
    top = 0.08
  const x = (c: number): number => L + c * (W - L - 20),
    y = (v: number): number => H - B - Math.min(1, v / top) * (H - B - 24)
  const bars = bins
    .map(b => {
      const m = mean(b.own),
        q = b.own[Math.floor(b.own.length * 0.9)]
      return `<rect x="${x(b.from) + 4}" y="${y(m)}" width="${x(0.1) - x(0) - 8}" height="${y(0) - y(m)}" fill="#4b5d73"/><path d="M${x(b.from + 0.05)} ${y(m)}V${y(q)}m-6 0h12" stroke="#a8402c" stroke-width="2" fill="none"/><text x="${x(b.from + 0.05)}" y="${H - B + 30}" text-anchor="middle" font-size="10" fill="#5a6568">${b.own.length}</text>`
    })
    .join('')
  const ticks = [0, 0.02, 0.04, 0.06, 0.08]
    .map(
      v =>
        `<path d="M${L} ${y(v)}H${W - 20}" stroke="#cfc6b4"/><text x="${L - 8}" y="${y(v) + 4}" text-anchor="end" font-size="11" fill="#20292c">${(100 * v).toFixed(0)} %</text>`,
    )
    .join('')
  const labels = Array.from(
    { length: 11 },
    (_, i) =>
      `<text x="${x(i / 10)}" y="${H - B + 16}" text-anchor="middle" font-size="11" fill="#20292c">${(i / 10).toFixed(1)}</text>`,
  ).join('')
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${W} ${H}" font-family="sans-serif"><rect width="${W}" height="${H}" fill="#f5f1e8"/><text x="${L}" y="16" font-size="13" font-weight="600" fill="#20292c">How far off landmarks are, by the confidence they were told with (share of height)</text>${ticks}${labels}${bars}<text x="${W - 20}" y="${H - 4}" text-anchor="end" font-size="10" fill="#5a6568">bars: mean; whiskers: 90 of 100; below: how many landmarks</text></svg>\n`
}
