import { breather, distance, maxOf, minOf, vec3At, type Vec3, type WorkOptions } from '../math'
import { boundsOf, closestOnSurface, weldByPosition, weldedIndices, type Material, type Mesh } from '../mesh'
import { atBind, boneSegments, nearestOnBones, worldPose, type Skeleton } from '../skeleton'
import type { PieceTreatment } from './choice'
import { kindByName, PIECE_KINDS, type KindId, type PieceKind } from './kinds'

/** What a piece is taken for. */
export interface PieceGuess extends PieceTreatment {
  readonly kind: KindId
  /** 0..1 */
  readonly confidence: number
  /** What told it, in words. */
  readonly by: 'name' | 'material' | 'shape' | 'nothing'
}

/** Below this a guess only says what the piece may be; it goes on moving as part of the body. */
export const SURE_ENOUGH = 0.6

const BODY: PieceGuess = { kind: 'body', role: 'body', confidence: 0.5, by: 'nothing' }

/**
 * Takes every piece of a figure for what it looks like: by its name, by the name of its material, by shape and place. A name
 * is believed only where the place agrees: eyes sit in the head. Shape alone is asked only where one piece is a whole body
 * that the others are worn on or hang from; a body put together from loose limbs stays one body.
 * @param mesh upright, metres
 * @param figure its skeleton, with roles
 * @returns one guess a part, in their order
 */
export async function guessPieces(
  mesh: Mesh,
  figure: Skeleton,
  materials: readonly Pick<Material, 'name'>[] = [],
  work: WorkOptions = {},
): Promise<PieceGuess[]> {
  if (mesh.parts.length < 2) return mesh.parts.map(() => BODY)
  const pulse = breather(work)
  // the surface lies where the skin was bound, however the figure rests
  const skeleton = atBind(figure)
  const place = placesOf(skeleton, mesh)
  const shapes = mesh.parts.map(p => shapeOf(mesh, p))
  const main = mainBody(mesh, shapes, place)
  await pulse(0.3)
  const closest = main && closestOnSurface(mesh.positions, indicesOf(mesh, main))
  const headHolder = largestInHead(shapes, place)
  const out: PieceGuess[] = []
  for (const [i, part] of mesh.parts.entries()) {
    await pulse(0.3 + (0.7 * i) / mesh.parts.length)
    const shape = shapes[i]
    if (part.count === 0 || !shape) {
      out.push(BODY)
      continue
    }
    const named = kindByName(part.name) ?? part.aka?.map(kindByName).find(k => k !== undefined)
    const looks = part.material === undefined ? undefined : kindByName(materials[part.material]?.name ?? '')
    const told = named ?? looks
    // a garment needs a body beneath it; where clothes stand for one they are the body
    const beneath = told?.role !== 'garment' || (main !== undefined && !main.has(i))
    if (told && beneath && fits(told, shape, place)) {
      out.push(settle(told, named ? 0.9 : 0.75, named ? 'name' : 'material', shape, skeleton, place))
      continue
    }
    const seen = !told && closest && !main.has(i) && i !== headHolder ? byShape(shape, place, closest, mesh) : undefined
    out.push(seen ? settle(seen.kind, seen.confidence, 'shape', shape, skeleton, place) : BODY)
  }
  // where everything would be worn there is nobody to wear it
  return out.some((g, i) => g.role === 'body' && mesh.parts[i].count > 0) ? out : out.map(() => BODY)
}

interface Places {
  readonly height: number
  readonly head?: { readonly from: number; readonly centre: Vec3 }
  readonly hands: readonly Vec3[]
  readonly feet: readonly Vec3[]
}

interface Shape {
  readonly vertices: Uint32Array
  readonly low: Vec3
  readonly high: Vec3
  readonly centre: Vec3
  readonly area: number
}

function placesOf(skeleton: Skeleton, mesh: Mesh): Places {
  const pose = worldPose(skeleton)
  const at = (role: string): Vec3 | undefined => {
    const j = skeleton.roles.indexOf(role)
    return j < 0 ? undefined : vec3At(pose.positions, j)
  }
  const { min, max } = boundsOf(mesh.positions)
  const height = max[1] - min[1]
  const head = at('head')
  const both = (part: string): Vec3[] => ['left', 'right'].map(s => at(s + part)).filter(p => p !== undefined)
  return {
    height,
    ...(head && { head: { from: head[1], centre: [head[0], (head[1] + max[1]) / 2, head[2]] as Vec3 } }),
    hands: both('Hand'),
    feet: both('Foot'),
  }
}

