import {
  AnimationMixer,
  Bone,
  Color,
  DoubleSide,
  Mesh as ThreeMesh,
  SkinnedMesh,
  type AnimationClip,
  type BufferGeometry,
  type Material as ThreeMaterial,
  type Object3D,
  type Texture,
} from 'three'
import {
  besideFile,
  jointFrameBudget,
  READ_LIMITS,
  readBind,
  type BesideFiles,
  type BindSkin,
  type Received,
} from '@chiraxis/core/formats'
import {
  ChiraxisError,
  conjugate,
  decompose,
  multiply,
  rotate,
  setQuat,
  setVec3,
  sub,
  type Mat4,
  type Vec3,
} from '@chiraxis/core/math'
import {
  checkMesh,
  imageKind,
  joinMeshes,
  plainMaterial,
  transformMesh,
  type ImageFile,
  type MapKind,
  type Material,
  type Mesh,
  type Morph,
} from '@chiraxis/core/mesh'
import { movingTakes, type Take } from '@chiraxis/core/motion'
import { skeletonFromWorld, type Skeleton, type WorldJoint } from '@chiraxis/core/skeleton'
import type { Skin } from '@chiraxis/core/skin'
import { sourceOf, type WantedImages } from './stand-ins'
import { plainImage } from './tga'

const FPS = 30
const MOST_SECONDS = 3600

