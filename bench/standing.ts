/**
 * How seeded strangers are stood up: which way is up, where the midline runs, which way they look. Lists those that come out
 * wrongly with how sure the reading was.
 * `npx tsx bench/standing.ts [bodies] [first seed] [build or dress]`
 */
import { cross, dot, normalize, seededRandom, sub, transformPoint, type Vec3 } from '@chiraxis/core/math'
import { straighten } from '@chiraxis/core/shape'
import { disturb, variedDisturbance } from '@chiraxis/demo/figures'
import { BUILD_KINDS, DRESS_KINDS, makeStranger, type BuildKind, type DressKind } from '@chiraxis/demo/strangers'

const [bodies, first, kind] = [Number(process.argv[2] ?? 60), Number(process.argv[3] ?? 1), process.argv[4]]
const wanted = {
  ...((BUILD_KINDS as readonly string[]).includes(kind ?? '') && { build: kind as BuildKind }),
  ...((DRESS_KINDS as readonly string[]).includes(kind ?? '') && { dress: kind as DressKind }),
}
/** Above this a reading is not asked about. */
const SURE = 0.6
const wrong = { up: 0, side: 0, facing: 0, midline: 0 }
let unasked = 0
for (let seed = first; seed < first + bodies; seed++) {
  const stranger = await makeStranger(seed, wanted)
  const noise = variedDisturbance(seed)
  const turn = seededRandom(seed)() < 0.7 ? noise.turn : 0
  const awkward = disturb({ ...stranger, labels: [], near: () => [] }, { ...noise, noise: 0, turn }, seed)
  const joints = awkward.joints as Record<string, Vec3>
  const up = normalize(sub(joints.head!, joints.hips!))
  const left = normalize(sub(joints.leftUpperLeg!, joints.rightUpperLeg!))
  const { matrix, height, confidence } = await straighten(awkward.mesh)
  const row = (r: number): Vec3 => normalize([matrix[r]!, matrix[4 + r]!, matrix[8 + r]!])
  const what =
    dot(row(1), up) < 0.7
      ? 'up'
      : Math.abs(dot(row(0), left)) < 0.8
        ? 'side'
        : dot(row(2), cross(left, up)) < 0
          ? 'facing'
          : Math.abs(transformPoint(matrix, joints.hips!)[0]) > 0.02 * height
            ? 'midline'
            : undefined
  if (!what) continue
  wrong[what]++
  const sure = what === 'up' ? confidence.up : confidence.facing
  if (what !== 'midline' && sure >= SURE) unasked++
  const { build, stance, dress, make } = stranger
  console.log(seed, build, stance, dress, make, what, `up ${confidence.up.toFixed(2)}`, `facing ${confidence.facing.toFixed(2)}`) // prettier-ignore
}
console.log(`${bodies} bodies from seed ${first}:`, wrong, `told surely (${SURE} and more) and wrong: ${unasked}`)
