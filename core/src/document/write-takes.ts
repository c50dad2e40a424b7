import { shapeWeights } from '../face'
import { compose, decompose, multiply, quatAt, setQuat, setVec3, transformPoint, vec3At, type Mat4 } from '../math'
import type { Take } from '../motion'
import type { Skeleton } from '../skeleton'
import type { Draft } from './draft'
import type { FigureToWrite } from './figure'
import type { GltfAnimation } from './gltf'
import { isIdentity } from './place'
import { addTrack, frameTimes, withUsedSamplers } from './samplers'
import { takeExtras } from './take-extras'
import type { WrittenJoints } from './write-nodes'
import {
  bothShaped,
  driversTold,
  driveTake,
  targetNames,
  withFaceMotion,
  withShapeMotion,
  type ShapedNode,
} from './write-shapes'

/**
 * Writes takes in the figure's order: those that came with the file stay as they are where joints and keys do, and keep what
 * moves beside the joints otherwise. Animations that are no takes (of cameras, of morph shapes alone) go along behind them.
 */
export function writeTakes(
  draft: Draft,
  figure: FigureToWrite,
  joints: WrittenJoints,
  shaped: readonly ShapedNode[] = [],
): void {
  const { json } = draft
  const { source, skeleton } = figure
  const before = json.animations ?? []
  if (!skeleton) return
  const aside = (node: number): boolean => joints.driven.has(node) || joints.gone.has(node)
  const names = new Set(json.meshes?.flatMap(targetNames))
  const faces = figure.takes.map(take => shapeWeights(take.scalars, names, figure.expressions ?? {}))
  const takes = figure.takes.map((take, i): GltfAnimation => {
    const from = source.takeFrom[i] ?? -1
    if (from < 0) return animationOf(draft, figure, skeleton, take, joints, names, { channels: [], samplers: [] })
    const animation = before[source.way.takes[from]]
    if (joints.changed || !sameKeys(take, source.takes[from]))
      return animationOf(draft, figure, skeleton, take, joints, names, without(animation, aside), animation)
    const named = take.name === source.takes[from].name ? animation : { ...animation, name: take.name }
    // moments and curves that are not those it came with
    const { events, scalars } = source.takes[from]
    return take.events === events && take.scalars === scalars ? named : withExtras(named, take, names)
  })
  const came = driversTold(source.document.json)
  const shapes = figure.shapes ?? []
  const moved = bothShaped(came.nodes, came.drivers.length, shaped)
  const driven = takes.map((animation, i) => {
    const take = figure.takes[i]
    const from = source.takes[source.takeFrom[i] ?? -1]
    const told = withFaceMotion(draft, animation, shaped, take, from ? changedFace(faces[i], from) : faces[i])
    // a take that came with the file moves what it moved before
    return from
      ? withShapeMotion(
          draft,
          told,
          shaped,
          shapes.length > 0 ? driveTake(skeleton, take, [shapes], faces[i]) : undefined,
        )
      : withShapeMotion(draft, told, moved, driveTake(skeleton, take, [came.drivers, shapes], faces[i]))
  })
  const told = new Set(source.way.takes)
  const others = before
    .filter((_, i) => !told.has(i))
    // what moved joints that stand elsewhere now, or are gone, would move them wrongly
    .map(a => (joints.changed ? { ...a, ...without(a, aside) } : a))
    .map(a => withShapeMotion(draft, a, shaped))
  const all = [...driven, ...others].filter(a => a.channels.length > 0)
  if (all.length > 0) json.animations = all
  else delete json.animations
}

/** How shapes show that are told otherwise than the file told them. */
const changedFace = (face: ReadonlyMap<string, Float32Array>, { scalars = [] }: Take): Map<string, Float32Array> =>
  new Map([...face].filter(([name, values]) => scalars.find(s => s.name === name)?.values !== values))

const sameKeys = (a: Take, b: Take): boolean =>
  a.frames === b.frames && a.fps === b.fps && same(a.rotations, b.rotations) && same(a.translations, b.translations)

