import { CatmullRomWay } from './curve-through'
import type { RootPath } from '../motion'
import type { RootWay } from './settings'

/** The way a body goes over the ground: how far it has gone, and where it goes, frame by frame. */
export interface WayGone {
  /** N, unit of the skeleton; never less than before. */
  readonly gone: Float64Array
  /** N, radians to its left of straight ahead, without jumps; where it stands, as it goes next. */
  readonly heading: Float64Array
}

/** A body that goes slower than this share of its usual speed stands. */
const STANDS = 0.15

/** Measures the way along a path. */
export function wayGone({ across, ahead }: Pick<RootPath, 'across' | 'ahead'>): WayGone {
  const n = across.length
  const gone = new Float64Array(n)
  const heading = new Float64Array(n)
  for (let f = 1; f < n; f++) gone[f] = gone[f - 1] + Math.hypot(across[f] - across[f - 1], ahead[f] - ahead[f - 1])
  const usual = n > 1 ? gone[n - 1] / (n - 1) : 0
  let last = -1
  for (let f = 0; f < n; f++) {
    const a = Math.max(0, f - 1),
      b = Math.min(n - 1, f + 1)
    const x = across[b] - across[a],
      z = ahead[b] - ahead[a]
    if (b === a || Math.hypot(x, z) <= STANDS * usual * (b - a)) {
      heading[f] = last < 0 ? 0 : heading[last]
      continue
    }
    const told = Math.atan2(x, z)
    if (last < 0) heading.fill(told, 0, f + 1)
    else heading[f] = told + 2 * Math.PI * Math.round((heading[last] - told) / (2 * Math.PI))
    last = f
  }
  return { gone, heading }
}

/** Where the body is on another way, and how much it is turned against before, N each. */
export interface OtherWay {
  readonly across: Float64Array
  readonly ahead: Float64Array
  /** Radians to its left. */
  readonly turned: Float64Array
}

/** Leads a path onto another way: as far along it in every frame as it had gone. */
export function alongWay(path: RootPath, way: RootWay, unit: number): OtherWay {
  const n = path.across.length
  const { gone, heading } = wayGone(path)
  const whole = gone[n - 1] || 1
  const out = { across: new Float64Array(n), ahead: new Float64Array(n), turned: new Float64Array(n) }
  const start = [path.across[0], path.ahead[0]] as const
  if (way.kind === 'points') {
    const curve = new CatmullRomWay([[0, 0], ...way.points.map(([x, z]): [number, number] => [x / unit, z / unit])])
    let before = heading[0]
    for (let f = 0; f < n; f++) {
      const { at, heading: told } = curve.at(gone[f])
      before = told + 2 * Math.PI * Math.round((before - told) / (2 * Math.PI))
      out.across[f] = start[0] + at[0]
      out.ahead[f] = start[1] + at[1]
      out.turned[f] = before - heading[f]
    }
    return out
  }
  const bend = way.kind === 'bent' ? (way.degrees * Math.PI) / 180 : 0
  out.across[0] = start[0]
  out.ahead[0] = start[1]
  for (let f = 0; f < n; f++) {
    out.turned[f] = way.kind === 'straight' ? heading[0] - heading[f] : (bend * gone[f]) / whole
    if (f === 0) continue
    const x = path.across[f] - path.across[f - 1],
      z = path.ahead[f] - path.ahead[f - 1]
    if (way.kind === 'straight') {
      const far = gone[f] - gone[f - 1]
      out.across[f] = out.across[f - 1] + far * Math.sin(heading[0])
      out.ahead[f] = out.ahead[f - 1] + far * Math.cos(heading[0])
    } else {
      const middle = (out.turned[f] + out.turned[f - 1]) / 2
      const [s, c] = [Math.sin(middle), Math.cos(middle)]
      out.across[f] = out.across[f - 1] + c * x + s * z
      out.ahead[f] = out.ahead[f - 1] - s * x + c * z
    }
  }
  return out
}
