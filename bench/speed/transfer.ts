import { AnimationClip, QuaternionKeyframeTrack, VectorKeyframeTrack } from 'three'
import { retargetClip } from 'three/examples/jsm/utils/SkeletonUtils.js'
import { writeGlb } from '@chiraxis/core/formats'
import type { Take } from '@chiraxis/core/motion'
import { emptyRecipe, hashBytes } from '@chiraxis/core/recipe'
import { createDerivation } from '@chiraxis/core/steps'
import type { Skeleton } from '@chiraxis/core/skeleton'
import type { BodySurface } from '@chiraxis/core/surface'
import { perform } from '@chiraxis/core/perform'
import { prepareTransfer, transfer } from '@chiraxis/core/retarget'
import { makeFigure, ODA } from '@chiraxis/demo/figures'
import { MOVES, NORTH_ALONG, record, SOUTH } from '@chiraxis/demo/takes'
import { inTurn, ms, table } from './machine'
import { threeMesh } from './three-mesh'

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

/** Strands of joints on the head, as hair has: `count` joints more, which no role tells of. */
function withStrands(skeleton: Skeleton, count: number): Skeleton {
  const n = skeleton.names.length
  const all = n + count
  const head = skeleton.roles.indexOf('head')
  const grown = <T extends Float32Array | Int16Array>(list: T, room: T): T => (room.set(list as never), room)
  const translations = grown(skeleton.restTranslations, new Float32Array(3 * all))
  const rotations = grown(skeleton.restRotations, new Float32Array(4 * all))
  const parents = grown(skeleton.parents, new Int16Array(all))
  const tips = skeleton.tips && grown(skeleton.tips, new Float32Array(3 * all))
  for (let j = n; j < all; j++) {
    parents[j] = (j - n) % 6 === 0 ? head : j - 1
    translations[3 * j + 1] = 0.03
    rotations[4 * j + 3] = 1
    if (tips) tips[3 * j + 1] = 0.03
  }
  const extra = Array.from({ length: count }, (_, i) => `strand_${Math.floor(i / 6)}_${i % 6}`)
  return {
    ...skeleton,
    names: [...skeleton.names, ...extra],
    roles: [...skeleton.roles, ...extra.map(() => undefined)],
    ids: skeleton.ids && [...skeleton.ids, ...extra],
    parents,
    restTranslations: translations,
    restRotations: rotations,
    tips,
  }
}

/** Rounds that take about as long for every length. */
const rounds = (frames: number): number => Math.min(20, Math.max(2, Math.ceil(4000 / frames)))

/** Frames a second of the library's helper, of ours, and of ours with feet held, hands kept, arms off the body, and everything measured. */
async function race(
  performer: { skeleton: Skeleton; take: Take },
  { skeleton: figure, surface }: Figure,
): Promise<(string | number)[]> {
  const plan = prepareTransfer(performer.skeleton, figure)
  const map = (await transfer(performer.skeleton, performer.take, figure)).roleMap
  const plain = (name: string): string => name.replace(/[:.]/g, '_')
  const names = Object.fromEntries(Object.entries(map).map(([own, theirs]) => [plain(own), plain(theirs)]))
  const source = threeMesh(performer.skeleton)
  const target = threeMesh(figure)
  const clip = threeClip(performer.skeleton, performer.take)
  const hip = plain(performer.skeleton.names[0])
  const { frames } = performer.take
  const again = Math.max(1, Math.ceil(2000 / frames))
  const best = await inTurn(rounds(frames), {
    // a minute of it is enough to know it: it is slow, and grows with the frames
    library: () => void (frames <= 3600 && retargetClip(target, source, clip, { names, hip, fps: 30 } as never)),
    transfer: async () => {
      const from = performance.now()
      for (let i = 0; i < again; i++) await transfer(performer.skeleton, performer.take, figure, { plan })
      return (performance.now() - from) / again
    },
    corrected: async () => void (await perform(performer.skeleton, performer.take, figure, { plan, surface })),
  })
  const perSecond = (time: number): string => Math.round((1000 * frames) / time).toString()
  const known = frames <= 3600
  return [
    performer.take.name,
    performer.skeleton.names.length,
    figure.names.length,
    frames,
    known ? perSecond(best.library) : '–',
    perSecond(best.transfer),
    perSecond(best.corrected),
    known ? (best.library / best.transfer).toFixed(0) : '–',
    known ? (best.library / best.corrected).toFixed(1) : '–',
    ms(best.corrected),
  ]
}

/** A take of so many frames at 30 a second. */
const move = (name: string, frames: number): (typeof MOVES)[number] => ({
  ...MOVES.find(m => m.name === name)!,
  seconds: (frames - 1) / 30,
})

/** Transfer against the 3D library's own clip retargeting, over joints and over frames. */
export async function transfers(): Promise<string> {
  const [plain, fingered] = [await oda(0), await oda(5)]
  const long = { ...fingered, skeleton: withStrands(fingered.skeleton, 200 - fingered.skeleton.names.length) }
  const rows = [
    await race(record(move('walk', 1), SOUTH), plain),
    await race(record(move('walk', 300), SOUTH), plain),
    await race(record(move('haul rope', 300), SOUTH), plain),
    await race(record(move('walk', 300), NORTH_ALONG), fingered),
    await race(record(move('walk', 300), NORTH_ALONG), long),
    await race(record(move('walk', 3600), SOUTH), plain),
    await race(record(move('walk', 36_000), SOUTH), plain),
  ]
  return [
    '## Transfer\n',
    'Frames a second. With everything: feet held, hands kept, arms off the body, and all measures.\n',
    table(
      [
        'take',
        'joints of the performer',
        'joints of the figure',
        'frames',
        'library',
        'transfer',
        'with everything',
        'transfer / library',
        'with everything / library',
        'with everything, ms',
      ],
      rows,
    ),
  ].join('\n')
}
