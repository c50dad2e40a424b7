import { breather, type Vec3, type WorkOptions } from '../math'
import { vertexNormals } from '../mesh'
import { softly, underDab, type CanvasGround } from '../paint'
import { posed, worldPose, atBind, type PoseTurn, type Skeleton, type WorldPose } from '../skeleton'
import { deform, deformKeepingVolume, jointMatrices, pickRows, undeformMoves, type Skin } from '../skin'
import type { Corrective, SculptStroke } from './corrective'

/** A shape laid open in its own pose; vertices at one place are one. */
export interface OpenShape {
  readonly ground: CanvasGround
  readonly skeleton: Skeleton
  /** Rows of welded vertices. */
  readonly skin: Skin
  readonly pose: WorldPose
  /** 12·J, see `jointMatrices`. */
  readonly matrices: Float32Array
  /** 3·W where the plain skin is, its normals, and where the shape has it; the last is changed in place. */
  readonly plain: Float32Array
  readonly normals: Float32Array
  readonly places: Float32Array
}

/** What a dab at full strength pushes the middle of the brush by, as a share of its radius. */
const PUSH = 0.08

/** The joints of a pose in the world, all others as bound. */
export const poseOf = (skeleton: Skeleton, turns: readonly PoseTurn[]): WorldPose => {
  const rest = atBind(skeleton)
  return worldPose(rest, rest.restTranslations, posed(rest, turns))
}

/**
 * Lays a shape open before any stroke: the plain skin in its pose, and as much of the volume-keeping blend as is asked for.
 * @param skin rows of all vertices
 */
export function openShape(
  ground: CanvasGround,
  skeleton: Skeleton,
  skin: Skin,
  { turns, keep }: Pick<Corrective, 'turns' | 'keep'>,
): OpenShape {
  const rows = pickRows(skin, ground.weld.first)
  const pose = poseOf(skeleton, turns)
  const plain = deform(ground.positions, skeleton, rows, pose)
  const places = plain.slice()
  if (keep > 0) {
    const kept = deformKeepingVolume(ground.positions, skeleton, rows, pose)
    for (let i = 0; i < places.length; i++) places[i] += keep * (kept[i] - plain[i])
  }
  const matrices = jointMatrices(skeleton, pose)
  return { ground, skeleton, skin: rows, pose, matrices, plain, normals: vertexNormals(plain, ground.indices), places }
}

/**
 * Lays one dab on an open shape, and its mirror image about the midplane where the stroke is mirrored.
 * @returns the welded vertices that were moved
 */
export function sculptDab(shape: OpenShape, stroke: SculptStroke, dab: SculptStroke['dabs'][number]): Set<number> {
  const { ground, places, plain, normals } = shape
  const { size } = ground
  const reach = { radius: stroke.radius * size, falloff: stroke.falloff, through: stroke.through }
  const shares = new Map<number, number>()
  for (const s of stroke.mirror ? [1, -1] : [1]) {
    const place: Vec3 = [s * dab[0] * size, dab[1] * size, dab[2] * size]
    underDab(ground, reach, place, [s * dab[3], dab[4], dab[5]], (v, share) =>
      shares.set(v, Math.max(softly(share), shares.get(v) ?? 0)),
    )
  }
  const strength = stroke.strength * dab[6]
  if (stroke.tool === 'smooth') return even(shape, shares, strength)
  const push = (stroke.tool === 'sink' ? -PUSH : PUSH) * reach.radius * strength
  for (const [v, share] of shares)
    for (let k = 3 * v; k < 3 * v + 3; k++)
      if (stroke.tool === 'clear') places[k] += strength * share * (plain[k] - places[k])
      else places[k] += push * share * normals[k]
  return new Set(shares.keys())
}

/**
 * Draws vertices to where their neighbours would have them: the mean of these, and from there as far as the body itself stands
 * off it, turned along (after Mancewicz, Derksen, Rijpkema and Wilson 2014, "Delta mush: smoothing deformations while
 * preserving detail"). What the pose did not bend stays where it is.
 */
function even(
  { ground, skin, matrices: m, places }: OpenShape,
  shares: ReadonlyMap<number, number>,
  strength: number,
): Set<number> {
  const { starts, neighbours } = ground.adjacency
  const { influences: k, joints, weights } = skin
  const moved = new Map<number, Vec3>()
  for (const [v, share] of shares) {
    const count = starts[v + 1] - starts[v]
    if (count === 0) continue
    const to: Vec3 = [0, 0, 0]
    const own: Vec3 = [0, 1, 2].map(c => ground.positions[3 * v + c]) as Vec3
    for (let e = starts[v]; e < starts[v + 1]; e++)
      for (let c = 0; c < 3; c++) {
        to[c] += places[3 * neighbours[e] + c] / count
        own[c] -= ground.positions[3 * neighbours[e] + c] / count
      }
    for (let i = v * k; i < v * k + k; i++) {
      const j = 12 * joints[i]
      for (let c = 0; c < 3; c++)
        to[c] += weights[i] * (m[j + 4 * c] * own[0] + m[j + 4 * c + 1] * own[1] + m[j + 4 * c + 2] * own[2])
    }
    moved.set(v, to.map((x, c) => places[3 * v + c] + strength * share * (x - places[3 * v + c])) as Vec3)
  }
  for (const [v, to] of moved) places.set(to, 3 * v)
  return new Set(moved.keys())
}

/** What moves less than this share of the figure's size is not moved. */
const LEAST_MOVE = 2e-6

/**
 * Closes a shape: how far every vertex goes as bound.
 * @returns 3·V metres, zero where nothing is shaped
 */
export function closeShape({ ground, skeleton, skin, pose, plain, places }: OpenShape): Float32Array {
  const moves = new Float32Array(places.length)
  const least = LEAST_MOVE * ground.size
  for (let v = 0; v < places.length / 3; v++) {
    const d = [0, 1, 2].map(k => places[3 * v + k] - plain[3 * v + k])
    if (Math.hypot(...d) > least) moves.set(d, 3 * v)
  }
  const own = undeformMoves(skeleton, skin, pose, moves)
  const { of } = ground.weld
  const out = new Float32Array(3 * of.length)
  for (let v = 0; v < of.length; v++) for (let k = 0; k < 3; k++) out[3 * v + k] = own[3 * of[v] + k]
  return out
}

/** The whole way from a record to how far every vertex goes as bound, 3·V metres. */
export async function shapeFor(
  ground: CanvasGround,
  skeleton: Skeleton,
  skin: Skin,
  corrective: Pick<Corrective, 'turns' | 'keep' | 'strokes'>,
  work: WorkOptions = {},
): Promise<Float32Array> {
  const pulse = breather(work)
  await pulse(0)
  const shape = openShape(ground, skeleton, skin, corrective)
  for (const [i, stroke] of corrective.strokes.entries()) {
    for (const dab of stroke.dabs) {
      sculptDab(shape, stroke, dab)
      await pulse(0.2 + (0.7 * i) / corrective.strokes.length)
    }
  }
  await pulse(0.9)
  return closeShape(shape)
}
