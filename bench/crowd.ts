// How long a frame of a crowd takes: npx tsx bench/crowd.ts [agents]
import { createCrowd, CROWD_DEFAULTS, placeCrowd } from '../core/src/trial'
import { MOVES } from '../demo/src/takes'
import { bodyOf, walkerOf } from '../demo/test/walkers'

const agents = Number(process.argv[2] ?? 300)
const moves = MOVES.filter(m => ['lookout idle', 'walk', 'run', 'wave', 'clap'].includes(m.name))
const kind = await walkerOf(bodyOf(31), moves)
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
  `${placed.agents.length} agents of ${kind.skeleton.names.length} joints: median ${times[150].toFixed(2)} ms, worst of 300 ${times[299].toFixed(2)} ms, ${((1000 * times[150]) / placed.agents.length).toFixed(1)} µs an agent`,
)
