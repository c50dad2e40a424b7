import {
  add,
  compose,
  cross,
  decompose,
  dot,
  fromAxes,
  length,
  normalize,
  rotate,
  scale,
  sub,
  symmetricEigen,
  vec3At,
  type Mat4,
  type Quat,
  type Vec3,
} from '../math'
import { enclosedVolume, transformMesh, type Mesh } from '../mesh'
import type { Prop, PropPlace } from './prop'

/** A prop as its file holds it, in metres. */
export interface PropThing {
  readonly mesh: Mesh
  /** Every place it can be held by or turned about: the file's, found ones where it tells none, and those of one's own. */
  readonly places: readonly PropPlace[]
  /** Of what its surface encloses, cubic metres, and where the middle of that lies. */
  readonly volume: number
  readonly middle: Vec3
  /** Kilograms, as told or by its volume. */
  readonly mass: number
  readonly massTold: boolean
}

/** A node of a file with its place in the scene. */
export interface NamedNode {
  readonly name: string
  readonly world: Mat4
  readonly extras?: unknown
}

/** What a litre of an unknown thing weighs, kilograms: seasoned wood. */
const LITRE = 0.65
/** So many times as long as wide is something with a shaft. */
const LONG = 4
/** What lies this near to a place along its shaft tells how thick it is, shares of its length. */
const NEAR = 0.03
const THICK_AT_LEAST = 0.004

/** What a prop comes to. @param nodes of its file, which may be places to hold it by */
export function propThing(
  received: Mesh,
  nodes: readonly NamedNode[],
  prop: Pick<Prop, 'scale' | 'places' | 'mass'>,
): PropThing {
  const unit = prop.scale ?? 1
  const mesh = unit === 1 ? received : transformMesh(received, compose([0, 0, 0], [0, 0, 0, 1], [unit, unit, unit]))
  const told = placesOfFile(nodes, unit)
  const found = told.some(p => !p.pivot) ? told : [placeByShape(mesh), ...told]
  const own = prop.places ?? []
  const places = [...found.filter(p => !own.some(o => o.id === p.id)), ...own].map(p => ({
    ...p,
    thick: p.thick ?? thicknessAt(mesh, p),
  }))
  const volume = Math.abs(enclosedVolume(mesh.positions, mesh.indices))
  const middle = middleOf(mesh)
  return { mesh, places, volume, middle, mass: prop.mass ?? 1000 * LITRE * volume, massTold: prop.mass !== undefined }
}

/** Nodes called grip or pivot: x points where the thumb does, y where the fingers do. */
function placesOfFile(nodes: readonly NamedNode[], unit: number): PropPlace[] {
  const taken = new Set<string>()
  return nodes.flatMap(({ name, world, extras }): PropPlace[] => {
    const kind = /^(grip|pivot)\b[\s:._-]*(.*)$/i.exec(name)
    if (!kind) return []
    const { translation, rotation } = decompose(world)
    let id = name
    for (let i = 2; taken.has(id); i++) id = `${name} ${i}`
    taken.add(id)
    const { thick, round, hangs } = (extras ?? {}) as { thick?: unknown; round?: unknown; hangs?: unknown }
    return [
      {
        id,
        name: kind[2] || (kind[1].toLowerCase() === 'grip' ? 'Grip' : 'Pivot'),
        at: scale(translation, unit),
        turn: rotation,
        ...(typeof thick === 'number' && thick > 0 && { thick: thick * unit }),
        ...(round === true && { round }),
        ...(hangs === true && { hangs }),
        ...(kind[1].toLowerCase() === 'pivot' && { pivot: true }),
      },
    ]
  })
}

/** Where to hold a thing nobody told anything of: the middle of its shaft, where it has one, else its middle. */
function placeByShape(mesh: Mesh): PropPlace {
  const middle = middleOf(mesh)
  const m = [0, 0, 0, 0, 0, 0]
  for (let i = 0; i < mesh.positions.length; i += 3) {
    const [x, y, z] = sub(vec3At(mesh.positions, i / 3), middle)
    m[0] += x * x
    m[1] += x * y
    m[2] += x * z
    m[3] += y * y
    m[4] += y * z
    m[5] += z * z
  }
  const { values, vectors } = symmetricEigen(m)
  const isLong = values[0] > LONG * LONG * Math.max(values[1], 1e-12)
  // upwards along the shaft; fingers point ahead of the thing
  const along = isLong ? normalize(vectors[0]) : ([0, 1, 0] as Vec3)
  const thumb = along[1] < -1e-6 ? scale(along, -1) : along
  const ahead: Vec3 = Math.abs(thumb[2]) < 0.9 ? [0, 0, 1] : [1, 0, 0]
  const fingers = normalize(sub(ahead, scale(thumb, dot(ahead, thumb))))
  return { id: 'middle', name: 'Middle', at: middle, turn: handTurn(thumb, fingers), ...(isLong && { round: true }) }
}