function same(a: Float32Array, b: Float32Array): boolean {
  if (a === b) return true
  if (a.length !== b.length) return false
  for (let i = 0; i < a.length; i++) if (Math.abs(a[i] - b[i]) > 1e-6) return false
  return true
}

/** An animation without the motion of some nodes; how morph shapes move stays. */
function without(
  { channels, samplers }: GltfAnimation,
  drop: (node: number) => boolean,
): Pick<GltfAnimation, 'channels' | 'samplers'> {
  const kept = channels.filter(c => c.target.path === 'weights' || c.target.node === undefined || !drop(c.target.node))
  return withUsedSamplers({ channels: kept, samplers })
}

/** An animation that tells the moments and curves of a take. */
function withExtras(
  { extras: before, ...animation }: GltfAnimation,
  take: Take,
  shapes: ReadonlySet<string>,
  sparse = false,
): GltfAnimation {
  const extras = takeExtras(take, before, { sparse, shapes })
  return { ...animation, ...(extras && { extras }) }
}

/** A take as linear keys at its rate: turns of every joint, shifts of those that travel. */
function animationOf(
  draft: Draft,
  { thinning }: Pick<FigureToWrite, 'thinning'>,
  skeleton: Skeleton,
  take: Take,
  joints: WrittenJoints,
  shapes: ReadonlySet<string>,
  beside: Pick<GltfAnimation, 'channels' | 'samplers'>,
  told: Partial<GltfAnimation> = {},
): GltfAnimation {
  const n = skeleton.names.length
  const { json } = draft
  const { frames } = take
  const out: GltfAnimation = {
    ...told,
    name: take.name,
    channels: [...beside.channels],
    samplers: [...beside.samplers],
  }
  const input = frameTimes(draft, frames, take.fps)
  const add = (joint: number, path: string, values: Float32Array, type: 'VEC3' | 'VEC4'): void =>
    addTrack(draft, out, input, { node: joints.nodes[joint], path }, values, type, thinning)
  for (let j = 0; j < n; j++) {
    const { turn, matrix } = partsOf(joints.fore[j])
    const rotations = new Float32Array(4 * frames)
    const translations = new Float32Array(3 * frames)
    const rest = vec3At(skeleton.restTranslations, j)
    let moves = false
    for (let f = 0; f < frames; f++) {
      const i = f * n + j
      let q = quatAt(take.rotations, i)
      if (turn) q = multiply(turn, q)
      // neighbouring keys on the same half of the sphere, so that readers interpolate the short way
      const d = f > 0 ? dot4(q, rotations, 4 * f - 4) : 1
      const l = Math.hypot(...q) * (d < 0 ? -1 : 1) || 1
      setQuat(rotations, f, [q[0] / l, q[1] / l, q[2] / l, q[3] / l])
      const t = vec3At(take.translations, i)
      if (t.some((v, k) => Math.abs(v - rest[k]) > 1e-7)) moves = true
      setVec3(translations, f, matrix ? transformPoint(matrix, t) : t)
    }
    add(j, 'rotation', rotations, 'VEC4')
    if (moves) add(j, 'translation', translations, 'VEC3')
  }
  // readers tell the rate by the keys, where they stand at every frame
  const even = out.samplers.some(s => json.accessors?.[s.input].count === frames)
  return take.events || take.scalars || told.extras || !even ? withExtras(out, take, shapes, !even) : out
}

const dot4 = (q: readonly number[], values: Float32Array, at: number): number =>
  q[0] * values[at] + q[1] * values[at + 1] + q[2] * values[at + 2] + q[3] * values[at + 3]

/** The turn of what lies before a joint's own values, and the whole of it; neither where it does nothing. */
function partsOf(fore: Mat4): { turn?: ReturnType<typeof decompose>['rotation']; matrix?: Mat4 } {
  if (isIdentity(fore)) return {}
  const { translation, rotation, scale } = decompose(fore)
  return { turn: rotation, matrix: compose(translation, rotation, scale) }
}
