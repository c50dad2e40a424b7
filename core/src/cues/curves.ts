import type { RootPath, ScalarTrack } from '../motion'
import { wayGone } from '../root-motion'
import type { FoundCurve } from './settings'

/** How far the body has gone over the ground, metres, and how fast it goes, metres a second, frame by frame. */
export function travelCurves(path: RootPath, fps: number, wanted: readonly FoundCurve[], unit = 1): ScalarTrack[] {
  if (wanted.length === 0 || path.across.length === 0) return []
  const { gone } = wayGone(path)
  const n = gone.length
  const way = Float32Array.from(gone, v => v * unit)
  const speed = Float32Array.from({ length: n }, (_, f) => {
    const a = Math.max(0, f - 1),
      b = Math.min(n - 1, f + 1)
    return b > a ? ((gone[b] - gone[a]) * unit * fps) / (b - a) : 0
  })
  const all: Record<FoundCurve, Float32Array> = { way, speed }
  return wanted.map(name => ({ name, kind: 'curve', values: all[name] }))
}
