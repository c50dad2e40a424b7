/**
 * How seeded strangers are stood up: which way is up, where the midline runs, which way they look. Lists those that come out
 * wrongly with how sure the reading was.
 * `npx tsx bench/standing.ts [bodies] [first seed] [build or dress]`
 */
import { SURE_STANCE } from '@chiraxis/core/findings'
import { standUp } from '@chiraxis/core/landmarks'
import {
  asItComes,
  BUILD_KINDS,
  DRESS_KINDS,
  makeStranger,
  wrongStance,
  type BuildKind,
  type DressKind,
} from '@chiraxis/demo/strangers'

const [bodies, first, kind] = [Number(process.argv[2] ?? 60), Number(process.argv[3] ?? 1), process.argv[4] ?? '']
const wanted = {
  ...((BUILD_KINDS as readonly string[]).includes(kind) && { build: kind as BuildKind }),
  ...((DRESS_KINDS as readonly string[]).includes(kind) && { dress: kind as DressKind }),
}
const wrong = { up: 0, side: 0, facing: 0, midline: 0 }
let unasked = 0
for (let seed = first; seed < first + bodies; seed++) {
  const stranger = await makeStranger(seed, wanted)
  const { mesh, joints } = asItComes(stranger, seed)
  const straightened = await standUp(mesh)
  const what = wrongStance(joints, straightened)
  if (!what) continue
  wrong[what]++
  const { up, facing } = straightened.confidence
  if (what !== 'midline' && (what === 'up' ? up >= SURE_STANCE.up : facing >= SURE_STANCE.facing)) unasked++
  const { build, stance, dress, make } = stranger
  console.log(seed, build, stance, dress, make, what, `up ${up.toFixed(2)}`, `facing ${facing.toFixed(2)}`)
}
console.log(`${bodies} bodies from seed ${first}:`, wrong, `told surely, so not asked about, and wrong: ${unasked}`)
