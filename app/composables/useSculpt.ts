import { openShape, sculptDab, turnsBothSides, type OpenShape, type SculptStroke } from '@chiraxis/core/corrective'
import type { Mesh } from '@chiraxis/core/mesh'
import type { SurfaceHit } from '~/stage/picker'
import { useDerived } from '~/stores/derived'
import { useView } from '~/stores/view'
import { SPACING } from './useWeightBrush'

/** Dabs that one record may hold. */
const MOST_DABS = 5000

/** The shape in play as it is being painted, every stroke of its record on it. */
let open: { readonly of: string; readonly mesh: Mesh; readonly skin: object; readonly shape: OpenShape } | undefined
let stroke: { record: SculptStroke; dabs: SculptStroke['dabs']; last: SurfaceHit } | undefined
/** The body as it is painted and the record is not worked out yet, 3·V. */
const painted = shallowRef<Float32Array>()

/** Painting on a corrective: the brush moves an open shape at once; the finished stroke becomes part of its record. */
export function useSculpt() {
  const derived = useDerived()
  const view = useView()
  const brush = useWeightBrush()
  const { current, change } = useCorrectives()

  /** Lays the shape in play open, with everything its record says. */
  function ready(): OpenShape | undefined {
    const { shape, skeleton, skin } = derived
    const c = current.value
    if (!shape || !skeleton || !skin || !c) return undefined
    const laid = layOpen(shape.mesh, shape.straightened.height, () => ready())
    if (!laid) return undefined
    const of = JSON.stringify([c.id, c.turns, c.keep, c.strokes])
    if (open?.of === of && open.mesh === shape.mesh && open.skin === skin) return open.shape
    const made = openShape(laid.ground, skeleton, skin, c)
    for (const s of c.strokes) for (const dab of s.dabs) sculptDab(made, s, dab)
    open = { of, mesh: shape.mesh, skin, shape: made }
    return made
  }

  /** The body as bound and posed with the open shape on it. */
  function show({ places, ground }: OpenShape): void {
    const { of } = ground.weld
    const out = new Float32Array(3 * of.length)
    for (let v = 0; v < of.length; v++) for (let k = 0; k < 3; k++) out[3 * v + k] = places[3 * of[v]! + k]!
    painted.value = out
  }

  /** Whether both sides stand alike in the pose, so that a stroke may go for both. */
  const standsAlike = computed(() => {
    const { skeleton } = derived
    return !!skeleton && !!current.value && turnsBothSides(skeleton, current.value.turns)
  })

  /** @returns false where nothing can be painted */
  function begin(hit: SurfaceHit, pressure: number): boolean {
    const shape = ready()
    if (!shape) return false
    view.poseShare = 1
    view.plainSkin = false
    const { tool, strength, falloff, through, radius } = view.sculpt
    const mirror = view.mirror && standsAlike.value
    const record: SculptStroke = {
      tool,
      dabs: [],
      radius: radius / 100 / brush.size(),
      strength,
      falloff,
      mirror,
      through,
    }
    stroke = { record, dabs: [], last: hit }
    lay(shape, hit, pressure)
    return true
  }
  function lay(shape: OpenShape, hit: SurfaceHit, pressure: number): void {
    const dab = brush.dabOf(hit, pressure)
    stroke!.dabs.push(dab)
    stroke!.last = hit
    sculptDab(shape, stroke!.record, dab)
    show(shape)
  }
  function move(hit: SurfaceHit, pressure: number): void {
    if (!stroke || !open || stroke.dabs.length >= MOST_DABS) return
    const far = Math.hypot(...hit.place.map((x, k) => x - stroke!.last.place[k]!))
    if (far < (SPACING * view.sculpt.radius) / 100) return
    lay(open.shape, hit, pressure)
  }
  const WORDS: Record<SculptStroke['tool'], string> = { raise: 'Raise', sink: 'Sink', smooth: 'Smooth', clear: 'Clear' }
  function end(): void {
    const done = stroke
    stroke = undefined
    const c = current.value
    if (!done || !c || !open) return
    const strokes = [...c.strokes, { ...done.record, dabs: done.dabs }]
    // what lies open is already what the record will say
    open = { ...open, of: JSON.stringify([c.id, c.turns, c.keep, strokes]) }
    change(c.id, { strokes }, `${WORDS[done.record.tool]} on ${c.label}`)
  }
  /** What was painted is worked out, or given up: the body is the record's again. */
  const settle = (): void => {
    if (!stroke) painted.value = undefined
  }
  const isPainting = (): boolean => stroke !== undefined
  return { painted, standsAlike, ready, begin, move, end, settle, isPainting }
}
