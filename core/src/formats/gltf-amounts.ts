import { TYPE_SIZE } from '../document'
import { ChiraxisError } from '../math'
import { MESH_LIMITS } from '../mesh'
import { READ_LIMITS } from './check-received'

/** Bounds on a glTF's own lists, beyond what any format is bound by. */
const MOST = {
  lists: 500_000,
  channels: 1_000_000,
  skinJoints: 500_000,
  /** Bytes of accessors that have no data of their own, all zeros but for what is told sparsely. */
  empty: 128 * 2 ** 20,
} as const

type Json = Readonly<Record<string, unknown>>
const isObject = (v: unknown): v is Json => typeof v === 'object' && v !== null && !Array.isArray(v)
const objects = (v: unknown): readonly Json[] => (Array.isArray(v) ? v.filter(isObject) : [])
const listOf = (v: unknown): readonly unknown[] => (Array.isArray(v) ? v : [])

/**
 * Adds up what a glTF would take once read, products included: a mesh counts once for every node it hangs on, a morph
 * shape as often as its mesh. Nothing is allocated for it.
 * @throws ChiraxisError `too-large`, `bad-syntax`
 */
export function checkAmounts(json: Json): void {
  for (const [name, list] of Object.entries(json)) {
    if (LISTS.has(name) && list !== undefined && !(Array.isArray(list) && list.every(isObject)))
      throw new ChiraxisError('bad-syntax', `The ${name} of the glTF file are no list of objects; the file is damaged.`)
    if (Array.isArray(list)) atMost(list.length, MOST.lists, `entries in ${name.slice(0, 40)}`)
  }
  const accessors = objects(json.accessors)
  const counts = accessors.map(a => (typeof a.count === 'number' ? a.count : 0))
  let empty = 0
  accessors.forEach((a, i) => {
    if (a.bufferView === undefined) empty += 4 * counts[i] * (TYPE_SIZE[String(a.type)] ?? 1)
  })
  atMost(empty, MOST.empty, 'bytes of data that is nowhere told')
  atMost(listOf(json.materials).length, READ_LIMITS.materials, 'materials')
  atMost(listOf(json.images).length, READ_LIMITS.images, 'images')
  atMost(listOf(json.animations).length, READ_LIMITS.takes, 'animations')
  const channels = objects(json.animations).reduce((n, a) => n + listOf(a.channels).length, 0)
  atMost(channels, MOST.channels, 'animation channels')
  const skinJoints = objects(json.skins).reduce((n, s) => n + listOf(s.joints).length, 0)
  atMost(skinJoints, MOST.skinJoints, 'joints in its skins')
  const named = ['scenes', 'nodes', 'meshes', 'materials', 'animations', 'images', 'textures', 'skins']
  for (const list of named)
    for (const { name } of objects(json[list])) {
      if (name !== undefined && typeof name !== 'string')
        throw new ChiraxisError('bad-syntax', `A name among the ${list} of the glTF file is no text.`)
      if (typeof name === 'string' && name.length > READ_LIMITS.name)
        throw new ChiraxisError(
          'too-large',
          `A name among the ${list} of the glTF file has ${name.length.toLocaleString('en')} letters; at most ${READ_LIMITS.name.toLocaleString('en')} can be read.`,
        )
    }
  const amounts = objects(json.meshes).map(m => amountOf(m, counts))
  let parts = 0,
    vertices = 0,
    corners = 0,
    shapes = 0
  for (const node of objects(json.nodes)) {
    const own = typeof node.mesh === 'number' ? amounts[node.mesh] : undefined
    if (!own) continue
    parts += own.parts
    vertices += own.vertices
    corners += own.corners
    shapes += own.shapes
  }
  atMost(parts, READ_LIMITS.parts, 'pieces, each counted once for every node it belongs to')
  atMost(vertices, MESH_LIMITS.vertices, 'vertices, each counted once for every node its mesh belongs to')
  atMost(corners / 3, MESH_LIMITS.triangles, 'triangles, each counted once for every node its mesh belongs to')
  atMost(shapes, READ_LIMITS.morphVertices, 'places of morph shapes')
}

const LISTS: ReadonlySet<string> = new Set([
  'accessors',
  'animations',
  'buffers',
  'bufferViews',
  'cameras',
  'images',
  'materials',
  'meshes',
  'nodes',
  'samplers',
  'scenes',
  'skins',
  'textures',
])

interface Amount {
  parts: number
  vertices: number
  corners: number
  shapes: number
}

function amountOf(mesh: Json, counts: readonly number[]): Amount {
  const sum: Amount = { parts: 0, vertices: 0, corners: 0, shapes: 0 }
  // primitives that share their vertices take them once
  const seen = new Set<string>()
  for (const p of objects(mesh.primitives)) {
    const attributes = isObject(p.attributes) ? p.attributes : {}
    const vertices = counts[Number(attributes.POSITION)] ?? 0
    const shared = JSON.stringify([attributes, p.targets])
    sum.parts++
    sum.corners += typeof p.indices === 'number' ? (counts[p.indices] ?? 0) : vertices
    if (seen.has(shared)) continue
    seen.add(shared)
    sum.vertices += vertices
    sum.shapes += vertices * listOf(p.targets).length
  }
  return sum
}

function atMost(n: number, most: number, what: string): void {
  if (!(n <= most))
    throw new ChiraxisError(
      'too-large',
      `The glTF file holds ${Math.round(n).toLocaleString('en')} ${what}; at most ${Math.round(most).toLocaleString('en')} can be read.`,
    )
}
