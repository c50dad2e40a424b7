/**
 * Transfer against the 3D library's own clip retargeting, both on the same take and skeletons in one
 * run, taken in turn, best against best. `npm run bench`
 */
import { mkdirSync, writeFileSync } from 'node:fs'
import { AnimationClip, Bone, BufferGeometry, Float32BufferAttribute, QuaternionKeyframeTrack, Skeleton as ThreeSkeleton, SkinnedMesh, Uint16BufferAttribute, VectorKeyframeTrack } from 'three'
import { retargetClip } from 'three/examples/jsm/utils/SkeletonUtils.js'
import type { Take } from '@chiraxis/core/motion'
import type { Skeleton } from '@chiraxis/core/skeleton'
import { perform, prepareTransfer, transfer } from '@chiraxis/core/transfer'
import { MOVES, NORTH, record, SOUTH } from '@chiraxis/demo/takes'

const move = { ...MOVES.find(m => m.name === 'walk')!, seconds: 299 / 30 }
const performer = record(move, SOUTH)
const figure = record(move, NORTH).skeleton

function threeMesh(skeleton: Skeleton): SkinnedMesh {
  const bones = skeleton.names.map((name, j) => {
    const bone = new Bone()
    bone.name = name.replace(/[:.]/g, '_')
    bone.position.fromArray(skeleton.restTranslations, 3 * j)
    bone.quaternion.fromArray(skeleton.restRotations, 4 * j)
    return bone
  })
  skeleton.parents.forEach((p, j) => { if (p >= 0) bones[p].add(bones[j]) })
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new Float32BufferAttribute([0, 0, 0], 3))
  geometry.setAttribute('skinIndex', new Uint16BufferAttribute([0, 0, 0, 0], 4))
  geometry.setAttribute('skinWeight', new Float32BufferAttribute([1, 0, 0, 0], 4))
  const mesh = new SkinnedMesh(geometry)
  mesh.add(bones[0])
  mesh.bind(new ThreeSkeleton(bones))
  mesh.updateMatrixWorld(true)
  return mesh
}

function threeClip(skeleton: Skeleton, take: Take): AnimationClip {
  const n = skeleton.names.length
  const times = Array.from({ length: take.frames }, (_, f) => f / take.fps)
  const tracks = skeleton.names.map((name, j) => {
    const values = new Float32Array(4 * take.frames)
    for (let f = 0; f < take.frames; f++) values.set(take.rotations.subarray(4 * (f * n + j), 4 * (f * n + j) + 4), 4 * f)
    return new QuaternionKeyframeTrack(`.bones[${name.replace(/[:.]/g, '_')}].quaternion`, times, Array.from(values))
  })
  const hips = new Float32Array(3 * take.frames)
  for (let f = 0; f < take.frames; f++) hips.set(take.translations.subarray(3 * f * n, 3 * f * n + 3), 3 * f)
  return new AnimationClip('walk', -1, [...tracks, new VectorKeyframeTrack(`.bones[${skeleton.names[0].replace(/[:.]/g, '_')}].position`, times, Array.from(hips))])
}

const plan = prepareTransfer(performer.skeleton, figure)
const map = (await transfer(performer.skeleton, performer.take, figure)).roleMap
const names = Object.fromEntries(Object.entries(map).map(([own, theirs]) => [own.replace(/[:.]/g, '_'), theirs.replace(/[:.]/g, '_')]))
const source = threeMesh(performer.skeleton)
const target = threeMesh(figure)
const clip = threeClip(performer.skeleton, performer.take)

const frames = performer.take.frames
const best = { library: 0, ours: 0, corrected: 0 }
for (let round = 0; round < 15; round++) {
  let start = performance.now()
  retargetClip(target, source, clip, { names, hip: 'pelvis', fps: 30 } as never)
  best.library = Math.max(best.library, frames / ((performance.now() - start) / 1000))
  start = performance.now()
  for (let i = 0; i < 40; i++) await transfer(performer.skeleton, performer.take, figure, { plan })
  best.ours = Math.max(best.ours, (40 * frames) / ((performance.now() - start) / 1000))
  start = performance.now()
  for (let i = 0; i < 5; i++) await perform(performer.skeleton, performer.take, figure, { plan, ground: true })
  best.corrected = Math.max(best.corrected, (5 * frames) / ((performance.now() - start) / 1000))
}
const report = {
  joints: { performer: performer.skeleton.names.length, figure: figure.names.length }, frames,
  framesPerSecond: { library: Math.round(best.library), transfer: Math.round(best.ours), withFeetHeldAndMeasured: Math.round(best.corrected) },
  ratio: { transfer: Math.round((10 * best.ours) / best.library) / 10, withFeetHeldAndMeasured: Math.round((10 * best.corrected) / best.library) / 10 },
}
mkdirSync('bench/results', { recursive: true })
writeFileSync('bench/results/transfer.json', `${JSON.stringify(report, null, 2)}\n`)
console.log(JSON.stringify(report, null, 2))
