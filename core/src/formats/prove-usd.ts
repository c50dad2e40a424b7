import { angleOf, quatAt, type Quat } from '../math'
import { bindPose, type Skeleton } from '../skeleton'
import type { FileAxes } from './convert'
import type { GltfContent } from './gltf-write'
import { keptBack } from './kept-back'
import { sizeOf } from './size-of'
import { flatNumbers, flatWords, primsOf, readUsdText, type UsdPrim } from './usd-text'
import { jointPaths } from './write-usd'

/** What reading back a file of a surface, a skeleton and takes showed, whatever its format. */
export interface SceneProof {
  /** Largest distance of a point or a joint from where it was to be, metres. */
  readonly maxPositionError: number
  readonly maxPositionErrorShare: number
  readonly maxRotationErrorDegrees?: number
  readonly maxWeightError?: number
  readonly notes?: readonly string[]
  readonly bytes: number
}

const FARTHEST = 1e-5,
  MOST_TURNED = 0.01,
  MOST_WEIGHT = 1e-6

/**
 * Reads USD text back with a parser of its own and compares joints at rest and as bound, every take in every frame, points,
 * corners, texture coordinates, weights and blend shapes.
 * @param content as it was written, in the file's axes and unit
 * @throws ChiraxisError `unproven`
 */
export function proveUsd(bytes: Uint8Array, content: GltfContent, axes: Pick<FileAxes, 'up' | 'unit'>): SceneProof {
  const { meta, prims } = readUsdText(new TextDecoder().decode(bytes))
  if (Math.abs(Number(meta.get('metersPerUnit')) - axes.unit) > 1e-9) throw keptBack('it tells another unit')
  if (String(meta.get('upAxis')).toLowerCase() !== axes.up[1]) throw keptBack('it tells another axis for up')
  const { mesh, skeleton, skin, takes = [] } = content
  const size = sizeOf(mesh?.positions ?? skeletonPlaces(skeleton))
  const most = { place: 0, turn: 0, weight: 0 }
  const near = (found: ArrayLike<number>, told: ArrayLike<number>, what: string): void => {
    if (found.length !== told.length) throw keptBack(`${what}: ${found.length} numbers of ${told.length} are there`)
    for (let i = 0; i < told.length; i++) most.place = Math.max(most.place, Math.abs(found[i] - told[i]))
  }
  if (skeleton) {
    const [own] = primsOf(prims, 'Skeleton')
    if (!own) throw keptBack('it holds no skeleton')
    const paths = jointPaths(skeleton)
    if (flatWords(own.attributes.get('joints')).join() !== paths.join()) throw keptBack('its joints are others')
    proveBind(own, skeleton, near)
    const animations = primsOf(prims, 'SkelAnimation')
    if (animations.length !== takes.length) throw keptBack(`${animations.length} of ${takes.length} takes are there`)
    takes.forEach((take, i) => {
      const places = samplesOf(animations[i], 'translations.timeSamples')
      const turns = samplesOf(animations[i], 'rotations.timeSamples')
      const J = skeleton.names.length
      if (places.size !== take.frames || turns.size !== take.frames) throw keptBack(`the take ${take.name} lost frames`)
      for (let f = 0; f < take.frames; f++) {
        near(places.get(f) ?? [], take.translations.subarray(3 * J * f, 3 * J * (f + 1)), `the take ${take.name}`)
        const q = turns.get(f) ?? []
        for (let j = 0; j < J; j++) {
          const found: Quat = [q[4 * j + 1], q[4 * j + 2], q[4 * j + 3], q[4 * j]]
          most.turn = Math.max(most.turn, angleOf(found, quatAt(take.rotations, f * J + j)))
        }
      }
    })
  }
  if (mesh) {
    const written = mesh.parts.filter(p => p.count > 0)
    const meshes = primsOf(prims, 'Mesh')
    if (meshes.length !== written.length) throw keptBack(`${meshes.length} of ${written.length} pieces are there`)
    written.forEach((part, i) => {
      const { attributes, children } = meshes[i]
      const points = flatNumbers(attributes.get('points'))
      const corners = flatNumbers(attributes.get('faceVertexIndices'))
      if (corners.length !== part.count) throw keptBack(`the piece ${part.name} lost triangles`)
      const st = flatNumbers(attributes.get('primvars:st'))
      const joints = flatNumbers(attributes.get('primvars:skel:jointIndices'))
      const weights = flatNumbers(attributes.get('primvars:skel:jointWeights'))
      const shapes = children.filter(c => c.type === 'BlendShape').map(c => flatNumbers(c.attributes.get('offsets')))
      if (shapes.length !== (mesh.morphs?.length ?? 0)) throw keptBack(`the piece ${part.name} lost blend shapes`)
      corners.forEach((c, at) => {
        const v = mesh.indices[part.start + at]
        for (let k = 0; k < 3; k++) {
          most.place = Math.max(most.place, off(points[3 * c + k], mesh.positions[3 * v + k]))
          shapes.forEach(
            (s, m) => (most.place = Math.max(most.place, off(s[3 * c + k], mesh.morphs![m].offsets[3 * v + k]))),
          )
        }
        if (mesh.uvs)
          for (let k = 0; k < 2; k++) {
            const told = k === 1 ? 1 - mesh.uvs[2 * v + 1] : mesh.uvs[2 * v]
            if (!(Math.abs(st[2 * c + k] - told) < 1e-5 * Math.max(1, Math.abs(told))))
              throw keptBack(`texture coordinates of ${part.name} are others`)
          }
        if (!skin) return
        const K = skin.influences
        for (let k = 0; k < K; k++) {
          const same = joints[K * c + k] === skin.joints[K * v + k]
          most.weight = Math.max(most.weight, same ? off(weights[K * c + k], skin.weights[K * v + k]) : 1)
        }
      })
    })
  }
  const turned = (most.turn * 180) / Math.PI
  if (!(most.place / size < FARTHEST))
    throw keptBack(`something lies ${(most.place * axes.unit).toPrecision(2)} m from where it should`)
  if (!(turned < MOST_TURNED))
    throw keptBack(`a joint is turned ${turned.toPrecision(2)} degrees from how it should be`)
  if (!(most.weight < MOST_WEIGHT)) throw keptBack(`a weight is ${most.weight.toPrecision(2)} off`)
  return {
    maxPositionError: most.place * axes.unit,
    maxPositionErrorShare: most.place / size,
    ...(skeleton && { maxRotationErrorDegrees: turned }),
    ...(skin && { maxWeightError: most.weight }),
    bytes: bytes.length,
  }
}