/** A scene of the 3D library as what a file held: one body, one skeleton with its bind pose, skin, takes, textures. */
export async function receivedFromScene(
  format: 'fbx' | 'dae',
  scene: Object3D,
  clips: readonly AnimationClip[],
  wanted: WantedImages,
  beside: BesideFiles | undefined,
  size: number,
): Promise<Received> {
  const dropped: string[] = []
  scene.updateMatrixWorld(true)
  const bones: Object3D[] = []
  const meshes: ThreeMesh[] = []
  let others = 0
  scene.traverse(o => {
    if ((o as Bone).isBone) bones.push(o)
    else if ((o as ThreeMesh).isMesh) meshes.push(o as ThreeMesh)
    else if (o.type.endsWith('Camera') || o.type.endsWith('Light')) others++
  })
  if (others > 0) dropped.push('Cameras and lights are not kept.')
  // a recording without bones: whatever its clips move, and what hangs on it
  if (bones.length === 0 && clips.length > 0) {
    const moved = new Set(clips.flatMap(c => c.tracks.map(t => t.name.replace(/\.[^.]*$/, ''))))
    scene.traverse(o => {
      const under = bones.includes(o.parent as Object3D)
      if (!(o as ThreeMesh).isMesh && (moved.has(o.name) || moved.has(o.uuid) || under)) bones.push(o)
    })
  }
  if (bones.length > READ_LIMITS.joints)
    throw new ChiraxisError(
      'too-large',
      `The skeleton has ${bones.length} joints; at most ${READ_LIMITS.joints} can be read.`,
    )
  const index = new Map(bones.map((b, i) => [b, i]))
  const parents = bones.map(b => parentJoint(b, index))
  const world = bones.map(b => b.matrixWorld.elements as Mat4)
  const skinned = meshes.filter(
    (m): m is SkinnedMesh => (m as SkinnedMesh).isSkinnedMesh && (m as SkinnedMesh).skeleton?.bones.length > 0,
  )
  const skins = skinned.map((m): BindSkin => ({
    name: m.name,
    joints: m.skeleton.bones.map(b => index.get(b) ?? 0),
    inverse: m.skeleton.boneInverses.map(i => i.clone().multiply(m.bindMatrix).elements as Mat4),
  }))
  const bound = readBind(skins, world, parents)
  dropped.push(...bound.dropped)
  const { materials, images, indexOf } = await readMaterials(meshes, wanted, beside, dropped)

  const pieces: { mesh: Mesh; joints?: Uint16Array; weights?: Float32Array; rigidOn: number }[] = []
  for (const m of meshes) {
    const read = readGeometry(m, indexOf)
    if (!read) continue
    const s = skinned.indexOf(m as SkinnedMesh)
    const place = s >= 0 ? (bound.place.get(skins[s]) ?? m.matrixWorld.elements) : m.matrixWorld.elements
    const mesh = transformMesh(read, place as Mat4)
    if (s < 0) {
      let p: Object3D | null = m
      while (p && !index.has(p)) p = p.parent
      pieces.push({ mesh, rigidOn: p ? index.get(p)! : -1 })
      continue
    }
    const ji = m.geometry.getAttribute('skinIndex'),
      wi = m.geometry.getAttribute('skinWeight')
    const n = read.positions.length / 3
    const joints = new Uint16Array(4 * n)
    const weights = new Float32Array(4 * n)
    for (let v = 0; v < n; v++)
      for (let k = 0; k < 4; k++) {
        const w = wi.getComponent(v, k)
        if (!(w > 0)) continue
        weights[4 * v + k] = w
        joints[4 * v + k] = skins[s].joints[ji.getComponent(v, k)] ?? 0
      }
    pieces.push({ mesh, joints, weights, rigidOn: -1 })
  }
  const mesh = pieces.length > 0 ? joinMeshes(pieces.map(p => p.mesh)) : undefined
  if (!mesh && bones.length === 0)
    throw new ChiraxisError(
      'no-triangles',
      'The file holds neither triangles nor a skeleton, so there is nothing to work on.',
    )
  if (mesh) checkMesh(mesh)
  let skin: Skin | undefined
  if (mesh && pieces.some(p => p.joints)) {
    const n = mesh.positions.length / 3
    const joints = new Uint16Array(4 * n)
    const weights = new Float32Array(4 * n)
    let v = 0
    for (const p of pieces) {
      const count = p.mesh.positions.length / 3
      if (p.joints && p.weights) {
        joints.set(p.joints, 4 * v)
        weights.set(p.weights, 4 * v)
      } else
        for (let i = 0; i < count; i++) {
          joints[4 * (v + i)] = Math.max(0, p.rigidOn)
          weights[4 * (v + i)] = 1
        }
      v += count
    }
    skin = { influences: 4, joints, weights }
  }
  const skeleton = bones.length > 0 ? readSkeleton(bones, parents, world, bound.bind) : undefined
  const budget = jointFrameBudget(size)
  const { takes, told } = movingTakes(skeleton ? clips.flatMap(c => readClip(c, scene, bones, parents, budget)) : [])
  dropped.push(...told)
  if (clips.some(c => c.tracks.some(t => /morphTargetInfluences/.test(t.name))))
    dropped.push('Motion of morph shapes is not kept; the shapes themselves are.')
  return { format, mesh, materials, images, skeleton, skin, takes, dropped }
}

function parentJoint(bone: Object3D, index: ReadonlyMap<Object3D, number>): number {
  for (let p = bone.parent; p; p = p.parent) {
    const i = index.get(p)
    if (i !== undefined) return i
  }
  return -1
}

function readSkeleton(
  bones: readonly Object3D[],
  parents: readonly number[],
  world: readonly Mat4[],
  bind: Skeleton['bind'],
): Skeleton {
  const joints = bones.map((b, j): WorldJoint => {
    const { translation, rotation } = decompose(world[j])
    if (![...translation, ...rotation].every(Number.isFinite))
      throw new ChiraxisError(
        'not-finite',
        `The joint ${b.name || j} has a place that is not a number; the file is damaged.`,
      )
    return { name: b.name || `joint ${j + 1}`, parent: parents[j], position: translation, rotation }
  })
  const skeleton = skeletonFromWorld(joints)
  return bind ? { ...skeleton, bind } : skeleton
}

