import { maxOf, pseudoInverse, type Vec3 } from '../math'
import type { Mesh } from '../mesh'
import { depthAt, depthFromAhead, seenAt, type DepthMap } from './depth-map'
import { ballsIn, componentsAmong, type Ball } from './eyeballs'
import type { Eyeball, FaceLandmark, FaceLandmarkId } from './landmark'

/** Where a head is, as far as the body's landmarks tell. */
export interface HeadPlace {
  readonly chin: Vec3
  readonly crown: Vec3
}

/** A face as it was found. */
export interface FoundFace {
  readonly landmarks: readonly FaceLandmark[]
  readonly eyes: { readonly left?: Eyeball; readonly right?: Eyeball }
  /** From the lowest point of the chin to the crown, metres. */
  readonly height: number
  /** How high the lowest point of the chin is, metres. */
  readonly chinLevel: number
}

/** Cells of the map from chin to crown. */
const FINE = 200
/**
 * Usual places of a face as shares of the height of the head, above the lowest point of the chin and off the midline: the
 * canon of thirds, an eye's width between the eyes (means of Farkas, Anthropometry of the head and face, 1994, rounded).
 */
const USUAL = {
  eyes: 0.47,
  noseTip: 0.34,
  noseBase: 0.3,
  mouth: 0.2,
  chin: 0.05,
  apart: 0.145,
  mouthWidth: 0.12,
  eye: 0.058,
}

/**
 * Finds the places of a face on a head that stands upright and looks ahead, from how far ahead its surface lies: the nose by how it
 * stands out of cheeks, what is below it by the bumps and creases of the profile, eyes by eyeballs or sockets, brows by their
 * ridge, corners of the mouth by where the crease between the lips ends. Each comes with how well it was told.
 */
export function findFace(mesh: Mesh, { chin, crown }: HeadPlace): FoundFace {
  const rough = Math.max(1e-6, crown[1] - chin[1])
  const axis = (chin[0] + crown[0]) / 2
  const corners = headCorners(mesh, axis, chin[1] - 0.4 * rough, crown[1] + 0.1 * rough, 0.9 * rough)
  const map = depthFromAhead(
    mesh,
    corners,
    [axis - 0.6 * rough, chin[1] - 0.35 * rough],
    [axis + 0.6 * rough, crown[1] + 0.05 * rough],
    rough / FINE,
  )
  const about = profileOf(map, axis)
  const nose = noseIn(map, axis, about, chin[1], rough)
  const fall = chinLevel(about, nose.y, chin[1], rough)
  // what falls back so near below the nose is a lip and no chin: a third of what lies above the nose's tip lies below it at least
  const above = crown[1] - nose.y
  const seen = nose.y - fall.y < 0.34 * above ? { y: nose.y - 0.47 * above, sure: 0.55 } : fall
  const faceFrom = (level: number): Face => ({ mesh, map, about, axis, H: crown[1] - level, level, tip: nose.y })
  const first = mouthIn(faceFrom(seen.y))
  // under a collar the lowest point is told by the rest: two thirds of the way from nose to chin lie below the lips
  const told = seen.sure > 0.5 ? seen.y : Math.min(seen.y, first.line - 1.9 * (first.base - first.line))
  const level = { y: told, sure: seen.sure }
  const face = faceFrom(told)
  const H = face.H
  const lower = told === seen.y ? first : mouthIn(face)
  const components = componentsAmong(mesh, corners)
  const eyes = eyesIn(mesh, face, components)
  const marks: FaceLandmark[] = []
  const put = (id: FaceLandmarkId, position: Vec3, confidence: number): void => {
    marks.push({ id, position, confidence: Math.round(100 * Math.min(0.99, Math.max(0.05, confidence))) / 100 })
  }
  put('noseTip', seenAt(map, axis, nose.y), nose.sure)
  put('noseBase', seenAt(map, axis, lower.base), lower.sure * nose.sure)
  put('upperLip', seenAt(map, axis, lower.upper), lower.sure)
  put('lowerLip', seenAt(map, axis, lower.lower), lower.sure)
  put('chin', seenAt(map, axis, lower.chin), level.sure)
  for (const s of [1, -1] as const) {
    const side = s > 0 ? ('left' as const) : ('right' as const)
    const eye = eyes[side]
    const lids = lidsOf(face, eye, s, components)
    put(`${side}EyeInner`, lids.inner, lids.sure)
    put(`${side}EyeOuter`, lids.outer, lids.sure)
    put(`${side}UpperLid`, lids.upper, lids.sure)
    put(`${side}LowerLid`, lids.lower, lids.sure)
    for (const [part, x] of [
      ['BrowInner', lids.inner[0] + s * 0.005 * H],
      ['BrowOuter', lids.outer[0]],
    ] as const) {
      const brow = browAt(face, x, lids.upper[1])
      put(`${side}${part}`, seenAt(map, x, brow.y), brow.sure * lids.sure)
    }
    const corner = cornerOf(face, lower.line, s, eye.at[0])
    put(`${side}MouthCorner`, corner.at, corner.sure * lower.sure)
    const ear = earOf(mesh, corners, face, s)
    put(`${side}Ear`, ear.at, ear.sure)
    put(`${side}JawHinge`, [ear.at[0] - s * 0.075 * H, ear.at[1], ear.at[2] + 0.08 * H], 0.8 * ear.sure)
  }
  const ball = ({ ball, lidded }: EyePlace): Eyeball | undefined =>
    ball && { centre: ball.centre, radius: ball.radius, lidded, rim: rimsOf(mesh, map, ball, components) }
  const [left, right] = [ball(eyes.left), ball(eyes.right)]
  return { landmarks: marks, eyes: { ...(left && { left }), ...(right && { right }) }, height: H, chinLevel: level.y }
}

