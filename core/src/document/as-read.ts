import type { Mesh } from '../mesh'
import type { Take } from '../motion'
import type { Skeleton } from '../skeleton'
import type { Skin } from '../skin'
import type { SourceFigure } from './figure'
import type { GltfDocument, SourceWay } from './gltf'
import { PLAIN } from './place'

/** A figure that stands in its file's own space, nothing of its body or skeleton changed. */
export function sourceAsRead(read: {
  readonly document?: GltfDocument
  readonly way?: SourceWay
  readonly mesh?: Mesh
  readonly skeleton?: Skeleton
  readonly skin?: Skin
  readonly takes: readonly Take[]
}): SourceFigure | undefined {
  const { document, way, mesh, skeleton, skin, takes } = read
  if (!document || !way) return undefined
  return {
    document,
    way,
    mesh,
    skeleton,
    skin,
    takes,
    matrix: PLAIN,
    parts: mesh?.parts.map((_, from) => ({ from, mirrored: false })) ?? [],
    joints: skeleton?.names.map((_, j) => j) ?? [],
    roles: skeleton?.roles,
    takeFrom: takes.map((_, i) => i),
  }
}