const off = (a: number | undefined, b: number): number => (a === undefined ? Infinity : Math.abs(a - b))

function skeletonPlaces(skeleton: Skeleton | undefined): ArrayLike<number> {
  return skeleton ? bindPose(skeleton).positions : []
}

/** Bind and rest matrices against the poses they tell. */
function proveBind(
  { attributes }: UsdPrim,
  skeleton: Skeleton,
  near: (found: ArrayLike<number>, told: ArrayLike<number>, what: string) => void,
): void {
  const bound = bindPose(skeleton)
  const J = skeleton.names.length
  const bind = flatNumbers(attributes.get('bindTransforms'))
  const rest = flatNumbers(attributes.get('restTransforms'))
  if (bind.length !== 16 * J || rest.length !== 16 * J) throw keptBack('its poses have other joints')
  const place = (all: number[], j: number): number[] => all.slice(16 * j + 12, 16 * j + 15)
  for (let j = 0; j < J; j++) {
    near(place(bind, j), [...bound.positions].slice(3 * j, 3 * j + 3), 'the bind pose')
    near(place(rest, j), [...skeleton.restTranslations.subarray(3 * j, 3 * j + 3)], 'the rest pose')
    // the first axis of the joint, as its row
    const [x, y, z, w] = quatAt(bound.rotations, j)
    const axis = [1 - 2 * (y * y + z * z), 2 * (x * y + z * w), 2 * (x * z - y * w)]
    axis.forEach((v, k) => {
      if (!(Math.abs(bind[16 * j + k] - v) < 1e-4)) throw keptBack('a joint is bound otherwise')
    })
  }
}

function samplesOf({ attributes, name }: UsdPrim, what: string): Map<number, number[]> {
  const told = attributes.get(what)
  if (typeof told !== 'object' || !('samples' in told)) throw keptBack(`the take ${name} has no frames`)
  return new Map([...told.samples].map(([f, v]) => [f, flatNumbers(v)]))
}
