/**
 * Automatic skin of dressed strangers against how their pieces move in truth: rigid things, cloth and flesh apart, over
 * check poses. Pieces come named, unnamed, or all as one part of one file.
 * `npx tsx bench/dressed-skin.ts [bodies] [first seed]`
 */
import { writeFileSync } from 'node:fs'
import type { Mesh } from '@chiraxis/core/mesh'
import { guessPieces } from '@chiraxis/core/pieces'
import { deform, skinOfPieces } from '@chiraxis/core/skin'
import { ALL_POSES, poseWorld } from '@chiraxis/core/strain'
import { DRESS_KINDS, makeStranger, MAKE_KINDS, trueSkin, type Nature } from '@chiraxis/demo/strangers'

const bodies = Number(process.argv[2] ?? 42)
const first = Number(process.argv[3] ?? 71_001)
const MADE = MAKE_KINDS.filter(m => m !== 'one surface' && m !== 'scan')
const POSES = ALL_POSES.filter(p => p.group !== 'hands')
const FORMS: Record<string, (mesh: Mesh) => Mesh> = {
  named: m => m,
  unnamed: m => ({ ...m, parts: m.parts.map((p, i) => ({ ...p, name: `piece ${i + 1}`, aka: undefined })) }),
  'one part': m => ({ ...m, parts: [{ ...m.parts[0], name: 'figure', start: 0, count: m.indices.length }] }),
}

type Off = Record<Nature | 'all', number>
const rows: { seed: number; dress: string; build: string; form: string; off: Off }[] = []
for (let i = 0; i < bodies; i++) {
  const seed = first + i
  const stranger = await makeStranger(seed, {
    dress: DRESS_KINDS[i % DRESS_KINDS.length],
    make: MADE[i % MADE.length],
    stance: i % 2 ? 'a-pose' : 't-pose',
  })
  const truth = trueSkin(stranger)
  for (const [form, as] of Object.entries(FORMS)) {
    const mesh = as(stranger.mesh)
    const guesses = await guessPieces(mesh, truth.skeleton)
    const skin = await skinOfPieces(mesh, truth.skeleton, guesses)
    const sum: Off = { flesh: 0, rigid: 0, cloth: 0, all: 0 }
    const count: Off = { flesh: 0, rigid: 0, cloth: 0, all: 0 }
    for (const pose of POSES) {
      const posed = poseWorld(truth.skeleton, pose)
      const [a, b] = [truth.skin, skin].map(s => deform(mesh.positions, truth.skeleton, s, posed))
      for (let v = 0; v < a.length / 3; v++) {
        const d = Math.hypot(a[3 * v] - b[3 * v], a[3 * v + 1] - b[3 * v + 1], a[3 * v + 2] - b[3 * v + 2])
        for (const kind of [truth.natures[v], 'all'] as const) {
          sum[kind] += d / stranger.height
          count[kind]++
        }
      }
    }
    const off = Object.fromEntries(
      (Object.keys(sum) as (keyof Off)[]).map(k => [k, count[k] > 0 ? sum[k] / count[k] : NaN]),
    ) as Off
    rows.push({ seed, dress: stranger.dress, build: stranger.build, form, off })
  }
}

const percent = (v: number): string => (Number.isFinite(v) ? `${(100 * v).toFixed(2)} %` : '')
const mean = (list: number[]): number => {
  const told = list.filter(Number.isFinite)
  return told.reduce((a, b) => a + b, 0) / told.length
}
const lines = ['| dress | form | all | worst body | rigid | cloth | flesh |', '|---|---|---|---|---|---|---|']
for (const dress of [...DRESS_KINDS, '']) {
  for (const form of Object.keys(FORMS)) {
    const own = rows.filter(r => (dress === '' || r.dress === dress) && r.form === form)
    if (own.length === 0) continue
    const of = (k: keyof Off): string => percent(mean(own.map(r => r.off[k])))
    const worst = own.reduce((a, b) => (b.off.all > a.off.all ? b : a))
    lines.push(
      `| ${dress || 'everything'} | ${form} | ${of('all')} | ${percent(worst.off.all)} (${worst.seed} ${worst.build}) | ${of('rigid')} | ${of('cloth')} | ${of('flesh')} |`,
    )
  }
}
console.log(lines.join('\n'))
writeFileSync(
  'bench/results/dressed-skin.md',
  `# Automatic skin of dressed strangers\n\nMean distance of vertices from where they go in truth, as a share of height, over all check poses but those of hands; ${bodies} bodies from seed ${first}, their true skeletons. Truth is painted from what pieces are modelled as, by none of the core's methods.\n\n${lines.join('\n')}\n`,
)
