import { invertAffine, transformPoint, type Vec3 } from '@chiraxis/core/math'
import type { Recipe } from '@chiraxis/core/recipe'
import type { FaceFaultKind, SurfaceEdit } from '@chiraxis/core/shape'

export type FaultKind = 'rim' | FaceFaultKind

/** What is wrong at one place of the surface, as it is stepped through. */
export interface Fault {
  kind: FaultKind
  centre: Vec3
  /** Corners of closed runs to draw around it. */
  outline: readonly (readonly number[])[]
  /** Edges around a rim, faces of a patch. */
  count: number
  /** Metres around a rim. */
  length?: number
  mends: boolean
}

/** More outlines than this are not drawn. */
const MOST_DRAWN = 400

/** Faults of the surface, of one kind at a time, and what mends them. */
export function useFaults() {
  const view = useView()
  const derived = useDerived()
  const project = useProject()
  const byKind = computed<Record<FaultKind, readonly Fault[]>>(() => {
    const { rims, faces } = derived.faults
    const indices = derived.shape?.mesh.indices
    const ofFaces = (kind: FaceFaultKind): Fault[] =>
      faces
        .filter(f => f.kind === kind)
        .map(f => ({
          kind,
          centre: f.centre,
          outline: indices ? Array.from(f.faces.subarray(0, MOST_DRAWN), i => [...indices.subarray(3 * i, 3 * i + 3)]) : [], // prettier-ignore
          count: kind === 'crowded' ? f.mends.length : f.faces.length,
          mends: f.mends.length > 0,
        }))
    return {
      rim: rims.map(r => ({ kind: 'rim', centre: r.centre, outline: [[...r.corners]], count: r.corners.length, length: r.length, mends: r.fillable })), // prettier-ignore
      turned: ofFaces('turned'),
      empty: ofFaces('empty'),
      crowded: ofFaces('crowded'),
    }
  })
  const kinds = computed(() => (Object.keys(byKind.value) as FaultKind[]).filter(k => byKind.value[k].length > 0))
  const kind = computed({
    get: () => (kinds.value.includes(view.faultKind) ? view.faultKind : (kinds.value[0] ?? 'rim')),
    set: k => {
      view.faultKind = k
      view.fault = 0
    },
  })
  const list = computed(() => byKind.value[kind.value])
  const at = computed(() => Math.min(view.fault, Math.max(0, list.value.length - 1)))
  const fault = computed<Fault | undefined>(() => list.value[at.value])
  const step = (by: number): void => {
    view.fault = (at.value + by + list.value.length) % list.value.length
  }
  const surface = (name: string, edits: readonly SurfaceEdit[]): void =>
    project.change(name, { ...project.recipe, surface: [...project.recipe.surface, ...edits] as Recipe['surface'] })
  const edit = (f: Fault): SurfaceEdit | undefined => {
    const matrix = derived.shape?.straightened.matrix
    const back = matrix && invertAffine(matrix)
    if (!back) return undefined
    const place = transformPoint(back, f.centre)
    return f.kind === 'rim' ? { kind: 'fill', at: place } : { kind: f.kind, at: place }
  }
  /** Mends faults by their places, as one step. */
  const mend = (name: string, which: readonly Fault[]): void => {
    const edits = which.flatMap(f => edit(f) ?? [])
    if (edits.length > 0) surface(name, edits)
  }
  return { byKind, kinds, kind, list, at, fault, step, surface, mend }
}
