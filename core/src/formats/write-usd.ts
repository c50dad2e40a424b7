import { unitNormals } from '../document'
import { compose } from '../math'
import { boundsOf, type Material, type Mesh, type MeshPart } from '../mesh'
import { bindPose, jointPlace, toldApart, type Skeleton } from '../skeleton'
import type { Skin } from '../skin'
import type { FileAxes } from './convert'
import type { GltfContent } from './gltf-write'
import { imageFiles, materialOf, type FileBeside } from './write-obj'

/**
 * Writes a figure as USD text: a skeleton with its bind and rest poses, an animation for every take, a mesh for every piece with
 * weights and blend shapes, and materials (OpenUSD, UsdSkel and UsdPreviewSurface schemas). The first take plays.
 * @param content in the axes and unit told
 * @param stem what images are called after
 */
export function writeUsd(
  content: GltfContent,
  axes: Pick<FileAxes, 'up' | 'unit'>,
  stem: string,
): { readonly bytes: Uint8Array<ArrayBuffer>; readonly beside: readonly FileBeside[] } {
  const { mesh, skeleton, skin, takes = [], materials = [], images = [] } = content
  const names = new Identifiers()
  const root = names.of(content.name || 'figure')
  const files = imageFiles(images, stem)
  const out = new Lines()
  const fps = takes[0]?.fps ?? 30
  const frames = takes.reduce((most, t) => Math.max(most, t.frames), 1)
  out.put('#usda 1.0', '(')
  out.in(
    `defaultPrim = ${quoted(root)}`,
    `metersPerUnit = ${number(axes.unit)}`,
    `upAxis = ${quoted(axes.up[1] === 'z' ? 'Z' : 'Y')}`,
    ...(takes.length > 0
      ? [
          `startTimeCode = 0`,
          `endTimeCode = ${frames - 1}`,
          `timeCodesPerSecond = ${number(fps)}`,
          `framesPerSecond = ${number(fps)}`,
        ]
      : []),
  )
  out.put(')', '')
  const paths = skeleton && jointPaths(skeleton)
  const rigged = skeleton !== undefined
  out.open(
    `def ${rigged ? 'SkelRoot' : 'Xform'} ${quoted(root)}`,
    rigged ? ['prepend apiSchemas = ["SkelBindingAPI"]'] : [],
  )
  const inside = names.under()
  // a place of their own beside the pieces
  inside.of('Materials')
  const looks = mesh ? looksOf(mesh, materials) : new Looks(materials)
  if (skeleton && paths) {
    const skel = inside.of('Skeleton')
    const anims = takes.map(t => inside.of(t.name || 'take'))
    putSkeleton(out, skel, skeleton, paths, anims[0] && `/${root}/${skel}/${anims[0]}`, () =>
      takes.forEach((take, i) => putTake(out, anims[i], skeleton, paths, take)),
    )
    if (mesh) putMeshes(out, inside, mesh, looks, root, { path: `/${root}/${skel}`, skin })
  } else if (mesh) putMeshes(out, inside, mesh, looks, root)
  if (mesh) putMaterials(out, root, looks, files)
  out.close()
  const named = new Set(looks.all().flatMap(([m]) => Object.values(m.maps)))
  return { bytes: new TextEncoder().encode(out.text()), beside: files.filter((_, i) => named.has(i)) }
}

/** Lines of text with their depth. */
class Lines {
  private readonly lines: string[] = []
  private depth = 0
  put(...lines: readonly string[]): void {
    for (const line of lines) this.lines.push(line === '' ? '' : '    '.repeat(this.depth) + line)
  }
  in(...lines: readonly string[]): void {
    this.depth++
    this.put(...lines)
    this.depth--
  }
  open(head: string, meta: readonly string[] = []): void {
    if (meta.length > 0) {
      this.put(`${head} (`)
      this.in(...meta)
      this.put(')', '{')
    } else this.put(head, '{')
    this.depth++
  }
  close(): void {
    this.depth--
    this.put('}', '')
  }
  text(): string {
    return `${this.lines.join('\n')}\n`
  }
}

