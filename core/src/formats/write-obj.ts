import { imageNames, unitNormals } from '../document'
import type { ImageFile, MapKind, Material, Mesh, MeshPart } from '../mesh'
import { plainMaterial } from '../mesh'

/** A file that goes along with another one. */
export interface FileBeside {
  readonly name: string
  readonly bytes: Uint8Array<ArrayBuffer>
}

/** How the material library of an OBJ calls each kind of image. */
const MAPS: readonly (readonly [MapKind, string])[] = [
  ['color', 'map_Kd'],
  ['normal', 'norm'],
  ['emission', 'map_Ke'],
  ['alpha', 'map_d'],
  ['specular', 'map_Ks'],
  ['gloss', 'map_Ns'],
  ['displacement', 'disp'],
  ['rough', 'map_Pr'],
  ['metal', 'map_Pm'],
  ['occlusion', 'map_ao'],
]

/** Nine digits tell single precision to the last bit. */
const number = (v: number): string => String(Number(Math.fround(v).toPrecision(9)))
const toShown = (c: number): number => (c <= 0.0031308 ? 12.92 * c : 1.055 * Math.pow(c, 1 / 2.4) - 0.055)

/**
 * Writes a surface as Wavefront OBJ: positions with their colours, texture coordinates, normals, a group for every piece, and a
 * material library with its images beside it.
 * @param stem name of the library, without an ending
 */
export function writeObj(
  stem: string,
  mesh: Mesh,
  materials: readonly Material[] = [],
  images: readonly ImageFile[] = [],
): { readonly bytes: Uint8Array<ArrayBuffer>; readonly beside: readonly FileBeside[] } {
  const { positions, indices, uvs, colors, parts } = mesh
  const normals = unitNormals(mesh)
  const lines: string[] = [`mtllib ${stem}.mtl`]
  for (let v = 0; v < positions.length / 3; v++) {
    const p = [0, 1, 2].map(k => number(positions[3 * v + k]))
    const c = colors ? [0, 1, 2].map(k => number(toShown(colors[3 * v + k]))) : []
    lines.push(`v ${[...p, ...c].join(' ')}`)
  }
  if (uvs) for (let v = 0; v < uvs.length / 2; v++) lines.push(`vt ${number(uvs[2 * v])} ${number(1 - uvs[2 * v + 1])}`)
  for (let v = 0; v < normals.length / 3; v++)
    lines.push(`vn ${[0, 1, 2].map(k => number(normals[3 * v + k])).join(' ')}`)
  const used = new Map<string, Material>()
  for (const part of parts) {
    const material = materialOf(part, materials)
    used.set(material.name, material)
    lines.push(`g ${oneLine(part.name)}`, `usemtl ${oneLine(material.name)}`)
    for (let i = part.start; i < part.start + part.count; i += part.paired ? 6 : 3) {
      const corner = (c: number): string => {
        const n = indices[i + c] + 1
        return uvs ? `${n}/${n}/${n}` : `${n}//${n}`
      }
      // the fan of a quad is the pair of triangles it was parted into
      lines.push(`f ${corner(0)} ${corner(1)} ${corner(2)}${part.paired ? ` ${corner(5)}` : ''}`)
    }
  }
  const files = imageFiles(images, stem)
  const library = [...used.values()].flatMap(m => materialLines(m, files))
  const named = new Set([...used.values()].flatMap(m => Object.values(m.maps)))
  const text = (all: readonly string[]): Uint8Array<ArrayBuffer> => new TextEncoder().encode(`${all.join('\n')}\n`)
  return {
    bytes: text(lines),
    beside: [{ name: `${stem}.mtl`, bytes: text(library) }, ...files.filter((_, i) => named.has(i))],
  }
}

/** Images under names of their own, after the file they belong to, with the ending of their kind. */
export function imageFiles(images: readonly ImageFile[], stem: string): FileBeside[] {
  const nameOf = imageNames(stem)
  return images.map(({ name, mime, bytes }) => ({ name: nameOf(name, mime), bytes: new Uint8Array(bytes) }))
}

/** The material of a part; one without is plain, in the part's own colour. */
export function materialOf(part: MeshPart, materials: readonly Material[]): Material {
  const own = part.material === undefined ? undefined : materials[part.material]
  return own ?? plainMaterial(`${part.name} colour`, part.color)
}

const oneLine = (name: string): string => name.replace(/[\r\n]+/g, ' ').trim() || 'piece'

function materialLines(m: Material, files: readonly FileBeside[]): string[] {
  const rgb = (c: readonly number[]): string => c.map(number).join(' ')
  return [
    `newmtl ${oneLine(m.name)}`,
    `Kd ${rgb(m.color)}`,
    `d ${number(m.alpha)}`,
    `Pr ${number(m.roughness)}`,
    `Pm ${number(m.metallic)}`,
    ...(m.emission ? [`Ke ${rgb(m.emission)}`] : []),
    'illum 2',
    ...MAPS.flatMap(([kind, word]) => {
      const at = m.maps[kind]
      return at === undefined || !files[at] ? [] : [`${word} ${files[at].name}`]
    }),
    '',
  ]
}
