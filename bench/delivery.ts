/**
 * The way out: travel found from feet of takes put in place, bytes of takes as every frame, as keys that say something and as keys
 * within an error, and many takes of several figures into one archive: time, size, memory.
 * Run: npx tsx bench/delivery.ts [takes] [figures] [seed]
 */
import { makeFigure, referenceSkin, trueSkeleton, variedProportions } from '@chiraxis/demo/figures'
import { BRISK, CROUCHED, gait, MOVES, NORTH, record, RUN, SOUTH, WALK, type Gait } from '@chiraxis/demo/takes'
import { archiveAs, Bundle, manifestOf, plainProfile, profileSchema } from '@chiraxis/core/delivery'
import {
  createTransferJobs,
  batchSettingsSchema,
  manifestPart,
  runBatch,
  type TransferJobResult,
} from '@chiraxis/core/batch'
import { deliver, writeBvh, writeGlb, type Proof } from '@chiraxis/core/formats'
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

for (const allowed of [
  { degrees: 0.02, metres: 0.0001 },
  { degrees: 0.1, metres: 0.0005 },
])
  for (const smooth of [false, true]) {
    // takes without tremble, as they come from hands rather than from cameras
    const own = smooth ? { ...motion, takes: await cleanTakes() } : motion
    const [straight, curved] = [
      await deliver({ ...own, thinning: allowed }),
      await deliver({ ...own, thinning: { ...allowed, curved: true } }),
    ]
    console.log(
      `${smooth ? 'smooth' : 'trembling'} takes within ${allowed.degrees}°: straight ${((straight.bytes.length - still) / 1e6).toFixed(2)} MB, curved where smaller ${((curved.bytes.length - still) / 1e6).toFixed(2)} MB`,
    )
  }
async function cleanTakes(): Promise<Take[]> {
  const out: Take[] = []
  for (const move of MOVES.slice(0, 12)) {
    const recorded = record(move, NORTH, 30)
    out.push({ ...(await transfer(recorded.skeleton, recorded.take, bodies[0].skeleton)).take, name: move.name })
  }
  return out
}

// --- packings ---
console.log('\npacking, ms with proof, MB, of its size, mm, normal, weight, turn')
for (const numbers of ['quantized', 'meshopt'] as const) {
  const began = performance.now()
  const made = await deliver({ ...bodies[0], takes: few }, 'glb', { packing: { numbers, images: 'with' } })
  const { packed } = made.proof as Proof
  console.log(
    `${numbers}, ${(performance.now() - began).toFixed(0)}, ${(made.bytes.length / 1e6).toFixed(2)}, ${percent(packed!.share)}, ${(1000 * packed!.maxPositionError).toFixed(4)}, ${packed!.maxNormalErrorDegrees.toFixed(2)}°, ${packed!.maxWeightError.toExponential(1)}, ${packed!.maxRotationErrorDegrees.toFixed(4)}°`,
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

// --- a batch: recordings carried onto figures, stopped in its middle, taken up again, one archive with a manifest ---
const key = (name: string, bytes: Uint8Array) => ({ key: name, name, bytes })
const targets = await Promise.all(bodies.map(async b => key(`${b.name}.glb`, await writeGlb(b))))
const recordings = Array.from({ length: each }, (_, i) => {
  const move = MOVES[i % MOVES.length]
  const { skeleton, take } = record(move, i % 2 ? NORTH : SOUTH, 30, { degrees: 0.2, seed: i })
  return key(`${move.name} ${i}.bvh`, writeBvh(skeleton, take))
})
const jobs = recordings.flatMap(take => targets.map(target => ({ take, figure: target })))
const settings = batchSettingsSchema.parse({ rest: 'auto', asPerformed: true, ground: true, limits: true, girdle: false, hands: 1, elbowRoom: 0.01, profile }) // prettier-ignore
const carry = createTransferJobs()
const kept = new Map<number, TransferJobResult>()
const signal = { aborted: false }
const run = async (job: (typeof jobs)[number], i: number): Promise<void> => {
  const name = `${job.figure.name.replace('.glb', '')}-${job.take.name.replace('.bvh', '')}`
  kept.set(i, await carry({ ...job, index: 0, takeName: name, fileName: name, performer: i % 2 ? 'North' : 'South', settings })) // prettier-ignore
  if (kept.size === Math.floor(jobs.length / 3)) signal.aborted = true
}
const begun = performance.now()
await runBatch(jobs, run, { signal })
const stopped = kept.size
const rest = await runBatch(jobs, run, { done: new Set(kept.keys()) })
let written = 0
const bundle = new Bundle(part => void (written += part.length))
const parts = [...kept.values()].map(made => {
  bundle.add(made.name, made.bytes)
  return manifestPart(made)
})
bundle.addJson('manifest.json', manifestOf(profile, parts))
bundle.done()
console.log(
  `\nbatch of ${jobs.length} (${rest.filter(o => o.state === 'failed').length} failed), stopped after ${stopped} and taken up again: ${((performance.now() - begun) / 1000).toFixed(1)} s, ${(written / 1e6).toFixed(1)} MB with manifest, peak memory ${Math.round(process.resourceUsage().maxRSS / 1024)} MiB`,
)