interface Face {
  readonly mesh: Mesh
  readonly map: DepthMap
  readonly about: Profile
  readonly axis: number
  readonly H: number
  readonly level: number
  /** How high the tip of the nose is. */
  readonly tip: number
}

/** First corners of the triangles of a head. */
export function headCorners(
  { positions, indices }: Mesh,
  axis: number,
  low: number,
  high: number,
  wide: number,
): number[] {
  const out: number[] = []
  for (let f = 0; f < indices.length; f += 3) {
    const [a, b, c] = [3 * indices[f], 3 * indices[f + 1], 3 * indices[f + 2]]
    const y = (positions[a + 1] + positions[b + 1] + positions[c + 1]) / 3
    const x = (positions[a] + positions[b] + positions[c]) / 3 - axis
    if (y > low && y < high && Math.abs(x) < wide) out.push(f)
  }
  return out
}

/** The midline of a head as seen from the side: how far ahead it lies by height. */
interface Profile {
  readonly from: number
  readonly step: number
  readonly z: Float64Array
}
function profileOf(map: DepthMap, axis: number): Profile {
  const z = Float64Array.from({ length: map.rows }, (_, row) => {
    const y = map.from[1] + row * map.cell
    // beside the midline too, where a seam or a strand of hair lies on it
    const around = [-1.5, 0, 1.5].map(k => depthAt(map, axis + k * map.cell, y)).sort((a, b) => a - b)
    return around[1]
  })
  return { from: map.from[1], step: map.cell, z }
}
const onProfile = ({ from, step, z }: Profile, y: number): number => {
  const p = Math.min(z.length - 1.001, Math.max(0, (y - from) / step))
  const i = Math.floor(p)
  return z[i] + (z[i + 1] - z[i]) * (p - i)
}

const bell = (x: number, middle: number, spread: number): number => Math.exp(-0.5 * ((x - middle) / spread) ** 2)

/** The tip of the nose: far ahead on the midline, and ahead of what lies beside it. */
function noseIn(map: DepthMap, axis: number, about: Profile, chin: number, rough: number): { y: number; sure: number } {
  let best = { y: chin + USUAL.noseTip * rough, score: -Infinity, out: 0 }
  for (let v = 0.12; v < 0.62; v += 0.004) {
    const y = chin + v * rough
    const here = onProfile(about, y)
    if (!Number.isFinite(here)) continue
    // against the line from the brow to the lip
    const [above, below] = [onProfile(about, y + 0.17 * rough), onProfile(about, y - 0.1 * rough)]
    const out = (here - Math.max(-1e3, 0.4 * above + 0.6 * below)) / rough
    const beside = Math.min(depthAt(map, axis - 0.11 * rough, y), depthAt(map, axis + 0.11 * rough, y))
    const aside = Math.min(0.3, Math.max(0, (here - beside) / rough))
    const score = out + 0.5 * aside + 0.03 * Math.log(bell(v, USUAL.noseTip, 0.08))
    if (score > best.score) best = { y, score, out }
  }
  // up to where it lies farthest ahead
  for (let low = best.y - 0.05 * rough, y = low; y < best.y + 0.04 * rough; y += about.step / 2)
    if (onProfile(about, y) > onProfile(about, low)) best.y = low = y
  return { y: best.y, sure: Math.min(1, 0.35 + 9 * best.out) }
}

