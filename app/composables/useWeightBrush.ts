import {
  brushFor,
  layDab,
  skinEditLabel,
  type Brush,
  type Canvas,
  type SkinEdit,
  type Stroke,
} from '@chiraxis/core/paint'
import { jointRef } from '@chiraxis/core/skeleton'
import { roleLabel } from '@chiraxis/core/body'
import { limitedShare } from '@chiraxis/core/skin'
import type { SurfaceHit } from '~/stage/picker'
import { layOpen, membersOf, type LaidOpen } from './useGround'
import { useDerived } from '~/stores/derived'
import { useProject } from '~/stores/project'
import { isPointing, useView } from '~/stores/view'

const canvas = shallowRef<Canvas>()
let laid: LaidOpen | undefined
let stroke: { brush: Brush; dabs: Stroke['dabs']; last: SurfaceHit } | undefined
/** Grows with every change of the open canvas, so that tables follow. */
const touched = ref(0)

/** Dabs that one record may hold. */
const MOST_DABS = 5000
/** Dabs lie this share of the radius apart. */
export const SPACING = 0.3

/** Painting on the skin: the brush works on an open copy at once; the finished stroke becomes a record of the recipe. */
export function useWeightBrush() {
  const derived = useDerived()
  const project = useProject()
  const view = useView()

  /** Lays the skin open as it is worked out now. */
  function open(): void {
    const { shape, skeleton, openSkin } = derived
    if (stroke) return
    if (!shape || !skeleton || !openSkin) {
      canvas.value = undefined
      return
    }
    laid = layOpen(shape.mesh, shape.straightened.height, open)
    if (!laid) {
      canvas.value = undefined
      return
    }
    const { influences, joints, weights } = openSkin
    if (joints.length !== laid.ground.weld.first.length * influences) {
      canvas.value = undefined
      return
    }
    // painted on without a limit of influences, just as the record will be made again
    const skin = { influences, joints: joints.slice(), weights: weights.slice() }
    canvas.value = { ...laid.ground, skeleton, skin }
    touched.value++
  }

  const nameOf = (ref: string): string => (derived.skeleton?.roles.includes(ref) ? roleLabel(ref).toLowerCase() : ref)
  const joint = (): string => jointRef(derived.skeleton!, derived.joint)
  const size = (): number => derived.shape?.straightened.height ?? 1

  /** The pieces that repairs keep to, where some are chosen that this body has. */
  function onPieces(): string[] | undefined {
    const has = new Set(derived.shape?.mesh.parts.map(p => p.name))
    const chosen = view.paintedPieces.filter(n => has.has(n))
    return chosen.length > 0 ? chosen : undefined
  }

  /** Adds repairs to the recipe as one change. */
  function add(edits: readonly SkinEdit[], name = skinEditLabel(edits[0]!, nameOf)): void {
    const recipe = project.recipe
    project.change(name, { ...recipe, skin: { ...recipe.skin, edits: [...recipe.skin.edits, ...edits] } })
  }
  function without(index: number): void {
    const recipe = project.recipe
    const edit = recipe.skin.edits[index]
    if (edit)
      project.change(`Take back: ${skinEditLabel(edit as SkinEdit, nameOf)}`, {
        ...recipe,
        skin: { ...recipe.skin, edits: recipe.skin.edits.filter((_, i) => i !== index) },
      })
  }

  /** @param last what stands last in a dab: how hard it is pressed, or how far it reaches */
  const dabOf = (hit: SurfaceHit, last: number): Stroke['dabs'][number] => {
    const s = size()
    const round = (x: number): number => Math.round(x * 1e6) / 1e6
    return [
      round(hit.place[0] / s),
      round(hit.place[1] / s),
      round(hit.place[2] / s),
      ...(hit.normal.map(x => Math.round(x * 1e3) / 1e3) as [number, number, number]),
      last,
    ]
  }

  /** @returns vertices whose weights changed, or undefined where nothing can be painted */
  function begin(hit: SurfaceHit, pressure: number): number[] | undefined {
    const c = canvas.value
    if (!c || !derived.skeleton) return undefined
    const b = view.brush
    if (b.tool === 'mark' || isPointing(b.tool)) return undefined
    if (b.tool === 'fill') {
      add([
        {
          kind: 'fill',
          joint: joint(),
          at: dabOf(hit, 1).slice(0, 3) as [number, number, number],
          value: b.value,
          mirror: view.mirror,
          locked: [...view.locked],
          pieces: onPieces(),
        },
      ])
      return undefined
    }
    const record: Stroke = {
      kind: 'stroke',
      tool: b.tool,
      joint: joint(),
      dabs: [],
      radius: b.radius / 100 / size(),
      strength: b.strength,
      value: b.value,
      falloff: b.falloff,
      mirror: view.mirror,
      through: b.through,
      locked: [...view.locked],
      pieces: onPieces(),
    }
    const brush = brushFor(c, record)
    if (!brush) return undefined
    stroke = { brush, dabs: [], last: hit }
    return lay(c, dabOf(hit, pressure))
  }

  function lay(c: Canvas, dab: Stroke['dabs'][number]): number[] {
    const changed = new Set<number>()
    stroke!.dabs.push(dab)
    layDab(c, stroke!.brush, dab, changed)
    touched.value++
    return membersOf(laid!, changed)
  }

  function move(hit: SurfaceHit, pressure: number): number[] {
    const c = canvas.value
    if (!stroke || !c) return []
    const far = Math.hypot(...hit.place.map((x, k) => x - stroke!.last.place[k]!))
    if (far < (SPACING * view.brush.radius) / 100) return []
    stroke.last = hit
    return lay(c, dabOf(hit, pressure))
  }

  function end(): void {
    const done = stroke
    stroke = undefined
    if (!done || done.dabs.length === 0) return
    // a record holds so many dabs; a stroke that goes on and on becomes several, as one change
    const records: SkinEdit[] = []
    for (let i = 0; i < done.dabs.length; i += MOST_DABS)
      records.push({ ...done.brush.stroke, dabs: done.dabs.slice(i, i + MOST_DABS) })
    add(records)
  }

  const isPainting = (): boolean => stroke !== undefined
  /** Share of the chosen joint at a vertex, as painted so far. */
  const shareAt = (vertex: number): number =>
    canvas.value ? limitedShare(canvas.value.skin, canvas.value.weld.of[vertex]!, derived.joint, most()) : 0
  /** Joints a vertex may keep in the end. */
  const most = (): number => (derived.skin ? derived.skin.influences : 4)

  return {
    canvas,
    touched,
    open,
    add,
    without,
    nameOf,
    joint,
    size,
    begin,
    move,
    end,
    isPainting,
    shareAt,
    onPieces,
    dabOf,
  }
}
