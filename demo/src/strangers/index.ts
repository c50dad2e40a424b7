/**
 * Figures of all kinds, made another way than the demo figures: lofted pieces over joints that are set first, from
 * published proportions. They are what automatic results are judged on, with their true joints beside them.
 */
import { seededRandom, type Vec3 } from '@chiraxis/core/math'
import { boundsOf, joinMeshes, vertexNormals, type Mesh } from '@chiraxis/core/mesh'
import { BUILD_KINDS, drawBuild, type Build, type BuildKind } from './build'
import { DRESS_KINDS, dressOf, type DressKind } from './dress'
import { fingerLines, fleshOf } from './flesh'
import { pose } from './joints'
import { GRAINS, MAKE_KINDS, oneSurface, type MakeKind } from './make'
import { drawStance, STANCE_KINDS, type StanceKind } from './stance'

export { asItComes, wrongStance, type WrongStance } from './measure'
export { trueSkin, type Nature, type TrueSkin } from './true-skin'
export { BEAST_KINDS, makeBeast, type Beast, type BeastKind } from './beast'
export { BUILD_KINDS, DRESS_KINDS, MAKE_KINDS, STANCE_KINDS }
export type { BuildKind, DressKind, MakeKind, StanceKind }

/** A made figure and what is true of it. */
export interface Stranger {
  readonly build: BuildKind
  readonly stance: StanceKind
  readonly dress: DressKind
  readonly make: MakeKind
  readonly mesh: Mesh
  /** True joints by VRM role, `…End` for tips, metres. */
  readonly joints: Readonly<Record<string, Vec3>>
  /** How its hands are made, and where the middle of every finger's tip is: the thumb first. */
  readonly hands: Build['hands']
  readonly fingerTips: Readonly<Record<'left' | 'right', readonly Vec3[]>>
  /** Of all that is there, horns and hats too, metres. */
  readonly height: number
}

type Wanted = Partial<Pick<Stranger, 'build' | 'stance' | 'dress' | 'make'>>

/** Makes the stranger of a seed: the same one every time. What is not asked for is drawn. */
export async function makeStranger(seed: number, wanted: Wanted = {}): Promise<Stranger> {
  const random = seededRandom(seed * 6271 + 11)
  const one = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]
  const kinds = {
    build: one(BUILD_KINDS),
    stance: one(STANCE_KINDS),
    dress: one(DRESS_KINDS),
    make: one(MAKE_KINDS),
    ...wanted,
  }
  const build = drawBuild(kinds.build, random)
  const stance = drawStance(kinds.stance, random)
  // one that is bent already leans no further
  const posed = pose(build, { ...stance, lean: Math.min(stance.lean, Math.max(0, 36 - build.hunch)) })
  const grain = GRAINS[kinds.make]
  let mesh = joinMeshes([...fleshOf(build, posed, grain), ...dressOf(kinds.dress, build, posed, grain, random)])
  if (kinds.make === 'one surface' || kinds.make === 'scan') mesh = await oneSurface(mesh, kinds.make === 'scan', seed)
  const ground = boundsOf(mesh.positions).min[1]
  const positions = mesh.positions.slice()
  for (let i = 1; i < positions.length; i += 3) positions[i] -= ground
  const joints: Record<string, Vec3> = {}
  for (const [name, at] of Object.entries(posed.joints)) joints[name] = [at[0], at[1] - ground, at[2]]
  const tips = (side: 'left' | 'right'): Vec3[] =>
    fingerLines(build, posed, side)
      .map(line => line[line.length - 1])
      .map(([x, y, z]): Vec3 => [x, y - ground, z])
  return {
    ...kinds,
    mesh: { ...mesh, positions, normals: vertexNormals(positions, mesh.indices) },
    joints,
    hands: build.hands,
    fingerTips: { left: tips('left'), right: tips('right') },
    height: boundsOf(positions).max[1],
  }
}
