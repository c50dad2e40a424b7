import { z } from 'zod'
import type { Beside, ScalarTrack, Take, TakeEvent } from '../motion'

/** What an animation's `extras` tell of a take: its rate, its moments and its curves. The format is told in docs/formats.md. */
const cueShape = z.object({
  time: z.number().min(0),
  name: z.string().min(1).max(120),
  data: z.record(z.string().max(60), z.union([z.string().max(200), z.number(), z.boolean()])).optional(),
})
const curveShape = z.object({
  name: z.string().min(1).max(120),
  kind: z.enum(['curve', 'expression']).optional(),
  fps: z.number().min(0.1).max(1000),
  values: z.array(z.number()).min(1).max(1_000_000),
})
/** Most moments and curves that are read of one take. */
const MOST = { cues: 20_000, curves: 200 }

const rounded = (v: number, digits: number): number => Number(v.toPrecision(digits))

/**
 * The extras of an animation with what goes along with a take in them; those that were there stay.
 * @param how `sparse`: its keys do not tell its rate; `shapes`: those whose motion is written as such, and needs no curve
 */
export function takeExtras(
  { events = [], scalars = [], fps }: Pick<Take, 'events' | 'scalars' | 'fps'>,
  before?: unknown,
  { sparse = false, shapes = new Set() }: { readonly sparse?: boolean; readonly shapes?: ReadonlySet<string> } = {},
): Record<string, unknown> | undefined {
  const kept = typeof before === 'object' && before !== null && !Array.isArray(before) ? { ...before } : {}
  const told = kept as Record<string, unknown>
  delete told.cues
  delete told.curves
  delete told.fps
  if (sparse) told.fps = rounded(fps, 9)
  if (events.length > 0)
    told.cues = events.map(({ time, name, data }) => ({ time: rounded(time, 9), name, ...(data && { data }) }))
  const curves = scalars.filter(s => s.kind !== 'expression' || !shapes.has(s.name))
  if (curves.length > 0)
    told.curves = curves.map(({ name, kind, values }) => ({
      name,
      ...(kind === 'expression' && { kind }),
      fps: rounded(fps, 9),
      values: Array.from(values, v => rounded(v, 7)),
    }))
  return Object.keys(told).length > 0 ? told : undefined
}

/** What the extras of an animation tell; what is no such thing is passed over. */
export function readTakeExtras(extras: unknown, { frames, fps }: Pick<Take, 'frames' | 'fps'>): Beside {
  if (typeof extras !== 'object' || extras === null) return {}
  const { cues, curves } = extras as { cues?: unknown; curves?: unknown }
  const events = (Array.isArray(cues) ? cues.slice(0, MOST.cues) : []).flatMap((cue): TakeEvent[] => {
    const told = cueShape.safeParse(cue)
    return told.success ? [told.data] : []
  })
  const scalars = (Array.isArray(curves) ? curves.slice(0, MOST.curves) : []).flatMap((curve): ScalarTrack[] => {
    const told = curveShape.safeParse(curve)
    return told.success
      ? [{ name: told.data.name, kind: told.data.kind ?? 'curve', values: onFrames(told.data, frames, fps) }]
      : []
  })
  return { ...(events.length > 0 && { events }), ...(scalars.length > 0 && { scalars }) }
}

/** A curve of any rate on the frames of a take. */
function onFrames(
  { values, fps: own }: { readonly values: readonly number[]; readonly fps: number },
  frames: number,
  fps: number,
): Float32Array {
  return Float32Array.from({ length: frames }, (_, f) => {
    const at = Math.min(values.length - 1, (f / fps) * own)
    const a = Math.floor(at + 1e-6)
    const b = Math.min(values.length - 1, a + 1)
    return values[a] + (values[b] - values[a]) * Math.max(0, at - a)
  })
}

/** The rate an animation tells of itself, where it does and its length fits. */
export function toldRate(extras: unknown, seconds: number): number | undefined {
  const fps = typeof extras === 'object' && extras !== null ? (extras as { fps?: unknown }).fps : undefined
  if (typeof fps !== 'number' || !(fps >= 0.1 && fps <= 1000)) return undefined
  const frames = seconds * fps
  return Math.abs(frames - Math.round(frames)) < 0.01 ? fps : undefined
}