/** The lowest point of the chin: going down from the mouth, where the profile falls back to the throat. */
function chinLevel(about: Profile, tip: number, chin: number, rough: number): { y: number; sure: number } {
  const reach = 0.06 * rough
  const lip = onProfile(about, tip - 0.12 * rough)
  let best = { y: chin, score: 0 }
  for (let y = tip - 0.17 * rough; y > chin - 0.3 * rough; y -= about.step) {
    const fall = (onProfile(about, y + 0.5 * reach) - onProfile(about, y - 0.5 * reach)) / reach
    // below the first place that lies clearly behind the lips nothing is a chin
    const score = Math.min(fall, 3) * bell(y, chin, 0.16 * rough)
    if (fall > 0.8 && score > best.score) best = { y, score }
    if (lip - onProfile(about, y) > 0.3 * rough) break
  }
  // up to where the fall begins
  let y = best.y
  while (y < tip && (onProfile(about, y + about.step) - onProfile(about, y)) / about.step > 0.9) y += about.step
  return { y: best.score > 0 ? y : chin, sure: best.score > 0 ? 0.9 : 0.4 }
}

interface LowerFace {
  readonly base: number
  readonly upper: number
  readonly line: number
  readonly lower: number
  readonly chin: number
  readonly sure: number
}

/** What lies under the nose: its base, the lips and the line between them, the chin, by bumps and creases of the profile. */
function mouthIn({ about, tip, level, H }: Face): LowerFace {
  const room = tip - level
  const at = (share: number): number => level + share * room
  // how sharply the profile bends in at a height
  const crease = (y: number, reach: number): number =>
    (onProfile(about, y + reach) + onProfile(about, y - reach)) / 2 - onProfile(about, y)
  const sharpest = (
    low: number,
    high: number,
    usual: number,
    spread: number,
    reach: number,
  ): { y: number; depth: number } => {
    let best = { y: usual, score: -Infinity, depth: 0 }
    for (let y = low; y <= high; y += about.step / 2) {
      const depth = crease(y, reach)
      const score = Math.min(depth, 0.05 * H) / H + 0.004 * Math.log(bell(y, usual, spread))
      if (score > best.score) best = { y, score, depth }
    }
    return best
  }
  const furthest = (low: number, high: number): number => {
    let best = low
    for (let y = low; y <= high; y += about.step / 2) if (onProfile(about, y) > onProfile(about, best)) best = y
    return best
  }
  const base = sharpest(at(0.72), at(0.97), at(0.87), 0.08 * room, 0.03 * H)
  const line = sharpest(at(0.35), Math.min(at(0.8), base.y - 0.03 * H), at(0.6), 0.1 * room, 0.016 * H)
  const upper = furthest(line.y + 0.006 * H, Math.min(base.y - 0.015 * H, line.y + 0.065 * H))
  const lower = furthest(Math.max(at(0.25), line.y - 0.07 * H), line.y - 0.006 * H)
  const sulcus = sharpest(at(0.2), Math.max(at(0.22), lower - 0.02 * H), lower - 0.06 * H, 0.04 * H, 0.03 * H)
  const chin = furthest(level + 0.1 * room, Math.max(level + 0.12 * room, sulcus.y - 0.01 * H))
  return { base: base.y, line: line.y, upper, lower, chin, sure: Math.min(1, 0.3 + 60 * (line.depth / H)) }
}