/** Axes of a hand or of a place it holds: x to the thumb, y to the finger tips. */
export const handTurn = (thumb: Vec3, fingers: Vec3): Quat => fromAxes(thumb, fingers, cross(thumb, fingers))

/** The middle of what a surface encloses, or of the surface where it encloses nothing. */
function middleOf({ positions, indices }: Mesh): Vec3 {
  let volume = 0
  const sum: Vec3 = [0, 0, 0]
  for (let f = 0; f < indices.length; f += 3) {
    const [a, b, c] = [
      vec3At(positions, indices[f]),
      vec3At(positions, indices[f + 1]),
      vec3At(positions, indices[f + 2]),
    ]
    const own = dot(a, cross(b, c)) / 6
    volume += own
    for (let k = 0; k < 3; k++) sum[k] += (own * (a[k] + b[k] + c[k])) / 4
  }
  const n = positions.length / 3
  const mean: Vec3 = [0, 0, 0]
  const low: Vec3 = [Infinity, Infinity, Infinity]
  const high: Vec3 = [-Infinity, -Infinity, -Infinity]
  for (let i = 0; i < positions.length; i++) {
    mean[i % 3] += positions[i] / n
    low[i % 3] = Math.min(low[i % 3], positions[i])
    high[i % 3] = Math.max(high[i % 3], positions[i])
  }
  const middle = scale(sum, 1 / (volume || 1))
  // an open surface may tell a middle that lies nowhere near it
  const inside = volume !== 0 && middle.every((v, k) => v >= low[k] - 1e-6 && v <= high[k] + 1e-6)
  return inside ? middle : mean
}

/** Half across at a place, beside the way the thumb points. */
function thicknessAt({ positions }: Mesh, { at, turn }: Pick<PropPlace, 'at' | 'turn'>): number {
  const way = rotate(turn, [1, 0, 0])
  let from = Infinity,
    to = -Infinity
  for (let i = 0; i < positions.length / 3; i++) {
    const t = dot(sub(vec3At(positions, i), at), way)
    from = Math.min(from, t)
    to = Math.max(to, t)
  }
  for (let near = NEAR * (to - from); near <= to - from; near *= 3) {
    const list: number[] = []
    for (let i = 0; i < positions.length / 3; i++) {
      const d = sub(vec3At(positions, i), at)
      const t = dot(d, way)
      if (Math.abs(t) <= near) list.push(length(sub(d, scale(way, t))))
    }
    // a shaft between the nearest and the farthest of what is there; a stray ring around it is none
    if (list.length >= 6) return Math.max(THICK_AT_LEAST, list.sort((a, b) => a - b)[list.length >> 2])
  }
  // a long shaft has no corners between its ends: the nearest ones tell
  const list = Array.from({ length: positions.length / 3 }, (_, i) => {
    const d = sub(vec3At(positions, i), at)
    return length(sub(d, scale(way, dot(d, way))))
  }).sort((a, b) => a - b)
  return Math.max(THICK_AT_LEAST, list[list.length >> 2] ?? THICK_AT_LEAST)
}

/** The lowest a prop reaches when it is turned so, beside where its own space begins; metres. */
export function lowestOf({ mesh }: PropThing, turn: Quat): number {
  const up = rotate([-turn[0], -turn[1], -turn[2], turn[3]], [0, 1, 0])
  let low = Infinity
  for (let i = 0; i < mesh.positions.length / 3; i++) low = Math.min(low, dot(vec3At(mesh.positions, i), up))
  return Number.isFinite(low) ? low : 0
}

/** A place of a prop's own, where a surface was pressed: it faces the way the surface does. */
export function placeOn(at: Vec3, out: Vec3, id: string, name: string, pivot = false): PropPlace {
  const fingers = normalize(add(out, [1e-9, 0, 0]))
  const aside: Vec3 = Math.abs(fingers[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0]
  const thumb = normalize(sub(aside, scale(fingers, dot(aside, fingers))))
  return { id, name, at, turn: handTurn(thumb, fingers), ...(pivot && { pivot }) }
}
