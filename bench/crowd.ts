// How long a frame of a crowd takes: npx tsx bench/crowd.ts [agents]
import { recogniseRoles } from '../core/src/skeleton'
import { bodyFrame, transfer } from '../core/src/retarget'
import { findContacts, movingGround, type Played } from '../core/src/motion'
import { clipOf, createCrowd, CROWD_DEFAULTS, placeCrowd, type Clip } from '../core/src/trial'
import { makeFigure, trueSkeleton, variedProportions } from '../demo/src/figures'
import { MOVES, NORTH, record } from '../demo/src/takes'

const agents = Number(process.argv[2] ?? 300)
const skeleton = trueSkeleton(makeFigure(variedProportions(31), { vertices: 2000 }))
const { joints } = recogniseRoles(skeleton)
const frame = bodyFrame(skeleton, joints)
const clips: Clip[] = []
for (const move of MOVES.filter(m => ['lookout idle', 'walk', 'run', 'wave', 'clap'].includes(m.name))) {
  const recorded = record(move, NORTH, 30)
  const { take } = await transfer(recorded.skeleton, recorded.take, skeleton)
  const p: Played = { skeleton, joints, take: { ...take, name: move.name }, frame }
  clips.push(clipOf(p, findContacts(p), movingGround(p)))
}
const kind = { skeleton, frame, clips }
const placed = placeCrowd({ ...CROWD_DEFAULTS, agents, across: 60, walking: 0.5 }, [kind])
const crowd = createCrowd([kind], placed.ways, placed.agents)
const frameOf = (): number => {
  const from = performance.now()
  crowd.step(1 / 60)
  crowd.pose()
  return performance.now() - from
}
for (let i = 0; i < 120; i++) frameOf()
const times = Array.from({ length: 300 }, frameOf).sort((a, b) => a - b)
console.log(
  `${placed.agents.length} agents of ${skeleton.names.length} joints: median ${times[150].toFixed(2)} ms, worst of 300 ${times[299].toFixed(2)} ms, ${((1000 * times[150]) / placed.agents.length).toFixed(1)} µs an agent`,
)
