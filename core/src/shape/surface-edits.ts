import { distance, type Vec3, type WorkOptions } from '../math'
import { boundsOf, type Mesh } from '../mesh'
import { findFaceFaults, mendFaces, type FaceFault, type FaceFaultKind } from './face-faults'
import { fillRims, findRims, weldRims, type Rim } from './rims'

/** How a body's surface was mended by hand. Places are in the file's own space. */
export type SurfaceEdit =
  | { readonly kind: 'fill'; readonly at: Vec3 }
  | { readonly kind: 'fill-small'; readonly edges: number }
  | { readonly kind: 'weld'; readonly within: number }
  /** A patch turned round, a face without area taken out, faces that lie there twice taken out. */
  | { readonly kind: FaceFaultKind; readonly at: Vec3 }

/** Everything about a body's surface that is stepped through one by one. */
export interface SurfaceFaults {
  /** Open rims, the shortest first. */
  readonly rims: readonly Rim[]
  /** Faces turned, empty or crowded, the largest patches first. */
  readonly faces: readonly FaceFault[]
}

type PlacedEdit = Extract<SurfaceEdit, { at: Vec3 }>
const isPlaced = (edit: SurfaceEdit): edit is PlacedEdit => 'at' in edit

/** A fault is the one that was meant when it is nearer than this share of the body's size. */
const NEAR = 0.01

/**
 * Makes the edits one after another; those of one kind that follow each other read the surface once.
 * @returns the body, and those that found nothing to mend
 */
export async function applySurfaceEdits(
  mesh: Mesh,
  edits: readonly SurfaceEdit[],
  work: WorkOptions = {},
): Promise<{ mesh: Mesh; lost: SurfaceEdit[] }> {
  let current = mesh
  const lost: SurfaceEdit[] = []
  const { min, max } = boundsOf(mesh.positions)
  const size = Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2])
  for (let i = 0; i < edits.length;) {
    const edit = edits[i]
    let next = current
    if (isPlaced(edit)) {
      const run: PlacedEdit[] = []
      for (; i < edits.length; i++) {
        const other = edits[i]
        if (!isPlaced(other) || other.kind !== edit.kind) break
        run.push(other)
      }
      const { mesh: mended, missed } = await mendPlaces(current, edit.kind, run, NEAR * size, work)
      current = mended
      lost.push(...missed)
      continue
    }
    const rims = await findRims(current, work)
    if (edit.kind === 'weld') next = weldRims(current, rims, edit.within * size)
    else
      next = fillRims(
        current,
        rims.filter(r => r.corners.length <= edit.edges),
      )
    if (next === current) lost.push(edit)
    current = next
    i++
  }
  return { mesh: current, lost }
}

/** Mends faults of one kind by where they are; each edit takes the nearest that no other took. */
async function mendPlaces(
  mesh: Mesh,
  kind: PlacedEdit['kind'],
  edits: readonly PlacedEdit[],
  near: number,
  work: WorkOptions,
): Promise<{ mesh: Mesh; missed: PlacedEdit[] }> {
  const missed: PlacedEdit[] = []
  const chosen = <T extends { readonly centre: Vec3 }>(faults: readonly T[]): T[] => {
    const left = new Set(faults)
    return edits.flatMap(edit => {
      let best: T | undefined
      for (const f of left)
        if (distance(f.centre, edit.at) < Math.min(near, best ? distance(best.centre, edit.at) : Infinity)) best = f
      if (!best) {
        missed.push(edit)
        return []
      }
      left.delete(best)
      return [best]
    })
  }
  if (kind === 'fill') {
    const rims = chosen((await findRims(mesh, work)).filter(r => r.fillable))
    return { mesh: fillRims(mesh, rims), missed }
  }
  const faults = chosen((await findFaceFaults(mesh, work)).filter(f => f.kind === kind && f.mends.length > 0))
  const faces = new Set(faults.flatMap(f => [...f.mends]))
  const has = (f: number): boolean => faces.has(f)
  const none = (): boolean => false
  return { mesh: kind === 'turned' ? mendFaces(mesh, none, has) : mendFaces(mesh, has, none), missed }
}