/** Where the crease between the lips ends on one side. */
function cornerOf({ map, axis, H }: Face, line: number, s: 1 | -1, eye: number): { at: Vec3; sure: number } {
  const reach = 0.02 * H
  let y = line
  const depths: { x: number; y: number; depth: number }[] = []
  for (let u = 0; u < 0.3 * H; u += map.cell) {
    const x = axis + s * u
    let best = { y, depth: -Infinity }
    for (let dy = -3; dy <= 3; dy++) {
      const here = y + dy * map.cell * 0.5
      const depth = (depthAt(map, x, here + reach) + depthAt(map, x, here - reach)) / 2 - depthAt(map, x, here)
      if (depth - 0.0008 * Math.abs(dy) * H > best.depth) best = { y: here, depth }
    }
    y += 0.5 * (best.y - y)
    depths.push({ x, y, depth: Number.isFinite(best.depth) ? Math.min(best.depth, 0.03 * H) : 0 })
  }
  const inner = depths.slice(0, Math.max(3, Math.round((0.06 * H) / map.cell))).map(d => d.depth)
  const usual = Math.min(0.8 * Math.abs(eye - axis), 1.6 * USUAL.mouthWidth * H)
  const middle = inner.sort((a, b) => a - b)[inner.length >> 1]
  const end = depths.findIndex((d, i) => i * map.cell > 0.04 * H && d.depth < Math.max(0.0012 * H, 0.12 * middle))
  const told = end > 0 && middle > 0.002 * H
  // a crease that goes on as a cheek's fold ends where mouths do
  const u = told ? Math.min(Math.abs(depths[end].x - axis), 1.7 * usual) : usual
  const i = Math.min(depths.length - 1, Math.round(u / map.cell))
  return { at: seenAt(map, axis + s * u, depths[i].y), sure: told ? 0.9 : 0.45 }
}

interface EyePlace {
  /** x and y. */
  readonly at: readonly [number, number]
  readonly ball?: Ball
  readonly lidded: boolean
  readonly sure: number
}

/** Eyes: a pair of balls, else a pair of sockets. */
function eyesIn(
  mesh: Mesh,
  face: Face,
  components: { of: Int32Array; count: number },
): { left: EyePlace; right: EyePlace } {
  const { axis, H, level, map } = face
  const balls = ballsIn(mesh, components, 0.02 * H, 0.16 * H).filter(
    b =>
      b.centre[1] > level + 0.25 * H && b.centre[1] < level + 0.72 * H && Math.abs(b.centre[0] - axis) > 0.5 * b.radius,
  )
  let best: { pair: [Ball, Ball]; score: number } | undefined
  for (const a of balls)
    for (const b of balls) {
      if (!(a.centre[0] > axis && b.centre[0] < axis)) continue
      const uneven =
        Math.hypot(a.centre[0] + b.centre[0] - 2 * axis, a.centre[1] - b.centre[1], a.centre[2] - b.centre[2]) / H +
        Math.abs(a.radius - b.radius) / H
      // of balls within each other the outer one that is seen counts
      const score = -8 * uneven - a.off - b.off + a.radius / H
      if (uneven < 0.06 && (!best || score > best.score)) best = { pair: [a, b], score }
    }
  if (best) {
    const [left, right] = best.pair
    const place = (ball: Ball): EyePlace => ({
      at: [ball.centre[0], ball.centre[1]],
      ball,
      lidded: isLidded(mesh, map, ball, components),
      sure: 0.95,
    })
    return { left: place(left), right: place(right) }
  }
  // sockets: the pair of places that lies deepest against what is around, near to where eyes usually are
  const hollow = (x: number, y: number): number => {
    const r = 0.11 * H
    const around = [0, 1, 2, 3, 4, 5, 6, 7].map(k =>
      depthAt(map, x + r * Math.cos((k * Math.PI) / 4), y + r * Math.sin((k * Math.PI) / 4)),
    )
    return around.every(Number.isFinite) ? around.reduce((a, b) => a + b, 0) / 8 - depthAt(map, x, y) : -1
  }
  let found = { u: USUAL.apart * H, y: level + USUAL.eyes * H, score: -Infinity, depth: 0 }
  for (let u = 0.08 * H; u < 0.24 * H; u += 2 * map.cell)
    for (let y = face.tip + 0.03 * H; y < face.tip + 0.3 * H; y += 2 * map.cell) {
      const depth = Math.min(hollow(axis + u, y), hollow(axis - u, y))
      const score =
        depth / H + 0.02 * Math.log(bell(u, USUAL.apart * H, 0.03 * H) * bell(y, face.tip + 0.14 * H, 0.05 * H))
      if (score > found.score) found = { u, y, score, depth }
    }
  const sure = Math.min(0.7, 0.25 + 20 * Math.max(0, found.depth / H))
  return {
    left: { at: [axis + found.u, found.y], lidded: false, sure },
    right: { at: [axis - found.u, found.y], lidded: false, sure },
  }
}