/** Names as the format allows them, each its own among its neighbours. */
class Identifiers {
  private readonly taken = new Set<string>()
  of(name: string): string {
    const stem = identifier(name)
    let free = stem
    for (let i = 2; this.taken.has(free); i++) free = `${stem}_${i}`
    this.taken.add(free)
    return free
  }
  under(): Identifiers {
    return new Identifiers()
  }
}

/** Letters, digits and underscores, not beginning with a digit. */
export const identifier = (name: string): string => {
  const plain = name
    .normalize('NFKD')
    .replace(/\p{M}+/gu, '')
    .replace(/[^A-Za-z0-9_]+/g, '_')
    .replace(/^_+|_+$/g, '')
  return /^[A-Za-z_]/.test(plain) ? plain : `_${plain}`
}

/** The path of every joint from the root, names made fit for paths. */
export function jointPaths({ names, parents }: Skeleton): string[] {
  const paths: string[] = []
  const below = new Map<number, Identifiers>()
  names.forEach((name, j) => {
    const p = parents[j]
    const among = below.get(p) ?? new Identifiers()
    below.set(p, among)
    const own = among.of(name)
    paths.push(p < 0 ? own : `${paths[p]}/${own}`)
  })
  return paths
}

const quoted = (text: string): string =>
  `"${text
    .replace(/\\/g, '\\\\')
    .replace(/"/g, '\\"')
    .replace(/[\r\n]+/g, ' ')}"`
/** Nine digits tell single precision to the last bit. */
const number = (v: number): string => (Number.isInteger(v) ? String(v) : String(Number(v.toPrecision(9))))
const tuple = (...values: readonly number[]): string => `(${values.map(number).join(', ')})`
const list = (items: readonly string[]): string => `[${items.join(', ')}]`
const tuples = (values: Float32Array, size: number, from = 0, to = values.length / size): string => {
  const out: string[] = []
  for (let i = from; i < to; i++) out.push(tuple(...values.subarray(size * i, size * (i + 1))))
  return list(out)
}
/** Column after column here is row after row there, where vectors stand before matrices. */
const matrix = (m: readonly number[]): string => `( ${[0, 4, 8, 12].map(i => tuple(...m.slice(i, i + 4))).join(', ')} )`

function putSkeleton(
  out: Lines,
  name: string,
  skeleton: Skeleton,
  paths: readonly string[],
  plays: string | undefined,
  inside: () => void,
): void {
  const bound = bindPose(skeleton)
  const rest = skeleton.names.map((_, j) =>
    compose(
      [...skeleton.restTranslations.subarray(3 * j, 3 * j + 3)] as [number, number, number],
      [...skeleton.restRotations.subarray(4 * j, 4 * j + 4)] as [number, number, number, number],
    ),
  )
  const bind = skeleton.names.map((_, j) => {
    const { at, turn } = jointPlace(bound, j)
    return compose(at, turn)
  })
  out.open(`def Skeleton ${quoted(name)}`, ['prepend apiSchemas = ["SkelBindingAPI"]'])
  out.put(
    `uniform token[] joints = ${list(paths.map(quoted))}`,
    `uniform token[] jointNames = ${list(toldApart(skeleton.names).map(quoted))}`,
    `uniform matrix4d[] bindTransforms = ${list(bind.map(m => matrix([...m])))}`,
    `uniform matrix4d[] restTransforms = ${list(rest.map(m => matrix([...m])))}`,
    ...(plays ? [`rel skel:animationSource = <${plays}>`] : []),
  )
  inside()
  out.close()
}

function putTake(
  out: Lines,
  name: string,
  { names }: Skeleton,
  paths: readonly string[],
  { frames, translations, rotations, name: shown }: NonNullable<GltfContent['takes']>[number],
): void {
  const J = names.length
  out.open(`def SkelAnimation ${quoted(name)}`, [`displayName = ${quoted(shown)}`])
  out.put(`uniform token[] joints = ${list(paths.map(quoted))}`)
  const each = (values: Float32Array, size: number, order: readonly number[]): void => {
    for (let f = 0; f < frames; f++) {
      const items: string[] = []
      for (let j = 0; j < J; j++) {
        const o = size * (f * J + j)
        items.push(tuple(...order.map(k => values[o + k])))
      }
      out.in(`${f}: ${list(items)},`)
    }
  }
  out.put('float3[] translations.timeSamples = {')
  each(translations, 3, [0, 1, 2])
  out.put('}', 'quatf[] rotations.timeSamples = {')
  // the real part stands first
  each(rotations, 4, [3, 0, 1, 2])
  out.put('}', `half3[] scales = ${list(names.map(() => '(1, 1, 1)'))}`)
  out.close()
}

