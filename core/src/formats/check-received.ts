import { ChiraxisError } from '../math'
import { MESH_LIMITS, partsApart, PLAIN_COLOR, plainMaterial, type Material, type Mesh } from '../mesh'
import type { Received } from './received'

/** Bounds on what any file may hold, whatever its format. Readers keep to them before they allocate. */
export const READ_LIMITS = {
  joints: 5_000,
  /** Joints times frames of all takes of a file together: about 340 MB. */
  jointFrames: 12_000_000,
  frames: 500_000,
  takes: 5_000,
  parts: 20_000,
  materials: 10_000,
  images: 4_000,
  /** Letters of any name. */
  name: 1_000,
  /** Vertices times morph shapes of a file together. */
  morphVertices: 20_000_000,
} as const

/**
 * Counts joints times frames as takes are read, so that many or long ones are refused before they take memory.
 * @param bytes size of a file that tells keys and not frames: a small one cannot ask for hours of work
 */
export function jointFrameBudget(bytes = Infinity): (name: string, joints: number, frames: number) => void {
  const most = Math.min(READ_LIMITS.jointFrames, 2_000_000 + bytes / 4)
  let held = 0
  return (name, joints, frames) => {
    held += joints * frames
    if (frames > READ_LIMITS.frames || held > most)
      throw new ChiraxisError(
        'too-large',
        `The take ${shortly(name)} has ${frames.toLocaleString('en')} frames of ${joints.toLocaleString('en')} joints, which is more than can be read at once. Cut the recording into shorter ones.`,
      )
  }
}

/** Losses told at most, so that a file of thousands of broken textures does not fill the window. */
const TOLD = 100

function fewOf(told: readonly string[]): string[] {
  const each = [...new Set(told)].map(t => (t.length > 600 ? `${t.slice(0, 600)}…` : t))
  return each.length <= TOLD ? each : [...each.slice(0, TOLD), `${each.length - TOLD} more things were not kept.`]
}

const shortly = (name: string): string => (name.length > 60 ? `${name.slice(0, 60)}…` : name)

/**
 * Looks over what a reader made of a file, as it is stored. What no computation could trust is refused; directions,
 * texture coordinates and colours that are not numbers are left out or set to nothing, and told.
 * @throws ChiraxisError `not-finite`, `index-range`, `too-large`
 */
export function checkReceived(received: Received): Received {
  const { mesh, skeleton, skin, takes, materials = [], images = [] } = received
  count(takes.length, READ_LIMITS.takes, 'takes')
  count(materials.length, READ_LIMITS.materials, 'materials')
  count(images.length, READ_LIMITS.images, 'images')
  names(takes, 'take')
  names(materials, 'material')
  names(images, 'image')
  const dropped = fewOf(received.dropped)
  const looks = materials.map(m => soundMaterial(m, dropped))
  if (skeleton) {
    const joints = skeleton.names.length
    count(joints, READ_LIMITS.joints, 'joints')
    names(
      skeleton.names.map(name => ({ name })),
      'joint',
    )
    const jointAt = (at: number): string => `The joint ${shortly(skeleton.names[at] ?? String(at))}`
    finite(skeleton.restTranslations, 3, jointAt)
    finite(skeleton.restRotations, 4, jointAt)
    if (skeleton.tips) finite(skeleton.tips, 3, jointAt)
    if (skeleton.bind) {
      finite(skeleton.bind.positions, 3, jointAt)
      finite(skeleton.bind.rotations, 4, jointAt)
    }
    const budget = jointFrameBudget()
    for (const take of takes) {
      budget(take.name, joints, take.frames)
      if (!(take.fps > 0 && Number.isFinite(take.fps)))
        throw new ChiraxisError('not-finite', `The take ${shortly(take.name)} has no rate that could be played.`)
      const frameAt = (at: number): string => `Frame ${Math.floor(at / joints)} of the take ${shortly(take.name)}`
      finite(take.rotations, 4, frameAt)
      finite(take.translations, 3, frameAt)
    }
    // a turn of no length is no turn at all
    const flat = unitRotations(skeleton.restRotations) + takes.reduce((n, t) => n + unitRotations(t.rotations), 0)
    if (flat > 0) dropped.push(`${flat} turns of joints had no direction and were taken as no turn.`)
  }
  const whole = { ...received, ...(received.materials && { materials: looks }), dropped }
  if (!mesh) return whole
  const checked = checkSurface(mesh, dropped)
  if (skin) {
    finite(skin.weights, skin.influences, v => `Vertex ${v} of the skin`, 'a weight')
    const joints = skeleton?.names.length ?? 0
    for (let i = 0; i < skin.joints.length; i++)
      if (skin.joints[i] >= Math.max(1, joints))
        throw new ChiraxisError(
          'index-range',
          `Vertex ${Math.floor(i / skin.influences)} is bound to joint ${skin.joints[i]}, which does not exist.`,
        )
  }
  return { ...whole, mesh: checked }
}

/** A material whose values can be shown; what is no number becomes that of a plain one, and is told. */
function soundMaterial(material: Material, dropped: string[]): Material {
  const plain = plainMaterial(material.name)
  const sound = (value: number, instead: number): number => (Number.isFinite(value) ? value : instead)
  const { color: c, alpha, metallic, roughness } = material
  if ([...c, alpha, metallic, roughness].every(Number.isFinite)) return material
  dropped.push(`The material ${shortly(material.name)} had values that are not numbers; plain ones stand for them.`)
  return {
    ...material,
    color: [sound(c[0], plain.color[0]), sound(c[1], plain.color[1]), sound(c[2], plain.color[2])],
    alpha: sound(alpha, plain.alpha),
    metallic: sound(metallic, plain.metallic),
    roughness: sound(roughness, plain.roughness),
  }
}