/** The component of the surface seen at a cell. */
const seenComponent = (mesh: Mesh, map: DepthMap, components: { of: Int32Array }, i: number): number =>
  map.triangle[i] < 0 ? -1 : components.of[mesh.indices[map.triangle[i]]]

/** Cells around a ball at which it is seen. */
function seenCells(mesh: Mesh, map: DepthMap, ball: Ball, components: { of: Int32Array }): { x: number; y: number }[] {
  const out: { x: number; y: number }[] = []
  const reach = Math.ceil((1.1 * ball.radius) / map.cell)
  const [ci, cj] = [0, 1].map(k => Math.round((ball.centre[k] - map.from[k]) / map.cell))
  for (let j = cj - reach; j <= cj + reach; j++)
    for (let i = ci - reach; i <= ci + reach; i++) {
      if (i < 0 || j < 0 || i >= map.columns || j >= map.rows) continue
      const at = j * map.columns + i
      const [x, y] = [map.from[0] + i * map.cell, map.from[1] + j * map.cell]
      const away = Math.hypot(x - ball.centre[0], y - ball.centre[1])
      // what lies on the ball belongs to it: an iris, a cornea
      const on = Math.abs(Math.hypot(away, map.z[at] - ball.centre[2]) - ball.radius) < 0.04 * ball.radius
      if (away < ball.radius && (seenComponent(mesh, map, components, at) === ball.component || on)) out.push({ x, y })
    }
  return out
}

/** How high a ball is seen to begin and to end, column by column. */
function rimsOf(mesh: Mesh, map: DepthMap, ball: Ball, components: { of: Int32Array }): Eyeball['rim'] {
  const columns = new Map<number, { x: number; top: number; bottom: number }>()
  for (const { x, y } of seenCells(mesh, map, ball, components)) {
    const i = Math.round((x - map.from[0]) / map.cell)
    const own = columns.get(i)
    if (own) [own.top, own.bottom] = [Math.max(own.top, y), Math.min(own.bottom, y)]
    else columns.set(i, { x, top: y, bottom: y })
  }
  const seen = [...columns.values()].sort((a, b) => a.x - b.x)
  if (seen.length < 6) return seen
  // lids are arches; single cells are steps
  const low = seen[0].x - map.cell / 2
  const wide = seen[seen.length - 1].x + map.cell / 2 - low
  const arch = (of: (p: (typeof seen)[number]) => number): ((t: number) => number) => {
    const inverse = pseudoInverse(seen.map(p => powers((p.x - low) / wide)))
    const c = inverse.map(row => row.reduce((sum, w, i) => sum + w * of(seen[i]), 0))
    return t => powers(t).reduce((sum, v, i) => sum + v * c[i], 0)
  }
  const powers = (t: number): number[] => [1, t, t * t, t ** 3, t ** 4]
  const [top, bottom] = [arch(p => p.top + map.cell / 2), arch(p => p.bottom - map.cell / 2)]
  return Array.from({ length: 25 }, (_, i) => {
    const t = i / 24
    return { x: low + t * wide, top: Math.max(top(t), bottom(t)), bottom: Math.min(top(t), bottom(t)) }
  })
}

/** Whether something lies before the upper or the lower part of a ball. */
function isLidded(mesh: Mesh, map: DepthMap, ball: Ball, components: { of: Int32Array }): boolean {
  const seen = seenCells(mesh, map, ball, components)
  return seen.length > 0 && (seen.length * map.cell ** 2) / (Math.PI * ball.radius ** 2) < 0.85
}