function readGeometry(m: ThreeMesh, indexOf: ReadonlyMap<ThreeMaterial, number>): Mesh | undefined {
  const g = m.geometry as BufferGeometry
  const position = g.getAttribute('position')
  if (!position || position.count < 3) return undefined
  const plain = (name: string, size: number): Float32Array | undefined => {
    const a = g.getAttribute(name)
    if (!a || a.count !== position.count) return undefined
    const out = new Float32Array(size * a.count)
    for (let v = 0; v < a.count; v++) for (let k = 0; k < size; k++) out[size * v + k] = a.getComponent(v, k)
    return out
  }
  const indices = g.index
    ? Uint32Array.from(g.index.array)
    : Uint32Array.from({ length: position.count - (position.count % 3) }, (_, i) => i)
  const list = Array.isArray(m.material) ? m.material : [m.material]
  const groups =
    g.groups.length > 0 && list.length > 1 ? g.groups : [{ start: 0, count: indices.length, materialIndex: 0 }]
  const name = m.name || 'body'
  const uvs = plain('uv', 2)
  // glTF counts texture rows from the top, the library from the bottom
  if (uvs) for (let i = 1; i < uvs.length; i += 2) uvs[i] = 1 - uvs[i]
  const morphs = (g.morphAttributes.position ?? []).map((a, i): Morph => {
    const offsets = new Float32Array(3 * position.count)
    for (let v = 0; v < position.count; v++)
      for (let k = 0; k < 3; k++)
        offsets[3 * v + k] = a.getComponent(v, k) - (g.morphTargetsRelative ? 0 : position.getComponent(v, k))
    return {
      name: Object.entries(m.morphTargetDictionary ?? {}).find(([, at]) => at === i)?.[0] ?? `morph ${i + 1}`,
      offsets,
    }
  })
  return {
    positions: plain('position', 3)!,
    normals: plain('normal', 3),
    colors: plain('color', 3),
    uvs,
    indices,
    parts: groups.map((group, i) => {
      const material = list[group.materialIndex ?? 0] ?? list[0]
      const color = (material as { color?: Color }).color
      return {
        name: groups.length > 1 ? `${name} ${i + 1}` : name,
        start: group.start,
        count: Math.min(group.count, indices.length - group.start),
        color: color ? [color.r, color.g, color.b] : [0.78, 0.74, 0.68],
        material: indexOf.get(material),
      }
    }),
    ...(morphs.length > 0 && { morphs }),
  }
}