/** A body's farthest coordinate and smallest size, in its own unit. */
const FARTHEST = 1e9
const SMALLEST = 1e-9

function checkSurface(mesh: Mesh, dropped: string[]): Mesh {
  count(mesh.parts.length, READ_LIMITS.parts, 'pieces')
  names(mesh.parts, 'piece')
  if (mesh.positions.length / 3 > MESH_LIMITS.vertices)
    throw new ChiraxisError(
      'too-large',
      `The body has more than ${MESH_LIMITS.vertices.toLocaleString('en')} vertices.`,
    )
  finite(mesh.positions, 3, v => `Vertex ${v}`)
  const size = extentOf(mesh)
  if (!(size.largest <= FARTHEST))
    throw new ChiraxisError(
      'too-large',
      `A vertex of the body lies ${size.largest.toPrecision(3)} units away, farther than anything that could be rigged; the file is damaged or in a strange unit.`,
    )
  if (!(size.extent >= SMALLEST))
    throw new ChiraxisError(
      'no-triangles',
      size.extent === 0
        ? 'All points of the body lie at one place, so there is nothing to rig.'
        : `The whole body is ${size.extent.toPrecision(2)} units large, too small to be told from a point. Save it in metres, centimetres or millimetres.`,
    )
  const out: { -readonly [K in keyof Mesh]: Mesh[K] } = { ...mesh }
  if (new Set(mesh.parts.map(p => p.name)).size < mesh.parts.length) out.parts = partsApart(mesh.parts)
  if (out.parts.some(p => !p.color.every(Number.isFinite)))
    out.parts = out.parts.map(p => (p.color.every(Number.isFinite) ? p : { ...p, color: [...PLAIN_COLOR] }))
  if (mesh.normals && !mesh.normals.every(Number.isFinite)) {
    delete out.normals
    dropped.push('Some normals were not numbers; all are worked out from the surface.')
  }
  const cleared = (values: Float32Array, what: string): Float32Array => {
    let wrong = 0
    const clean = values.map(v => (Number.isFinite(v) ? v : (wrong++, 0)))
    if (wrong === 0) return values
    dropped.push(`${wrong} values of ${what} were not numbers and are zero now.`)
    return clean
  }
  if (mesh.uvs) out.uvs = cleared(mesh.uvs, 'the texture coordinates')
  if (mesh.colors) out.colors = cleared(mesh.colors, 'the vertex colours')
  if (mesh.morphs) {
    count((mesh.morphs.length * mesh.positions.length) / 3, READ_LIMITS.morphVertices, 'places of morph shapes')
    names(mesh.morphs, 'morph shape')
    out.morphs = mesh.morphs.map(m => ({ ...m, offsets: cleared(m.offsets, `the morph shape ${shortly(m.name)}`) }))
  }
  return out
}

/** The farthest coordinate, and the longest side of the box around what the triangles use. */
function extentOf({ positions, indices }: Mesh): { largest: number; extent: number } {
  let largest = 0
  for (let i = 0; i < positions.length; i++) largest = Math.max(largest, Math.abs(positions[i]))
  let extent = 0
  for (let k = 0; k < 3; k++) {
    let low = Infinity,
      high = -Infinity
    for (let i = 0; i < indices.length; i++) {
      const x = positions[3 * indices[i] + k]
      if (x < low) low = x
      if (x > high) high = x
    }
    extent = Math.max(extent, high - low)
  }
  return { largest, extent }
}

function count(n: number, most: number, what: string): void {
  if (n > most)
    throw new ChiraxisError(
      'too-large',
      `The file holds ${n.toLocaleString('en')} ${what}; at most ${most.toLocaleString('en')} can be read.`,
    )
}

function names(list: readonly { readonly name: string }[], what: string): void {
  for (const { name } of list) {
    if (typeof name !== 'string') throw new ChiraxisError('bad-syntax', `The name of a ${what} is no text.`)
    if (name.length > READ_LIMITS.name)
      throw new ChiraxisError(
        'too-large',
        `The name of a ${what} has ${name.length.toLocaleString('en')} letters (${name.slice(0, 30)}…); at most ${READ_LIMITS.name.toLocaleString('en')} can be read.`,
      )
  }
}

function finite(values: ArrayLike<number>, size: number, at: (i: number) => string, what = 'a value'): void {
  for (let i = 0; i < values.length; i++)
    if (!Number.isFinite(values[i]))
      throw new ChiraxisError(
        'not-finite',
        `${at(Math.floor(i / size))} has ${what} that is not a number or too large; the file is damaged.`,
      )
}

/** Sets turns of no length to none. @returns how many there were */
function unitRotations(values: Float32Array): number {
  let flat = 0
  for (let i = 0; i < values.length; i += 4) {
    const long = values[i] ** 2 + values[i + 1] ** 2 + values[i + 2] ** 2 + values[i + 3] ** 2
    if (long > 1e-12) continue
    values[i] = values[i + 1] = values[i + 2] = 0
    values[i + 3] = 1
    flat++
  }
  return flat
}
