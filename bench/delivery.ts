/**
 * The way out: travel found from feet of takes put in place, bytes of takes as every frame, as keys that say something and as keys
 * within an error, and many takes of several figures into one archive: time, size, memory.
 * Run: npx tsx bench/delivery.ts [takes] [figures] [seed]
 */
import { makeFigure, referenceSkin, trueSkeleton, variedProportions } from '@chiraxis/demo/figures'
import { BRISK, CROUCHED, gait, MOVES, NORTH, record, RUN, SOUTH, WALK, type Gait } from '@chiraxis/demo/takes'
import { archiveAs, plainProfile, profileSchema } from '@chiraxis/core/delivery'
import { deliver, writeGlb } from '@chiraxis/core/formats'
import { conjugate, rotate, seededRandom } from '@chiraxis/core/math'
import { rootPath, type Played, type Take } from '@chiraxis/core/motion'
import { bodyFrame, transfer } from '@chiraxis/core/retarget'
import { travelFromFeet } from '@chiraxis/core/root-motion'
import { recogniseRoles } from '@chiraxis/core/skeleton'
import { solesOf } from '@chiraxis/core/surface'

const [wanted = 200, figures = 3, seed = 71] = process.argv.slice(2).map(Number)
const random = seededRandom(seed)
const between = (a: number, b: number): number => a + (b - a) * random()

// --- travel from feet, of gaits that are nowhere in the demo ---
const off: number[] = []
for (let i = 0; i < 40; i++) {
  const base = [WALK, BRISK, RUN, CROUCHED][i % 4]
  const g: Gait = {
    ...base,
    speed: base.speed * between(0.7, 1.15),
    cycle: base.cycle * between(0.9, 1.2),
    lift: base.lift * between(0.6, 1.4),
    bob: base.bob * between(0.5, 1.6),
  }
  const { skeleton, take } = record(gait('g', g, 5, 900 + i), i % 2 ? NORTH : SOUTH, [24, 30, 60][i % 3])
  const { joints } = recogniseRoles(skeleton)
  const own: Played = { skeleton, joints, take, frame: bodyFrame(skeleton, joints) }
  const path = rootPath(own)
  const last = take.frames - 1
  const J = skeleton.names.length
  const translations = take.translations.slice()
  for (let f = 0; f <= last; f++) {
    const z = (path.ahead[last] - path.ahead[0]) * (f / last)
    rotate(conjugate(own.frame), [0, 0, z]).forEach((v, k) => (translations[3 * (f * J + joints.hips) + k] -= v))
  }
  const shift = travelFromFeet({ ...own, take: { ...take, translations } }, solesOf(skeleton, joints, own.frame))
  off.push(Math.abs(shift[2 * last + 1] / (path.ahead[last] - path.ahead[0]) - 1))
}
off.sort((a, b) => a - b)
const percent = (v: number): string => `${(100 * v).toFixed(2)} %`
console.log(
  `travel from feet, ${off.length} gaits: median ${percent(off[off.length >> 1])}, nine of ten ${percent(off[Math.floor(0.9 * off.length)])}, worst ${percent(off[off.length - 1])}`,
)

// --- figures and their takes ---
const bodies = Array.from({ length: figures }, (_, i) => {
  const made = makeFigure(variedProportions(seed + i), { vertices: 6000 })
  const skeleton = trueSkeleton(made)
  return { name: `Figure ${i + 1}`, mesh: made.mesh, skeleton, skin: referenceSkin(made, skeleton) }
})
const each = Math.ceil(wanted / figures)
async function takesOf(skeleton: (typeof bodies)[number]['skeleton'], count: number): Promise<Take[]> {
  const out: Take[] = []
  for (let i = 0; i < count; i++) {
    const move = MOVES[i % MOVES.length]
    const recorded = record(move, i % 2 ? NORTH : SOUTH, 30, { degrees: 0.2, seed: i })
    const { take } = await transfer(recorded.skeleton, recorded.take, skeleton)
    out.push({ ...take, name: `${move.name} ${i}` })
  }
  return out
}

// --- bytes of takes ---
const few = (await takesOf(bodies[0].skeleton, MOVES.length)).slice(0, 12)
const motion = { name: 'takes', skeleton: bodies[0].skeleton, takes: few }
const still = (await writeGlb({ ...motion, takes: [] })).length
const whole = (await writeGlb(motion)).length - still
const raw = few.reduce((n, t) => n + t.frames * (16 * bodies[0].skeleton.names.length + 12 + 4), 0)
console.log(
  `\n12 takes, ${bodies[0].skeleton.names.length} joints: every frame of every joint ${(raw / 1e6).toFixed(2)} MB`,
)
console.log(`still joints told at their ends: ${(whole / 1e6).toFixed(2)} MB, ${percent(whole / raw)}`)
for (const [degrees, metres] of [
  [0.02, 0.0001],
  [0.1, 0.0005],
  [0.5, 0.002],
] as const) {
  const { bytes, proof } = await deliver({ ...motion, thinning: { degrees, metres } })
  const size = bytes.length - still
  console.log(
    `within ${degrees}° and ${1000 * metres} mm: ${(size / 1e6).toFixed(2)} MB, ${percent(size / raw)}; strays ${proof.thinned!.maxRotationErrorDegrees.toFixed(3)}°`,
  )
}

// --- formats ---
const figure = { ...bodies[0], takes: few }
console.log('\nformat, ms, MB')
for (const format of ['glb', 'gltf', 'vrm', 'usda', 'obj'] as const) {
  const start = performance.now()
  const { bytes, beside = [] } = await deliver(figure, format)
  const size = bytes.length + beside.reduce((n, b) => n + b.bytes.length, 0)
  console.log(`${format}, ${(performance.now() - start).toFixed(0)}, ${(size / 1e6).toFixed(2)}`)
}

// --- an archive of many ---
const profile = profileSchema.parse({
  ...plainProfile('glb'),
  content: 'motion',
  split: 'each',
  file: '{figure}-{take}',
})
let bytes = 0
const start = performance.now()
let files = 0
for (const body of bodies) {
  const takes = await takesOf(body.skeleton, each)
  const made = await archiveAs({ content: { ...body, takes } }, profile, { sink: part => (bytes += part.length) })
  files += made.files.length
}
console.log(
  `\n${files} files of ${figures} figures, each proven: ${((performance.now() - start) / 1000).toFixed(1)} s, ${(bytes / 1e6).toFixed(1)} MB, peak memory ${Math.round(process.resourceUsage().maxRSS / 1024)} MiB`,
)
