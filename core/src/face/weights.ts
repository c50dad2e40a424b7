import type { ScalarTrack } from '../motion'
import { EXPRESSION_KINDS, type Binds, type Expression } from './expressions'

/** Groups of expressions that fight for the same flesh: together they show no stronger than one. */
const FIGHTING: readonly (readonly (keyof typeof EXPRESSION_KINDS)[])[] = [
  ['aa', 'ih', 'ou', 'ee', 'oh'],
  ['happy', 'angry', 'sad', 'relaxed', 'surprised'],
]

/**
 * How strongly each shape of a surface shows through a take. A track of a shape's own name moves it; one of an expression moves the
 * shapes it is made of. Expressions that fight share one face between them, and both lids shut no farther than shut.
 * @param names the surface's shapes
 * @returns by shape, N values each; shapes that rest throughout are not in it
 */
export function shapeWeights(
  scalars: readonly ScalarTrack[] | undefined,
  names: ReadonlySet<string>,
  binds: Binds,
): Map<string, Float32Array> {
  const out = new Map<string, Float32Array>()
  const shown = (scalars ?? []).filter(s => s.kind === 'expression')
  const told = new Set(shown.map(s => s.name).filter(n => names.has(n)))
  for (const s of shown) if (told.has(s.name)) out.set(s.name, s.values)
  const tracks = new Map(
    shown.filter(s => !told.has(s.name) && s.name in EXPRESSION_KINDS).map(s => [s.name as Expression, s.values]),
  )
  if (tracks.size === 0) return out
  const frames = [...tracks.values()][0].length
  const shares = FIGHTING.map(group => {
    const own = group.flatMap(e => tracks.get(e) ?? [])
    if (own.length < 2) return undefined
    return Float32Array.from(
      { length: frames },
      (_, f) =>
        1 /
        Math.max(
          1,
          own.reduce((n, v) => n + v[f], 0),
        ),
    )
  })
  for (const [expression, values] of tracks) {
    const group = FIGHTING.findIndex(g => g.includes(expression))
    const share = group < 0 ? undefined : shares[group]
    for (const { shape, weight } of binds[expression] ?? []) {
      if (!names.has(shape) || told.has(shape)) continue
      const sum = out.get(shape) ?? new Float32Array(frames)
      for (let f = 0; f < frames; f++) sum[f] = Math.min(1, sum[f] + weight * values[f] * (share?.[f] ?? 1))
      out.set(shape, sum)
    }
  }
  return out
}
