import { detectBody, landmarkKind } from '@chiraxis/core/landmarks'
import { transformPoint } from '@chiraxis/core/math'
import { applyStraighten, straighten } from '@chiraxis/core/shape'
import { asItComes, makeStranger } from '@chiraxis/demo/strangers'
const TIPS: any = { crown: 'headEnd', leftHandTip: 'leftHandEnd', rightHandTip: 'rightHandEnd' }
const show = (process.env.SHOW ?? 'hips,leftHip,leftKnee,leftAnkle,chest,neckBase,skullBase,crown,leftShoulder,leftElbow,leftWrist').split(',')
const agg: Record<string, number[][]> = {}
const wanted = process.env.STANCE ? { stance: process.env.STANCE as any } : {}
for (const seed of process.argv.slice(2).flatMap(s => { const [a, b] = s.split('-').map(Number); return b ? Array.from({ length: b - a + 1 }, (_, i) => a + i) : [a] })) {
  const st = await makeStranger(seed, wanted)
  const a = asItComes(st, seed)
  const s = await straighten(a.mesh)
  try {
  const { landmarks } = await detectBody(applyStraighten(a.mesh, s), 'auto')
  if (!process.env.QUIET) console.log(seed, st.build, st.stance, st.dress, st.make, 'up', s.confidence.up.toFixed(2), 'facing', s.confidence.facing.toFixed(2))
  for (const id of show) {
    const l = landmarks.find(l => l.id === id)!
    if (!l) continue
    const role = landmarkKind(l.id)!.role ?? TIPS[l.id]
    const t = transformPoint(s.matrix, a.joints[role])
    ;(agg[id] ??= []).push([0, 1, 2].map(k => (100 * (l.position[k] - t[k]) / s.height)))
    if (!process.env.QUIET) console.log('   ', id.padEnd(13), 'at', t.map(v => (v / s.height).toFixed(3)).join(' '), 'off', [0, 1, 2].map(k => (100 * (l.position[k] - t[k]) / s.height).toFixed(1)).join(' '), l.confidence.toFixed(2))
  }
  } catch (e) { console.log(seed, st.build, st.stance, st.dress, st.make, (e as Error).message) }
}

const med = (l: number[]) => [...l].sort((a, b) => a - b)[l.length >> 1]
let all = 0, n = 0
for (const [id, list] of Object.entries(agg)) {
  const m = list.reduce((a, o) => a + Math.hypot(...o), 0) / list.length
  all += m; n++
  console.log(id.padEnd(13), 'mean', m.toFixed(2), 'median off', [0, 1, 2].map(k => med(list.map(o => o[k])).toFixed(2)).join(' '))
}
console.log('mean of landmarks', (all / n).toFixed(3))