function shapeOf({ positions, indices }: Mesh, part: Mesh['parts'][number]): Shape | undefined {
  const used = new Set<number>()
  for (let i = part.start; i < part.start + part.count; i++) used.add(indices[i])
  if (used.size === 0) return undefined
  const low: Vec3 = [Infinity, Infinity, Infinity]
  const high: Vec3 = [-Infinity, -Infinity, -Infinity]
  const sum: Vec3 = [0, 0, 0]
  for (const v of used)
    for (let k = 0; k < 3; k++) {
      const x = positions[3 * v + k]
      low[k] = Math.min(low[k], x)
      high[k] = Math.max(high[k], x)
      sum[k] += x
    }
  let area = 0
  for (let f = part.start; f < part.start + part.count; f += 3) {
    const [a, b, c] = [0, 1, 2].map(k => vec3At(positions, indices[f + k]))
    const u = [b[0] - a[0], b[1] - a[1], b[2] - a[2]]
    const w = [c[0] - a[0], c[1] - a[1], c[2] - a[2]]
    area += Math.hypot(u[1] * w[2] - u[2] * w[1], u[2] * w[0] - u[0] * w[2], u[0] * w[1] - u[1] * w[0]) / 2
  }
  return { vertices: Uint32Array.from(used), low, high, centre: sum.map(x => x / used.size) as Vec3, area }
}

/**
 * Pieces that together are a whole body: the largest one with all that is sewn to it along shared edges, if it reaches from the
 * ground to the head and out to both hands.
 */
function mainBody(mesh: Mesh, shapes: readonly (Shape | undefined)[], place: Places): ReadonlySet<number> | undefined {
  const weld = weldByPosition(mesh.positions)
  const corners = weldedIndices(mesh.indices, weld)
  const group = mesh.parts.map((_, i) => i)
  const find = (i: number): number => (group[i] === i ? i : (group[i] = find(group[i])))
  const owner = new Int32Array(weld.first.length).fill(-1)
  mesh.parts.forEach((p, i) => {
    for (let c = p.start; c < p.start + p.count; c++) {
      const v = corners[c]
      if (owner[v] < 0) owner[v] = i
      else if (find(owner[v]) !== find(i)) group[find(i)] = find(owner[v])
    }
  })
  const area = new Map<number, number>()
  shapes.forEach((s, i) => area.set(find(i), (area.get(find(i)) ?? 0) + (s?.area ?? 0)))
  const best = [...area].sort((a, b) => b[1] - a[1])[0]?.[0]
  const members = new Set(mesh.parts.flatMap((_, i) => (find(i) === best ? [i] : [])))
  const own = [...members].flatMap(i => shapes[i] ?? [])
  const low = minOf(own.map(s => s.low[1]))
  const high = maxOf(own.map(s => s.high[1]))
  if (high - low < WHOLE * place.height) return undefined
  for (const hand of place.hands)
    if (!own.some(s => s.low[0] <= hand[0] && s.high[0] >= hand[0] && s.low[1] <= hand[1] && s.high[1] >= hand[1]))
      return undefined
  return place.hands.length === 2 ? members : undefined
}
/** Share of the figure's height a whole body has, whatever hat is on it. */
const WHOLE = 0.8

function indicesOf(mesh: Mesh, parts: ReadonlySet<number>): Uint32Array {
  const lists = [...parts].map(i =>
    mesh.indices.subarray(mesh.parts[i].start, mesh.parts[i].start + mesh.parts[i].count),
  )
  const out = new Uint32Array(lists.reduce((n, l) => n + l.length, 0))
  let at = 0
  for (const l of lists) {
    out.set(l, at)
    at += l.length
  }
  return out
}

/** The piece with most surface above the neck: the head itself, which nothing else rides on. */
function largestInHead(shapes: readonly (Shape | undefined)[], { head }: Places): number {
  let best = -1
  if (!head) return best
  shapes.forEach((s, i) => {
    if (s && s.high[1] > head.from && (best < 0 || s.area > shapes[best]!.area)) best = i
  })
  return best
}

/** Whether a piece sits where such a thing is worn. */
function fits(kind: PieceKind, s: Shape, { head, height }: Places): boolean {
  const size = distance(s.low, s.high)
  if (kind.on !== 'head') return kind.id !== 'bag' && kind.id !== 'weapon' ? true : size < height
  if (!head) return false
  const near = s.centre[1] > head.from - 0.03 * height
  // hair may hang down to the hips; what sits in the face may not
  if (kind.id === 'hair') return s.high[1] > head.from
  if (kind.id === 'hat') return near
  return near && size < 0.3 * height
}

