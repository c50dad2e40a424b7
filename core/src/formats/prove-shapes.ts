import { floatValues, type GltfDocument } from '../document'
import { weightsThrough } from '../corrective'
import { shapeWeights } from '../face'
import type { Mesh } from '../mesh'
import { keptBack } from './kept-back'
import type { GltfContent } from './gltf-write'
import type { Received } from './received'
import { twinParts } from './twin-parts'

/** Farther than this share of the body's size no vertex of a shape may go from where it should. */
const FARTHEST = 1e-5
const MOST_WEIGHT = 1e-4

/**
 * Holds the shapes of a file that was read back against those that were to be written: how far every corner of the body goes, and
 * how strongly each shows in every frame of every take.
 * @throws ChiraxisError `unproven`
 */
export function proveShapes(content: GltfContent, read: Received): void {
  const { mesh, skeleton, shapes = [], takes = [] } = content
  if (!mesh || !read.mesh || !read.document) return
  const refuse = (what: string): never => {
    throw keptBack(what)
  }
  const size = sizeOf(mesh)
  const names = new Set([...(mesh.morphs ?? []), ...shapes].map(s => s.name))
  for (const { name, offsets } of shapes) {
    const own = read.mesh.morphs?.find(m => m.name === name)
    if (!own && offsets.some(v => v !== 0)) refuse(`the shape ${name} is missing`)
    if (own && farthest(mesh, offsets, read.mesh, own.offsets) > FARTHEST * size)
      refuse(`the shape ${name} is not as it should be`)
  }
  if (!skeleton) return
  for (const [i, take] of takes.entries()) {
    const through = weightsThrough(skeleton, shapes, take)
    const face = shapeWeights(take.scalars, names, content.expressions ?? {})
    const told = shapes.map(({ name, offsets, turns }, s) => ({
      name,
      still: offsets.every(v => v === 0),
      wanted: Array.from({ length: take.frames }, (_, f) =>
        turns.length > 0 ? through[f * shapes.length + s] : (face.get(name)?.[f] ?? 0),
      ),
    }))
    // shapes the body came with, as far as the face of the take moves them
    for (const { name } of mesh.morphs ?? []) {
      const wanted = face.get(name)
      const came = content.source?.takes[content.source.takeFrom[i] ?? -1]
      // what a take of the file moved goes on as it was, spline or not
      if (wanted && came?.scalars?.find(s => s.name === name)?.values !== wanted)
        told.push({ name, still: false, wanted: Array.from(wanted) })
    }
    told.forEach(({ name, still, wanted }) => {
      if (still) return
      for (const shown of weightsIn(read.document!, i, name, wanted.length, take.fps))
        if (shown.some((w, f) => Math.abs(w - wanted[f]) > MOST_WEIGHT))
          refuse(`the shape ${name} does not follow the take ${take.name}`)
    })
  }
}

const sizeOf = ({ positions }: Mesh): number => positions.reduce((most, v) => Math.max(most, Math.abs(v)), 1e-9)

function farthest(mesh: Mesh, offsets: Float32Array, other: Mesh, found: Float32Array): number {
  let most = 0
  for (const [part, twin] of twinParts(mesh, other)) {
    if (!twin) continue
    for (let i = 0; i < part.count; i++)
      for (let k = 0; k < 3; k++) {
        const a = offsets[3 * mesh.indices[part.start + i] + k]
        const b = found[3 * other.indices[twin.start + i] + k]
        most = Math.max(most, Math.abs(a - b))
      }
  }
  return most
}

/** How strongly a shape shows in every frame of an animation, for each node that has it. */
function weightsIn(document: GltfDocument, animation: number, name: string, frames: number, fps: number): number[][] {
  const { json } = document
  const told = json.animations?.[animation]
  return (json.nodes ?? []).flatMap((node, n) => {
    const mesh = node.mesh === undefined ? undefined : json.meshes?.[node.mesh]
    const names = (mesh?.extras as { targetNames?: string[] } | undefined)?.targetNames ?? []
    const at = names.indexOf(name)
    if (!told || at < 0) return []
    const channel = told.channels.find(c => c.target.node === n && c.target.path === 'weights')
    if (!channel) return [new Array<number>(frames).fill(NaN)]
    const sampler = told.samplers[channel.sampler]
    const times = floatValues(document, sampler.input)
    const values = floatValues(document, sampler.output)
    const valueAt = (key: number): number => values[key * names.length + at]
    return [
      Array.from({ length: frames }, (_, f) => {
        const t = f / fps
        const after = times.findIndex(time => time >= t - 1e-5)
        if (after < 0) return valueAt(times.length - 1)
        if (after === 0 || Math.abs(times[after] - t) < 1e-5) return valueAt(after)
        const share = (t - times[after - 1]) / (times[after] - times[after - 1])
        return valueAt(after - 1) + share * (valueAt(after) - valueAt(after - 1))
      }),
    ]
  })
}
