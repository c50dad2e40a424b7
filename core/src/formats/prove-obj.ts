import type { Mesh } from '../mesh'
import { keptBack } from './kept-back'
import type { SceneProof } from './prove-usd'
import { sizeOf } from './size-of'
import type { FileBeside } from './write-obj'

const FARTHEST = 1e-5

/**
 * Reads an OBJ back line by line and compares every corner of every piece: place, texture coordinate, and that its library and
 * images are there.
 * @param unit metres a unit of the file is
 * @throws ChiraxisError `unproven`
 */
export function proveObj(bytes: Uint8Array, beside: readonly FileBeside[], mesh: Mesh, unit: number): SceneProof {
  const places: number[] = [],
    coordinates: number[] = []
  const pieces: { readonly name: string; readonly corners: [place: number, coordinate: number][] }[] = []
  const libraries: string[] = []
  for (const line of new TextDecoder().decode(bytes).split('\n')) {
    const [word, ...rest] = line.split(' ')
    if (word === 'v') places.push(Number(rest[0]), Number(rest[1]), Number(rest[2]))
    else if (word === 'vt') coordinates.push(Number(rest[0]), Number(rest[1]))
    else if (word === 'g') pieces.push({ name: rest.join(' '), corners: [] })
    else if (word === 'mtllib') libraries.push(rest.join(' '))
    else if (word === 'f') {
      if (rest.length !== 3 && rest.length !== 4) throw keptBack('a face is neither triangle nor quad')
      const fan = rest.length === 3 ? rest : [rest[0], rest[1], rest[2], rest[0], rest[2], rest[3]]
      for (const corner of fan) {
        const [v, t] = corner.split('/')
        pieces[pieces.length - 1]?.corners.push([Number(v) - 1, t ? Number(t) - 1 : -1])
      }
    }
  }
  const names = new Set(beside.map(f => f.name))
  for (const library of libraries) if (!names.has(library)) throw keptBack(`its library ${library} is missing`)
  for (const file of beside.filter(f => f.name.endsWith('.mtl')))
    for (const line of new TextDecoder().decode(file.bytes).split('\n')) {
      const image = /^(?:map_\w+|norm|disp) (.+)$/.exec(line)?.[1]
      if (image && !names.has(image)) throw keptBack(`its image ${image} is missing`)
    }
  const parts = mesh.parts.filter(p => p.count > 0)
  const found = pieces.filter(p => p.corners.length > 0)
  if (found.length !== parts.length) throw keptBack(`${found.length} of ${parts.length} pieces are there`)
  let most = 0
  parts.forEach((part, i) => {
    const { corners } = found[i]
    if (corners.length !== part.count) throw keptBack(`the piece ${part.name} lost triangles`)
    corners.forEach(([place, coordinate], at) => {
      const v = mesh.indices[part.start + at]
      for (let k = 0; k < 3; k++)
        most = Math.max(most, Math.abs((places[3 * place + k] ?? Infinity) - mesh.positions[3 * v + k]))
      if (!mesh.uvs) return
      const told = [mesh.uvs[2 * v], 1 - mesh.uvs[2 * v + 1]]
      told.forEach((t, k) => {
        if (!(Math.abs(coordinates[2 * coordinate + k] - t) < 1e-5 * Math.max(1, Math.abs(t))))
          throw keptBack(`texture coordinates of ${part.name} are others`)
      })
    })
  })
  const size = sizeOf(mesh.positions)
  if (!(most / size < FARTHEST)) throw keptBack(`something lies ${(most * unit).toPrecision(2)} m from where it should`)
  return { maxPositionError: most * unit, maxPositionErrorShare: most / size, bytes: bytes.length }
}
