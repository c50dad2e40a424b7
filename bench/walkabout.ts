// How a figure is led, on bodies of any seeds: npx tsx bench/walkabout.ts [bodies] [seed]
import { angleOf, quatAt } from '../core/src/math'
import { recogniseRoles } from '../core/src/skeleton'
import { bodyFrame, transfer } from '../core/src/retarget'
import { findContacts, movingGround, type Played } from '../core/src/motion'
import { solesOf } from '../core/src/surface'
import { clipOf, createWalkabout, type Clip, type Floor, type Lead, type Walker } from '../core/src/trial'
import { makeFigure, trueSkeleton, variedProportions } from '../demo/src/figures'
import { BRISK, gait, MOVES, NORTH, record, RUN, SOUTH, WALK } from '../demo/src/takes'

const [bodies, first] = [Number(process.argv[2] ?? 6), Number(process.argv[3] ?? 701)]
const named = (name: string) => MOVES.find(m => m.name === name)!
const ramp: Floor = { heightAt: (_, z) => Math.min(0.9, Math.max(0, 0.18 * (z - 2))), surfaceAt: () => 'planks' }
let [worstFlat, worstRamp, worstPop, cost, steps] = [0, 0, 0, 0, 0]
for (let b = 0; b < bodies; b++) {
  const seed = first + 13 * b
  const skeleton = trueSkeleton(makeFigure(variedProportions(seed), { vertices: 2000 }))
  const { joints } = recogniseRoles(skeleton)
  const frame = bodyFrame(skeleton, joints)
  const moves = [named('lookout idle'), gait('walk', WALK, 5, seed), gait('brisk', BRISK, 5, seed + 1), gait('run', RUN, 5, seed + 2), named('turn left'), named('turn right'), named('stop')] // prettier-ignore
  const clips: Clip[] = []
  for (const [i, move] of moves.entries()) {
    const r = record(move, (i + b) % 2 ? NORTH : SOUTH, [24, 30, 60][(i + b) % 3])
    const { take } = await transfer(r.skeleton, r.take, skeleton)
    const p: Played = { skeleton, joints, take: { ...take, name: move.name }, frame }
    // when feet rest is told by who performed, as where takes are carried over in the program
    const by = recogniseRoles(r.skeleton).joints
    const performer: Played = { skeleton: r.skeleton, joints: by, take: r.take, frame: bodyFrame(r.skeleton, by) }
    clips.push(clipOf(p, findContacts(performer), movingGround(performer)))
  }
  const walker: Walker = { skeleton, joints, frame, soles: solesOf(skeleton, joints, frame), clips }
  const J = skeleton.names.length
  const led = (w: Walker, seconds: number, lead: (t: number) => Lead): { slide: number; fastest: number } => {
    const { step } = createWalkabout(w)
    let [slide, n, fastest] = [0, 0, 0]
    let last: Float32Array | undefined
    for (let t = 0; t < seconds; t += 1 / 60) {
      const from = performance.now()
      const out = step(1 / 60, lead(t))
      cost += performance.now() - from
      steps++
      if (t > 2) {
        slide += out.slide
        n++
      }
      if (last) for (let j = 0; j < J; j++) fastest = Math.max(fastest, 60 * angleOf(quatAt(last, j), quatAt(out.rotations, j))) // prettier-ignore
      last = out.rotations.slice()
    }
    return { slide: slide / n, fastest }
  }
  const gaits = clips.filter(c => c.kind === 'steps')
  const between = gaits.slice(1).map((g, i) => (g.speed + gaits[i].speed) / 2)
  const flat = Math.max(...[...gaits.map(g => g.speed), ...between].map(speed => led(walker, 6, () => ({ to: [0, 1], speed })).slide)) // prettier-ignore
  const up = led({ ...walker, floor: ramp }, 7, () => ({ to: [0, 1] })).slide
  let source = 0
  for (const c of gaits)
    for (let k = 0; k < c.samples; k++)
      for (let j = 0; j < J; j++)
        source = Math.max(source, (c.samples / c.seconds) * angleOf(quatAt(c.rotations, k * J + j), quatAt(c.rotations, ((k + 1) % c.samples) * J + j))) // prettier-ignore
  const pop = led(walker, 12, t => (t < 1 ? {} : t < 3 ? { to: [0, 1] } : t < 5 ? { to: [1, 0.2], speed: 3 } : t < 7 ? { to: [-0.4, -1] } : t < 9 ? {} : { to: [-1, 0.5] })).fastest / source // prettier-ignore
  console.log(
    `seed ${seed}: flat ${(100 * flat).toFixed(2)} cm/s at its worst speed, ramp ${(100 * up).toFixed(2)} cm/s, fastest joint ${pop.toFixed(2)} of the fastest source`,
  )
  worstFlat = Math.max(worstFlat, flat)
  worstRamp = Math.max(worstRamp, up)
  worstPop = Math.max(worstPop, pop)
}
console.log(
  `worst of ${bodies}: flat ${(100 * worstFlat).toFixed(2)} cm/s (2 asked), ramp ${(100 * worstRamp).toFixed(2)} cm/s (5 asked), joints ${worstPop.toFixed(2)} (1.3 asked); a step ${((1000 * cost) / steps).toFixed(0)} µs`,
)
