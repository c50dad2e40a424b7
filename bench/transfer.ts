/**
 * Transfer against the 3D library's own clip retargeting, both on the same take and skeletons in one
 * run, taken in turn, best against best. `npm run bench`
 */
import { mkdirSync, writeFileSync } from 'node:fs'
import { AnimationClip, QuaternionKeyframeTrack, VectorKeyframeTrack } from 'three'
import { BVHLoader } from 'three/examples/jsm/loaders/BVHLoader.js'
import { retargetClip } from 'three/examples/jsm/utils/SkeletonUtils.js'
import { readBvh, writeBvh, writeGlb } from '@chiraxis/core/formats'
import type { Take } from '@chiraxis/core/motion'
import { emptyRecipe, hashBytes } from '@chiraxis/core/recipe'
import { createDerivation } from '@chiraxis/core/steps'
import type { Skeleton } from '@chiraxis/core/skeleton'
import type { BodySurface } from '@chiraxis/core/surface'
import { perform } from '@chiraxis/core/perform'
import { prepareTransfer, transfer } from '@chiraxis/core/retarget'
import { makeFigure, ODA } from '@chiraxis/demo/figures'
import { MOVES, NORTH, NORTH_ALONG, record, SOUTH } from '@chiraxis/demo/takes'
import { threeMesh } from './three-mesh'

const move = { ...MOVES.find(m => m.name === 'walk')!, seconds: 299 / 30 }
/** Both hands on a rope all the time. */
const staying = { ...MOVES.find(m => m.name === 'haul rope')!, seconds: 299 / 30 }

function threeClip(skeleton: Skeleton, take: Take): AnimationClip {
  const n = skeleton.names.length
  const times = Array.from({ length: take.frames }, (_, f) => f / take.fps)
  const tracks = skeleton.names.map((name, j) => {
    const values = new Float32Array(4 * take.frames)
    for (let f = 0; f < take.frames; f++)
      values.set(take.rotations.subarray(4 * (f * n + j), 4 * (f * n + j) + 4), 4 * f)
    return new QuaternionKeyframeTrack(`.bones[${name.replace(/[:.]/g, '_')}].quaternion`, times, Array.from(values))
  })
  const hips = new Float32Array(3 * take.frames)
  for (let f = 0; f < take.frames; f++) hips.set(take.translations.subarray(3 * f * n, 3 * f * n + 3), 3 * f)
  return new AnimationClip(take.name, -1, [
    ...tracks,
    new VectorKeyframeTrack(`.bones[${skeleton.names[0].replace(/[:.]/g, '_')}].position`, times, Array.from(hips)),
  ])
}

interface Figure {
  readonly skeleton: Skeleton
  readonly surface: BodySurface
}

/** Oda, rigged by the program, with so many fingers a hand. */
async function oda(fingers: number): Promise<Figure> {
  const bytes = await writeGlb({ name: 'Oda', mesh: makeFigure(ODA, { vertices: 12_000 }).mesh })
  const derivation = createDerivation(async () => bytes)
  const fresh = emptyRecipe('Oda')
  const recipe = {
    ...fresh,
    body: { name: 'oda.glb', hash: hashBytes(bytes), size: bytes.length },
    bones: { ...fresh.bones, plan: { ...fresh.bones.plan, fingers: { left: fingers, right: fingers } } },
  }
  return {
    skeleton: (await derivation.get('rig', recipe)).skeleton,
    surface: await derivation.get('bodySurface', recipe),
  }
}

/** Frames a second of the library's helper, of ours, and of ours with feet held, hands kept, arms off the body, and everything measured. */
async function race(
  performer: { skeleton: Skeleton; take: Take },
  { skeleton: figure, surface }: Figure,
): Promise<object> {
  const plan = prepareTransfer(performer.skeleton, figure)
  const map = (await transfer(performer.skeleton, performer.take, figure)).roleMap
  const plain = (name: string): string => name.replace(/[:.]/g, '_')
  const names = Object.fromEntries(Object.entries(map).map(([own, theirs]) => [plain(own), plain(theirs)]))
  const source = threeMesh(performer.skeleton)
  const target = threeMesh(figure)
  const clip = threeClip(performer.skeleton, performer.take)
  const hip = plain(performer.skeleton.names[0])
  const { frames } = performer.take
  const best = { library: 0, ours: 0, corrected: 0 }
  for (let round = 0; round < 40; round++) {
    let start = performance.now()
    retargetClip(target, source, clip, { names, hip, fps: 30 } as never)
    best.library = Math.max(best.library, frames / ((performance.now() - start) / 1000))
    start = performance.now()
    for (let i = 0; i < 40; i++) await transfer(performer.skeleton, performer.take, figure, { plan })
    best.ours = Math.max(best.ours, (40 * frames) / ((performance.now() - start) / 1000))
    start = performance.now()
    for (let i = 0; i < 5; i++)
      await perform(performer.skeleton, performer.take, figure, {
        plan,
        surface,
      })
    best.corrected = Math.max(best.corrected, (5 * frames) / ((performance.now() - start) / 1000))
  }
  return {
    take: performer.take.name,
    joints: { performer: performer.skeleton.names.length, figure: figure.names.length },
    frames,
    framesPerSecond: {
      library: Math.round(best.library),
      transfer: Math.round(best.ours),
      withEveryCorrectionAndMeasured: Math.round(best.corrected),
    },
    ratio: {
      transfer: Math.round((10 * best.ours) / best.library) / 10,
      withEveryCorrectionAndMeasured: Math.round((10 * best.corrected) / best.library) / 10,
    },
  }
}
const south = record(move, SOUTH),
  along = record(move, NORTH_ALONG)
const rope = record(staying, SOUTH)
const [plain, fingered] = [await oda(0), await oda(5)]
const races = [await race(south, plain), await race(along, fingered), await race(rope, plain)]

// reading of recordings, the demo's longest with fingers
const recording = record(
  MOVES.find(m => m.name === 'point and talk')!,
  NORTH,
)
const file = writeBvh(recording.skeleton, recording.take)
const text = new TextDecoder().decode(file)
const reading = { library: Infinity, ours: Infinity }
for (let round = 0; round < 15; round++) {
  let start = performance.now()
  new BVHLoader().parse(text)
  reading.library = Math.min(reading.library, performance.now() - start)
  start = performance.now()
  readBvh(file)
  reading.ours = Math.min(reading.ours, performance.now() - start)
}
const report = {
  races,
  readBvhMilliseconds: {
    library: Math.round(10 * reading.library) / 10,
    ours: Math.round(10 * reading.ours) / 10,
    ratio: Math.round((10 * reading.library) / reading.ours) / 10,
  },
}
mkdirSync('bench/results', { recursive: true })
writeFileSync('bench/results/transfer.json', `${JSON.stringify(report, null, 2)}\n`)
console.log(JSON.stringify(report, null, 2))