async function readMaterials(
  meshes: readonly ThreeMesh[],
  wanted: WantedImages,
  beside: BesideFiles | undefined,
  dropped: string[],
): Promise<{ materials: Material[]; images: ImageFile[]; indexOf: Map<ThreeMaterial, number> }> {
  const materials: Material[] = []
  const images: ImageFile[] = []
  const indexOf = new Map<ThreeMaterial, number>()
  const known = new Map<string, number>()
  const image = async (texture: Texture): Promise<number | undefined> => {
    const source = sourceOf(texture)
    if (known.has(source)) return known.get(source)
    const blob = wanted.blobs.get(source)
    const found = blob
      ? new Uint8Array(await blob.arrayBuffer())
      : source.startsWith('data:')
        ? fromDataUri(source)
        : besideFile(beside, source)
    const bytes = found && plainImage(found, texture.name || source)
    const mime = bytes && imageKind(bytes)
    const name = texture.name || source.replace(/^.*[\\/]/, '').slice(0, 120) || 'texture'
    if (!bytes || !mime) {
      dropped.push(
        bytes
          ? `The texture ${name} is of a kind that cannot be read; it was left out.`
          : `The texture ${name} was not brought in with the file.`,
      )
      return undefined
    }
    const at = images.push({ name, mime, bytes }) - 1
    known.set(source, at)
    return at
  }
  for (const m of meshes.flatMap(x => (Array.isArray(x.material) ? x.material : [x.material]))) {
    if (indexOf.has(m)) continue
    const own = m as ThreeMaterial & {
      color?: Color
      map?: Texture | null
      normalMap?: Texture | null
      emissiveMap?: Texture | null
      aoMap?: Texture | null
      alphaMap?: Texture | null
      bumpMap?: Texture | null
      specularMap?: Texture | null
      displacementMap?: Texture | null
      lightMap?: Texture | null
      envMap?: Texture | null
      roughnessMap?: Texture | null
      metalnessMap?: Texture | null
      emissive?: Color
      emissiveIntensity?: number
      opacity: number
    }
    const maps: Partial<Record<MapKind, number>> = {}
    for (const [kind, texture] of [
      ['color', own.map],
      ['normal', own.normalMap],
      ['emission', own.emissiveMap],
      ['occlusion', own.aoMap],
      ['alpha', own.alphaMap],
      ['bump', own.bumpMap],
      ['specular', own.specularMap],
      ['displacement', own.displacementMap],
      ['light', own.lightMap],
      ['reflection', own.envMap],
      ['rough', own.roughnessMap],
      ['metal', own.metalnessMap],
    ] as const) {
      const at = texture ? await image(texture) : undefined
      if (at !== undefined) maps[kind] = at
    }
    const { emissive, emissiveIntensity = 1 } = own
    const light = emissive && ([emissive.r, emissive.g, emissive.b].map(v => v * emissiveIntensity) as [number, number, number]) // prettier-ignore
    indexOf.set(m, materials.length)
    materials.push({
      ...plainMaterial(
        m.name || `material ${materials.length + 1}`,
        own.color ? [own.color.r, own.color.g, own.color.b] : undefined,
      ),
      alpha: own.opacity ?? 1,
      blend: (own.opacity ?? 1) < 1 ? 'blend' : 'opaque',
      doubleSided: m.side === DoubleSide,
      ...(light?.some(v => v > 0) && { emission: light }),
      maps,
    })
  }
  return { materials, images, indexOf }
}

function fromDataUri(uri: string): Uint8Array | undefined {
  const comma = uri.indexOf(',')
  if (comma < 0) return undefined
  try {
    return Uint8Array.from(atob(uri.slice(comma + 1)), c => c.charCodeAt(0))
  } catch {
    return undefined
  }
}

function readClip(
  clip: AnimationClip,
  scene: Object3D,
  bones: readonly Object3D[],
  parents: readonly number[],
  budget: (name: string, joints: number, frames: number) => void,
): Take[] {
  if (!(clip.duration > 0) || clip.tracks.length === 0) return []
  if (clip.duration > MOST_SECONDS)
    throw new ChiraxisError(
      'too-large',
      `The take ${clip.name} lasts ${Math.round(clip.duration)} seconds; at most an hour can be read.`,
    )
  const frames = Math.round(clip.duration * FPS) + 1
  const n = bones.length
  budget(clip.name, n, frames)
  const rotations = new Float32Array(4 * n * frames)
  const translations = new Float32Array(3 * n * frames)
  const mixer = new AnimationMixer(scene)
  mixer.clipAction(clip).play()
  for (let f = 0; f < frames; f++) {
    mixer.setTime(Math.min(clip.duration - 1e-6, f / FPS))
    scene.updateMatrixWorld(true)
    const placed = bones.map(b => decompose(b.matrixWorld.elements as Mat4))
    placed.forEach(({ translation, rotation }, j) => {
      const p = parents[j] >= 0 ? placed[parents[j]] : undefined
      const inverse = p && conjugate(p.rotation)
      setQuat(rotations, f * n + j, inverse ? multiply(inverse, rotation) : rotation)
      setVec3(
        translations,
        f * n + j,
        p && inverse ? rotate(inverse, sub(translation, p.translation)) : (translation as Vec3),
      )
    })
  }
  mixer.stopAllAction()
  return [{ name: clip.name || 'take', fps: FPS, frames, rotations, translations }]
}
