import { breather, type WorkOptions } from '../math'
import {
  adjacencyOf,
  pointGrid,
  vertexNormals,
  weldByPosition,
  weldedIndices,
  weldedPositions,
  type Adjacency,
  type Mesh,
  type PointGrid,
  type Weld,
} from '../mesh'
import type { Skeleton } from '../skeleton'
import { limitInfluences, pickRows, WORKING_INFLUENCES, type Skin } from '../skin'

/** A skin laid open for repair: vertices at one place are one, found by place, and hold more joints than are delivered. */
export interface Canvas {
  readonly mesh: Pick<Mesh, 'positions' | 'indices' | 'parts'>
  readonly skeleton: Skeleton
  /** Height of the figure, metres. */
  readonly size: number
  readonly weld: Weld
  /** 3·W places and normals of welded vertices. */
  readonly positions: Float32Array
  readonly normals: Float32Array
  /** 3·F triangles of welded vertices. */
  readonly indices: Uint32Array
  readonly adjacency: Adjacency
  readonly grid: PointGrid
  /** Influences of welded vertices; changed in place. */
  readonly skin: Skin
}

/** The parts of a canvas that depend on the body alone, so that many skins share them. */
export type CanvasGround = Omit<Canvas, 'skin' | 'skeleton'>

/** Lays a body open: welded, with its neighbours, normals and a grid of its places. */
export async function groundOf(
  mesh: Pick<Mesh, 'positions' | 'indices' | 'parts'>,
  size: number,
  weld = weldByPosition(mesh.positions),
  work: WorkOptions = {},
): Promise<CanvasGround> {
  const pulse = breather(work)
  await pulse(0)
  const positions = weldedPositions(mesh.positions, weld)
  const indices = weldedIndices(mesh.indices, weld)
  await pulse(0.2)
  const normals = vertexNormals(positions, indices)
  await pulse(0.5)
  const adjacency = adjacencyOf(weld.first.length, indices)
  await pulse(0.8)
  const grid = pointGrid(positions, 0.012 * size)
  return { mesh, size, weld, positions, indices, normals, adjacency, grid }
}

export function openCanvas(ground: CanvasGround, skeleton: Skeleton, skin: Skin): Canvas {
  return { ...ground, skeleton, skin: pickRows(skin, ground.weld.first, Math.max(WORKING_INFLUENCES, skin.influences)) }
}

/** The skin of all vertices, with as many joints a vertex as are asked for. */
export function closeCanvas(canvas: Canvas, influences: number, least = 0): Skin {
  return pickRows(limitInfluences(canvas.skin, influences, least), canvas.weld.of)
}