/** The corners and the lids of an eye: the rim of what is seen of its ball, else an almond of usual size. */
function lidsOf(
  face: Face,
  eye: EyePlace,
  s: 1 | -1,
  components: { of: Int32Array; count: number },
): { inner: Vec3; outer: Vec3; upper: Vec3; lower: Vec3; sure: number } {
  const { map, axis, H } = face
  const [x, y] = eye.at
  const seen = eye.ball ? rimOf(face, eye.ball, components) : undefined
  if (eye.ball && seen) {
    const { centre, radius } = eye.ball
    // on the skin of the lid, just beside what is seen of the ball
    const on = (px: number, py: number): Vec3 => {
      const away = Math.hypot(px - centre[0], py - centre[1]) || 1
      const out = (away + 2 * map.cell) / away
      const at = seenAt(map, centre[0] + out * (px - centre[0]), centre[1] + out * (py - centre[1]))
      const ball = centre[2] + Math.sqrt(Math.max(0, radius ** 2 - away ** 2))
      return eye.lidded && Math.abs(at[2] - ball) < radius ? at : [px, py, ball]
    }
    const inner = s > 0 ? seen.low : seen.high
    const outer = s > 0 ? seen.high : seen.low
    return {
      inner: on(inner.x, inner.y),
      outer: on(outer.x, outer.y),
      upper: on(seen.top.x, seen.top.y),
      lower: on(seen.bottom.x, seen.bottom.y),
      sure: eye.lidded ? eye.sure : 0.7,
    }
  }
  const half = Math.min(0.42 * Math.abs(x - axis), 1.3 * USUAL.eye * H)
  return {
    inner: seenAt(map, x - s * half, y),
    outer: seenAt(map, x + s * half, y),
    upper: seenAt(map, x, y + 0.4 * half),
    lower: seenAt(map, x, y - 0.4 * half),
    sure: 0.7 * eye.sure,
  }
}

function rimOf(
  { map, mesh }: Face,
  ball: Ball,
  components: { of: Int32Array; count: number },
):
  | {
      low: { x: number; y: number }
      high: { x: number; y: number }
      top: { x: number; y: number }
      bottom: { x: number; y: number }
    }
  | undefined {
  const seen = seenCells(mesh, map, ball, components)
  if (seen.length < 8) return undefined
  const by = (of: (p: { x: number; y: number }) => number): { x: number; y: number } =>
    seen.reduce((a, b) => (of(b) > of(a) ? b : a))
  const [low, high] = [by(p => -p.x), by(p => p.x)]
  // lids are told at the middle of the eye
  const middle = (low.x + high.x) / 2
  const column = seen.filter(p => Math.abs(p.x - middle) < 2 * map.cell)
  const ys = column.map(p => p.y)
  const half = map.cell / 2
  return {
    low: { x: low.x - half, y: low.y },
    high: { x: high.x + half, y: high.y },
    top: { x: middle, y: maxOf(ys) + half },
    bottom: { x: middle, y: -maxOf(ys.map(v => -v)) - half },
  }
}

/** A brow: the ridge above an eye. */
function browAt({ map, H }: Face, x: number, lid: number): { y: number; sure: number } {
  const reach = 0.045 * H
  const usual = lid + 0.075 * H
  let best = { y: usual, score: -Infinity, ridge: 0 }
  for (let y = lid + 0.02 * H; y < lid + 0.2 * H; y += map.cell) {
    const ridge = (depthAt(map, x, y) - (depthAt(map, x, y + reach) + depthAt(map, x, y - reach)) / 2) / H
    if (!Number.isFinite(ridge)) continue
    const score = Math.min(ridge, 0.03) + 0.006 * Math.log(bell(y, usual, 0.03 * H))
    if (score > best.score) best = { y, score, ridge }
  }
  return { y: best.y, sure: Math.min(1, 0.5 + 30 * Math.max(0, best.ridge)) }
}

/** An ear: what stands out farthest at the side, level with eyes and nose. */
function earOf(
  { positions, indices }: Mesh,
  corners: readonly number[],
  { axis, H, level, tip }: Face,
  s: 1 | -1,
): { at: Vec3; sure: number } {
  // prettier-ignore
  let most = 0
  const near: number[] = []
  for (const f of corners)
    for (let k = 0; k < 3; k++) {
      const v = indices[f + k]
      const y = positions[3 * v + 1]
      if (y < level + 0.25 * H || y > tip + 0.3 * H) continue
      const x = s * (positions[3 * v] - axis)
      if (x > 0.2 * H) near.push(v)
      most = Math.max(most, x)
    }
  const edge = near.filter(v => s * (positions[3 * v] - axis) > most - 0.035 * H)
  const sum: Vec3 = [0, 0, 0]
  for (const v of edge) for (let k = 0; k < 3; k++) sum[k] += positions[3 * v + k] / edge.length
  if (edge.length === 0) return { at: [axis + s * 0.36 * H, level + 0.45 * H, 0], sure: 0.2 }
  // ears are small; hair that is farthest out all over is none
  const spread = maxOf(edge.map(v => Math.abs(positions[3 * v + 1] - sum[1]))) / H
  return { at: [axis + s * (most - 0.005 * H), sum[1], sum[2]], sure: spread < 0.2 ? 0.85 : 0.45 }
}
