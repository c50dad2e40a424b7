/**
 * Fingers on hands of every make: how many are seen of those that are modelled, and how far tips are off, on strangers whose arms
 * are placed truly.
 * `npx tsx bench/hands.ts [bodies] [first seed]`
 */
import { findHands, type Landmark } from '@chiraxis/core/landmarks'
import { distance, maxOf, minOf } from '@chiraxis/core/math'
import { makeStranger, MAKE_KINDS } from '@chiraxis/demo/strangers'

const [bodies, first] = [Number(process.argv[2] ?? 60), Number(process.argv[3] ?? 1)]
const FINGERS = { five: 5, four: 4, mitten: 2, block: 0 } as const
const ARM = { Elbow: 'LowerArm', Wrist: 'Hand', HandTip: 'HandEnd' } as const
const rows = new Map<string, { hands: number; right: number; off: number[] }>()
for (let seed = first; seed < first + bodies; seed++) {
  const { mesh, joints, hands, fingerTips, height, make, stance, dress } = await makeStranger(seed)
  const placed = (['left', 'right'] as const).flatMap(side =>
    Object.entries(ARM).map(([part, role]): Landmark => ({
      id: side + part,
      position: joints[side + role]!,
      confidence: 1,
    })),
  )
  const found = await findHands(mesh, placed, { left: 'auto', right: 'auto' })
  for (const side of ['left', 'right'] as const) {
    // a hand that lies on something or holds it is another question
    const name = `${hands}, ${make}`
    const row = rows.get(name) ?? { hands: 0, right: 0, off: [] }
    rows.set(name, row)
    row.hands++
    const seen = found.seen[side]
    const counted = seen < 2 ? 0 : seen
    if (counted === FINGERS[hands]) row.right++
    else if (process.env.LIST) console.log(seed, side, name, stance, dress, 'seen', seen)
    const tips = found.landmarks.filter(l => l.id.startsWith(side) && l.id.endsWith('Tip'))
    for (const tip of fingerTips[side])
      if (tips.length > 0 && counted > 0) row.off.push(distance(tip, nearest(tip, tips)) / height)
  }
}
function nearest(to: readonly number[], tips: readonly Landmark[]): Landmark['position'] {
  const far = tips.map(t => distance(t.position, to as Landmark['position']))
  return tips[far.indexOf(minOf(far))]!.position
}
console.log('| hands | make | hands | count right | tips off, mean | worst |\n|---|---|---|---|---|---|')
for (const kind of Object.keys(FINGERS))
  for (const make of MAKE_KINDS) {
    const row = rows.get(`${kind}, ${make}`)
    if (!row) continue
    const mean = row.off.reduce((a, b) => a + b, 0) / Math.max(1, row.off.length)
    const share = (v: number): string => (row.off.length > 0 ? `${(100 * v).toFixed(2)} %` : '')
    console.log(`| ${kind} | ${make} | ${row.hands} | ${row.right} | ${share(mean)} | ${share(maxOf(row.off, 0))} |`)
  }