function putMeshes(
  out: Lines,
  names: Identifiers,
  mesh: Mesh,
  looks: Looks,
  root: string,
  bound?: { readonly path: string; readonly skin?: Skin },
): void {
  const normals = unitNormals(mesh)
  for (const part of mesh.parts) {
    if (part.count === 0) continue
    const corners = mesh.indices.subarray(part.start, part.start + part.count)
    const used = [...new Set(corners)].sort((a, b) => a - b)
    const at = new Map(used.map((v, i) => [v, i]))
    const pick = (values: Float32Array, size: number): Float32Array =>
      Float32Array.from(
        { length: size * used.length },
        (_, i) => values[size * used[Math.floor(i / size)] + (i % size)],
      )
    const skin = bound?.skin
    const [material, look] = looks.of(part)
    const shapes = (mesh.morphs ?? []).map(m => ({ name: m.name, offsets: pick(m.offsets, 3) }))
    const named = new Identifiers()
    const shown = shapes.map(s => named.of(s.name || 'shape'))
    const name = names.of(part.name)
    const path = `/${root}/${name}`
    const points = pick(mesh.positions, 3)
    out.open(`def Mesh ${quoted(name)}`, [
      `prepend apiSchemas = ${list([...(skin ? ['SkelBindingAPI'] : []), 'MaterialBindingAPI'].map(quoted))}`,
      `displayName = ${quoted(part.name)}`,
    ])
    out.put(
      'uniform token subdivisionScheme = "none"',
      `uniform bool doubleSided = ${material.doubleSided ? 1 : 0}`,
      `float3[] extent = ${extentOf(points)}`,
      `int[] faceVertexCounts = ${list(Array.from({ length: part.count / 3 }, () => '3'))}`,
      `int[] faceVertexIndices = ${list(Array.from(corners, v => String(at.get(v)!)))}`,
      `point3f[] points = ${tuples(points, 3)}`,
      `normal3f[] normals = ${tuples(pick(normals, 3), 3)} (`,
    )
    out.in('interpolation = "vertex"')
    out.put(')')
    const primvar = (line: string, ...meta: readonly string[]): void => {
      out.put(`${line} (`)
      out.in(...meta, 'interpolation = "vertex"')
      out.put(')')
    }
    if (mesh.uvs) {
      const st = pick(mesh.uvs, 2)
      // counted from below there
      for (let i = 1; i < st.length; i += 2) st[i] = 1 - st[i]
      primvar(`texCoord2f[] primvars:st = ${tuples(st, 2)}`)
    }
    if (mesh.colors) primvar(`color3f[] primvars:displayColor = ${tuples(pick(mesh.colors, 3), 3)}`)
    if (skin) {
      const k = skin.influences
      const joints = used.flatMap(v => Array.from(skin.joints.subarray(k * v, k * v + k), String))
      const weights = used.flatMap(v => Array.from(skin.weights.subarray(k * v, k * v + k), number))
      primvar(`int[] primvars:skel:jointIndices = ${list(joints)}`, `elementSize = ${k}`)
      primvar(`float[] primvars:skel:jointWeights = ${list(weights)}`, `elementSize = ${k}`)
      out.put(
        'matrix4d primvars:skel:geomBindTransform = ( (1, 0, 0, 0), (0, 1, 0, 0), (0, 0, 1, 0), (0, 0, 0, 1) )',
        `rel skel:skeleton = <${bound.path}>`,
      )
    }
    if (shapes.length > 0)
      out.put(
        `uniform token[] skel:blendShapes = ${list(shown.map(quoted))}`,
        `rel skel:blendShapeTargets = ${list(shown.map(s => `<${path}/${s}>`))}`,
      )
    out.put(`rel material:binding = </${root}/Materials/${look}>`)
    shapes.forEach((s, i) => {
      out.open(`def BlendShape ${quoted(shown[i])}`)
      out.put(`uniform vector3f[] offsets = ${tuples(s.offsets, 3)}`)
      out.close()
    })
    out.close()
  }
}

