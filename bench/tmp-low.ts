import { detectLandmarks } from '@chiraxis/core/landmarks'
import { buildBiped } from '@chiraxis/core/skeleton'
import { perform } from '@chiraxis/core/perform'
import { solesOf, usualSurface } from '@chiraxis/core/surface'
import { followPlaces } from '@chiraxis/core/motion'
import { MOVES, record, SOUTH } from '@chiraxis/demo/takes'
import { odaBody } from '../demo/test/bodies'
const oda = buildBiped(await detectLandmarks(odaBody().mesh))
for (const name of ['sit on floor', 'fall back', 'crawl']) {
  const r = record(MOVES.find(m => m.name === name)!, SOUTH)
  const p = await perform(r.skeleton, r.take, oda)
  const s = usualSurface(oda, p.figure.joints, p.figureFrame)
  const soles = solesOf(oda, p.figure.joints, p.figureFrame)
  const ground = Math.min(...Object.values(soles).flatMap(x => x.rest))
  const { roles, joints, places } = s.outermost
  const tracks = followPlaces({ skeleton: oda, joints: p.figure.joints, take: p.take, frame: p.figureFrame }, roles.map((_, i) => ({ joint: joints[i], at: [places[3 * i], places[3 * i + 1], places[3 * i + 2]] as [number, number, number] })))
  const low: Record<string, [number, number]> = {}
  tracks.forEach((t, i) => { for (let f = 0; f < p.take.frames; f++) { const y = t[3 * f + 1] - ground; if (!(low[roles[i]]?.[0] <= y)) low[roles[i]] = [y, f] } })
  console.log(name, p.measures.clearance * 1.72, Object.entries(low).map(([r, [y, f]]) => `${r} ${(100 * y).toFixed(1)}@${f}`).join(' '))
}