/** What shape and place alone tell. */
function byShape(
  s: Shape,
  place: Places,
  body: ReturnType<typeof closestOnSurface>,
  mesh: Mesh,
): { kind: PieceKind; confidence: number } | undefined {
  const { height, head, hands } = place
  const kind = (id: KindId): PieceKind => PIECE_KINDS.find(k => k.id === id)!
  const size = distance(s.low, s.high)
  if (head && s.low[1] > head.from - 0.02 * height) {
    if (size < 0.2 * height && roundness(mesh, s) < 0.12) return { kind: kind('eye'), confidence: 0.8 }
    // whatever else lies wholly in the head goes with it
    return { kind: kind('hat'), confidence: 0.7 }
  }
  const step = Math.max(1, Math.floor(s.vertices.length / 400))
  const away: number[] = []
  for (let i = 0; i < s.vertices.length; i += step) {
    const v = s.vertices[i]
    const near = body.nearest(mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2])
    if (near) away.push(near.distance / height)
  }
  away.sort((a, b) => a - b)
  const at = (share: number): number => away[Math.floor(share * (away.length - 1))] ?? 0
  // a shell all over close to the body, about it and not beside it
  const wide = s.high[0] - s.low[0]
  const about = s.low[0] < s.centre[0] && Math.abs(s.centre[0]) < 0.25 * wide
  if (at(0.85) < 0.045 && about && size > 0.12 * height) return { kind: kind('clothes'), confidence: 0.7 }
  if (at(0.5) > 0.02 && size < 0.9 * height) {
    const held = hands.some(h => distance(s.centre, h) < 0.25 * size + 0.06 * height)
    return { kind: kind(held ? 'weapon' : 'bag'), confidence: held ? 0.65 : 0.62 }
  }
  return undefined
}

/** How far the surface is from a ball, as a share of its radius; of several balls the worst one alone would be. */
function roundness(mesh: Mesh, s: Shape): number {
  // two eyes in one piece lie on either side of the middle
  const groups = [
    s.vertices.filter(v => mesh.positions[3 * v] >= s.centre[0]),
    s.vertices.filter(v => mesh.positions[3 * v] < s.centre[0]),
  ]
  const apart = (list: Uint32Array): number => {
    if (list.length < 8) return 0
    const c = [0, 1, 2].map(k => {
      let low = Infinity,
        high = -Infinity
      for (const v of list) {
        low = Math.min(low, mesh.positions[3 * v + k])
        high = Math.max(high, mesh.positions[3 * v + k])
      }
      return (low + high) / 2
    }) as Vec3
    const r = Array.from(list, v => distance(c, vec3At(mesh.positions, v)))
    const mean = r.reduce((a, b) => a + b, 0) / r.length
    return Math.sqrt(r.reduce((a, b) => a + (b - mean) ** 2, 0) / r.length) / (mean || 1)
  }
  return Math.min(apart(s.vertices), maxOf(groups.map(apart)))
}

function settle(
  kind: PieceKind,
  confidence: number,
  by: PieceGuess['by'],
  shape: Shape,
  skeleton: Skeleton,
  place: Places,
): PieceGuess {
  const base = { kind: kind.id, confidence, by }
  if (confidence < SURE_ENOUGH) return { ...base, role: 'body' }
  if (kind.role !== 'rigid') return { ...base, role: kind.role }
  const joint =
    kind.id === 'eye'
      ? eyeOf(shape, skeleton, place)
      : kind.on === 'head'
        ? 'head'
        : nearestCarrier(shape, skeleton, place)
  return skeleton.roles.includes(joint) ? { ...base, role: 'rigid', joint } : { ...base, role: 'body' }
}

/** The eye it is, where the skeleton has eyes; a piece that holds both goes with the head. */
function eyeOf(s: Shape, skeleton: Skeleton, { height }: Places): string {
  const side = s.low[0] > -0.005 * height ? 'leftEye' : s.high[0] < 0.005 * height ? 'rightEye' : 'head'
  return skeleton.roles.includes(side) ? side : 'head'
}

/** The hand that holds it, or the part of the trunk it hangs from: never a thigh or an upper arm, which would swing it about. */
function nearestCarrier(s: Shape, skeleton: Skeleton, { hands, height }: Places): string {
  for (const [i, hand] of hands.entries()) {
    const inside = [0, 1, 2].every(k => s.low[k] - 0.02 * height < hand[k] + 0.06 * height && s.high[k] + 0.02 * height > hand[k] - 0.06 * height) // prettier-ignore
    if (inside && hands.length === 2) return i === 0 ? 'leftHand' : 'rightHand'
  }
  const trunk = ['hips', 'spine', 'chest', 'upperChest'].filter(r => skeleton.roles.includes(r))
  const bones = boneSegments(skeleton)
  const nearest = skeleton.roles[nearestOnBones(bones, s.centre).joint]
  if (nearest && trunk.includes(nearest)) return nearest
  if (nearest && /(Leg|Foot|Toes)$/.test(nearest)) return 'hips'
  if (nearest === 'head' || nearest === 'neck') return 'head'
  // beside the trunk at the height of the nearest of its joints
  const pose = worldPose(skeleton)
  const gap = (r: string): number => Math.abs(pose.positions[3 * skeleton.roles.indexOf(r) + 1] - s.centre[1])
  return [...trunk].sort((a, b) => gap(a) - gap(b))[0] ?? 'hips'
}