function extentOf(points: Float32Array): string {
  const { min, max } = boundsOf(points)
  return list([tuple(...min), tuple(...max)])
}

/** Materials in use, each under a name of its own. */
class Looks {
  private readonly names = new Identifiers()
  private readonly known = new Map<string, readonly [Material, string]>()
  constructor(private readonly materials: readonly Material[]) {}
  of(part: MeshPart): readonly [Material, string] {
    const material = materialOf(part, this.materials)
    const key = part.material === undefined ? `colour ${part.color.join()}` : String(part.material)
    const there = this.known.get(key)
    if (there) return there
    const made = [material, this.names.of(material.name)] as const
    this.known.set(key, made)
    return made
  }
  all(): readonly (readonly [Material, string])[] {
    return [...this.known.values()]
  }
}
function looksOf(mesh: Mesh, materials: readonly Material[]): Looks {
  const looks = new Looks(materials)
  for (const part of mesh.parts) if (part.count > 0) looks.of(part)
  return looks
}

function putMaterials(out: Lines, root: string, looks: Looks, files: readonly FileBeside[]): void {
  out.open('def Scope "Materials"')
  for (const [m, name] of looks.all()) {
    const path = `/${root}/Materials/${name}`
    const color = m.maps.color === undefined ? undefined : files[m.maps.color]
    const normal = m.maps.normal === undefined ? undefined : files[m.maps.normal]
    out.open(`def Material ${quoted(name)}`, [`displayName = ${quoted(m.name)}`])
    out.put(`token outputs:surface.connect = <${path}/Surface.outputs:surface>`)
    out.open('def Shader "Surface"')
    out.put(
      'uniform token info:id = "UsdPreviewSurface"',
      color
        ? `color3f inputs:diffuseColor.connect = <${path}/ColorImage.outputs:rgb>`
        : `color3f inputs:diffuseColor = ${tuple(...m.color)}`,
      ...(normal ? [`normal3f inputs:normal.connect = <${path}/NormalImage.outputs:rgb>`] : []),
      ...(m.emission ? [`color3f inputs:emissiveColor = ${tuple(...m.emission)}`] : []),
      `float inputs:roughness = ${number(m.roughness)}`,
      `float inputs:metallic = ${number(m.metallic)}`,
      `float inputs:opacity = ${number(m.alpha)}`,
      'token outputs:surface',
    )
    out.close()
    if (color) putImage(out, 'ColorImage', path, color.name, 'sRGB', m.color)
    if (normal) putImage(out, 'NormalImage', path, normal.name, 'raw')
    if (color || normal) {
      out.open('def Shader "Coordinates"')
      out.put(
        'uniform token info:id = "UsdPrimvarReader_float2"',
        'string inputs:varname = "st"',
        'float2 outputs:result',
      )
      out.close()
    }
    out.close()
  }
  out.close()
}

function putImage(
  out: Lines,
  name: string,
  path: string,
  file: string,
  space: 'sRGB' | 'raw',
  tint?: readonly number[],
): void {
  out.open(`def Shader "${name}"`)
  out.put(
    'uniform token info:id = "UsdUVTexture"',
    `asset inputs:file = @${file}@`,
    `token inputs:sourceColorSpace = "${space}"`,
    'token inputs:wrapS = "repeat"',
    'token inputs:wrapT = "repeat"',
    ...(tint && tint.some(c => c !== 1) ? [`float4 inputs:scale = ${tuple(...tint, 1)}`] : []),
    ...(space === 'raw' ? ['float4 inputs:scale = (2, 2, 2, 1)', 'float4 inputs:bias = (-1, -1, -1, 0)'] : []),
    `float2 inputs:st.connect = <${path}/Coordinates.outputs:result>`,
    'float3 outputs:rgb',
  )
  out.close()
}
