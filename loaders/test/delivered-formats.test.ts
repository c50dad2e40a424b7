import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  AnimationMixer,
  Matrix4,
  Vector3,
  type Bone,
  type BufferGeometry,
  type Mesh as ThreeMesh,
  type Object3D,
  type SkinnedMesh,
} from 'three'
import { OBJLoader } from 'three/addons/loaders/OBJLoader.js'
import { USDLoader } from 'three/addons/loaders/USDLoader.js'
import { addRoot } from '@chiraxis/core/rig'
import {
  converted,
  deliver,
  FILE_AXES,
  OWN_AXES,
  readFile,
  readUsdText,
  type UsdPrim,
  type FileAxes,
  type GltfContent,
  type MotionProof,
  type Proof,
  type SceneProof,
} from '@chiraxis/core/formats'
import { cross, vec3At } from '@chiraxis/core/math'
import { plainMaterial, type ImageFile, type Mesh } from '@chiraxis/core/mesh'
import { isStill, keptTurns, resampleTake, type Take } from '@chiraxis/core/motion'
import { deform } from '@chiraxis/core/skin'
import { worldPose } from '@chiraxis/core/skeleton'
import { gait, NORTH, record, WALK } from '@chiraxis/demo/takes'
import { cleanDoll } from '../../core/test/figure'
import { wildTake } from '../../core/test/skeletons'

const PNG = Uint8Array.from(
  atob('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR4nGP4z8DwHwAFAAH/q842iQAAAABJRU5ErkJggg=='),
  c => c.charCodeAt(0),
)

/** The doll in two pieces with texture coordinates, two materials, an image, a shape and two takes. */
async function figure(): Promise<GltfContent & { mesh: Mesh; takes: Take[] }> {
  const doll = await cleanDoll()
  const { mesh } = doll
  const half = 3 * Math.floor(mesh.indices.length / 6)
  const n = mesh.positions.length / 3
  const image: ImageFile = { name: 'cloth red.png', mime: 'image/png', bytes: PNG }
  const whole: Mesh = {
    ...mesh,
    uvs: Float32Array.from({ length: 2 * n }, (_, i) => ((i * 37) % 100) / 100),
    morphs: [
      { name: 'deep breath', offsets: Float32Array.from({ length: 3 * n }, (_, i) => (i % 3 === 2 ? 0.01 : 0)) },
    ],
    parts: [
      { name: 'upper, left & right', start: 0, count: half, color: [1, 1, 1], material: 0 },
      { name: 'lower piece', start: half, count: mesh.indices.length - half, color: [0.2, 0.4, 0.1] },
    ],
  }
  const { skeleton, takes } = addRoot(
    { skeleton: doll.skeleton, takes: [wildTake(doll.skeleton, 5, 30), wildTake(doll.skeleton, 6, 12)] },
    'root',
    [0, 0, 0],
  )
  // the root stands first or last: the skin is told anew
  const rooted = addRoot({ ...doll, takes: [] }, 'root', [0, 0, 0])
  return {
    name: 'Doll of Ümlaut',
    mesh: whole,
    skeleton,
    skin: rooted.skin!,
    takes: takes.map((t, i) => ({ ...t, name: i === 0 ? 'wild one' : 'wild "two"' })),
    materials: [{ ...plainMaterial('cloth & more', [0.5, 0.6, 0.7]), maps: { color: 0 }, doubleSided: true }],
    images: [image],
  }
}
const anyAxes = fc
  .tuple(fc.constantFrom(...FILE_AXES), fc.constantFrom(...FILE_AXES), fc.constantFrom(1, 0.01, 0.0254))
  .filter(([up, ahead]) => up[1] !== ahead[1])
  .map(([up, ahead, unit]): FileAxes => ({ up, ahead, unit }))

describe('other axes and another unit', () => {
  it('turn and scale a figure as a whole: bones, takes and surface alike', async () => {
    const own = await figure()
    fc.assert(
      fc.property(anyAxes, axes => {
        const other = converted(own, axes)
        const dir = (a: FileAxes['up']): [number, number, number] =>
          [0, 1, 2].map(k => (a[1] === 'xyz'[k] ? (a[0] === '+' ? 1 : -1) : 0)) as [number, number, number]
        const [up, ahead] = [dir(axes.up), dir(axes.ahead)]
        const left = cross(up, ahead)
        const J = own.skeleton!.names.length
        const [a, b] = [own, other].map(c =>
          worldPose(c.skeleton!, c.takes![0].translations, c.takes![0].rotations, 7 * J),
        )
        const [p, q] = [
          deform(own.mesh.positions, own.skeleton!, own.skin!, a),
          deform(other.mesh.positions, other.skeleton!, other.skin!, b),
        ]
        for (const [from, to, count] of [
          [a.positions, b.positions, J],
          [p, q, 200],
        ] as const)
          for (let i = 0; i < count; i++) {
            const [x, y, z] = vec3At(from, i)
            for (let k = 0; k < 3; k++)
              expect(to[3 * i + k] * axes.unit - (left[k] * x + up[k] * y + ahead[k] * z)).toBeCloseTo(0, 5)
          }
      }),
      { numRuns: 20 },
    )
    expect(converted(own, OWN_AXES)).toBe(own)
  })
})

describe('OBJ', () => {
  it('comes back in any axes, with library and image, read by the 3D library and by our own reader', async () => {
    const own = await figure()
    for (const axes of [OWN_AXES, { up: '+z', ahead: '-y', unit: 0.01 }] as const) {
      const { bytes, beside, proof } = await deliver(own, 'obj', { axes, stem: 'doll' })
      expect((proof as SceneProof).maxPositionErrorShare).toBeLessThan(1e-5)
      expect(beside!.map(f => f.name)).toEqual(['doll.mtl', 'doll-cloth-red.png'])
      const group = new OBJLoader().parse(new TextDecoder().decode(bytes))
      const meshes = group.children as ThreeMesh<BufferGeometry>[]
      expect(meshes.map(m => m.name)).toEqual(['upper, left & right', 'lower piece'])
      const told = converted(own, axes).mesh
      const first = meshes[0].geometry.getAttribute('position')
      for (let i = 0; i < 300; i++)
        for (let k = 0; k < 3; k++)
          expect(first.getComponent(i, k)).toBeCloseTo(told.positions[3 * told.indices[i] + k], axes.unit < 1 ? 3 : 5)
      const read = await readFile(bytes, 'doll.obj', { beside: new Map(beside!.map(f => [f.name, f.bytes])) })
      expect(read.mesh!.parts).toHaveLength(2)
      expect(read.materials!.find(m => m.name === 'cloth & more')!.maps.color).toBe(0)
      expect(read.images![0].bytes).toEqual(PNG)
    }
  })
  it('stands in the pose of a moment', async () => {
    const own = await figure()
    const [rest, posed] = await Promise.all([deliver(own, 'obj'), deliver(own, 'obj', { frame: 9 })])
    const read = await readFile(posed.bytes, 'doll.obj')
    const J = own.skeleton!.names.length
    const told = deform(
      own.mesh.positions,
      own.skeleton!,
      own.skin!,
      worldPose(own.skeleton!, own.takes[0].translations, own.takes[0].rotations, 9 * J),
    )
    expect(posed.bytes).not.toEqual(rest.bytes)
    const c = own.mesh.indices[120]
    const d = read.mesh!.indices[120]
    for (let k = 0; k < 3; k++) expect(read.mesh!.positions[3 * d + k]).toBeCloseTo(told[3 * c + k], 5)
  })
})

describe('USD text', () => {
  it('is read by the 3D library: skin, skeleton and the take that plays, in any axes', async () => {
    const own = await figure()
    for (const axes of [OWN_AXES, { up: '+z', ahead: '+x', unit: 0.01 }] as const) {
      const { bytes, proof, beside } = await deliver(own, 'usda', { axes, stem: 'doll' })
      expect((proof as SceneProof).maxPositionErrorShare).toBeLessThan(1e-5)
      expect((proof as SceneProof).maxRotationErrorDegrees).toBeLessThan(0.01)
      expect((proof as SceneProof).maxWeightError).toBeLessThan(1e-6)
      expect(beside!.map(f => f.name)).toEqual(['doll-cloth-red.png'])
      const text = new TextDecoder().decode(bytes)
      expect(text).toContain('@doll-cloth-red.png@')
      // without a window the library cannot look at images
      const bare = text.replace(/inputs:diffuseColor\.connect = <[^>]*>/, 'inputs:diffuseColor = (1, 1, 1)')
      const scene = new USDLoader().parse(bare) as unknown as Object3D
      const skinned: SkinnedMesh[] = []
      scene.traverse(o => {
        if ((o as SkinnedMesh).isSkinnedMesh) skinned.push(o as SkinnedMesh)
      })
      expect(skinned).toHaveLength(2)
      const [body] = skinned
      expect(body.skeleton.bones).toHaveLength(own.skeleton!.names.length)
      const at = body.geometry.getAttribute('skinWeight')
      expect(at.count).toBeGreaterThan(100)
      // joints stand where they stood when the skin was bound
      const told = converted(own, axes)
      const bound = worldPose(told.skeleton!)
      scene.updateMatrixWorld(true)
      const inSkeleton = (bone: Bone): Vector3 =>
        new Vector3().setFromMatrixPosition(new Matrix4().copy(body.matrixWorld).invert().multiply(bone.matrixWorld))
      const head = own.skeleton!.roles.indexOf('head')
      const bone = body.skeleton.bones.find(b => /head$/.test(b.name))!
      const p = inSkeleton(bone)
      const q = vec3At(bound.positions, head)
      ;[p.x, p.y, p.z].forEach((v, k) => expect(v).toBeCloseTo(q[k], axes.unit < 1 ? 2 : 4))
      // the take
      const clip = scene.animations[0]
      expect(clip).toBeDefined()
      const mixer = new AnimationMixer(scene)
      mixer.clipAction(clip).play()
      mixer.setTime(7 / 30)
      scene.updateMatrixWorld(true)
      const J = own.skeleton!.names.length
      const pose = worldPose(told.skeleton!, told.takes[0].translations, told.takes[0].rotations, 7 * J)
      const moved = inSkeleton(bone)
      const wanted = vec3At(pose.positions, head)
      ;[moved.x, moved.y, moved.z].forEach((v, k) => expect(v).toBeCloseTo(wanted[k], axes.unit < 1 ? 1 : 3))
    }
  })
  it('tells names, unit and axes as its schema wants them', async () => {
    const { bytes } = await deliver(await figure(), 'usda', { axes: { up: '+z', ahead: '-y', unit: 0.01 } })
    const { meta, prims } = readUsdText(new TextDecoder().decode(bytes))
    expect([meta.get('upAxis'), meta.get('metersPerUnit'), meta.get('defaultPrim')]).toEqual([
      'Z',
      0.01,
      'Doll_of_Umlaut',
    ])
    const walk = (list: readonly UsdPrim[]): void =>
      list.forEach(p => {
        expect(p.name).toMatch(/^[A-Za-z_][A-Za-z0-9_]*$/)
        walk(p.children)
      })
    walk(prims)
    expect(() => readUsdText('#usda 1.0\ndef Xform "a" {')).toThrow(/ends/)
    expect(() => readUsdText('solid')).toThrow(/not USD text/)
  })
})

describe('glTF with files beside it', () => {
  it('holds what the GLB holds', async () => {
    const own = await figure()
    const [glb, gltf] = await Promise.all([deliver(own, 'glb'), deliver(own, 'gltf', { stem: 'doll' })])
    expect(gltf.beside!.map(f => f.name)).toEqual(['doll.bin', 'doll-cloth-red.png'])
    expect((gltf.proof as Proof).validatorErrors).toBe(0)
    const a = await readFile(glb.bytes, 'doll.glb')
    const b = await readFile(gltf.bytes, 'doll.gltf', { beside: new Map(gltf.beside!.map(f => [f.name, f.bytes])) })
    expect(b.mesh!.positions).toEqual(a.mesh!.positions)
    expect(b.takes.map(t => t.rotations)).toEqual(a.takes.map(t => t.rotations))
    expect(b.images![0].bytes).toEqual(PNG)
    await expect(readFile(gltf.bytes, 'doll.gltf')).rejects.toThrow(/doll\.bin/)
  })
})

describe('BVH', () => {
  it('is written in any axes, unit and order of turns', async () => {
    const { skeleton, take } = record(gait('walk', WALK, 2, 3), NORTH, 30)
    for (const [axes, order] of [
      [{ up: '+z', ahead: '+x', unit: 0.01 }, 'XYZ'],
      [{ up: '+y', ahead: '-z', unit: 1 }, 'YXZ'],
    ] as const) {
      const { bytes, proof } = await deliver({ name: 'walk', skeleton, takes: [take] }, 'bvh', { axes, order })
      expect((proof as MotionProof).maxPositionError).toBeLessThan(2e-5)
      expect(new TextDecoder().decode(bytes)).toContain([...order].map(a => `${a}rotation`).join(' '))
    }
  })
})

describe('keys that are left out', () => {
  it('stray no farther than was allowed, in any frame, and take fewer bytes', async () => {
    const { skeleton, take } = record(gait('walk', WALK, 6, 3), NORTH, 60)
    const own: GltfContent = { name: 'walk', skeleton, takes: [take] }
    const whole = (await deliver(own)).bytes.length
    let last = whole
    for (const [degrees, metres] of [
      [0.05, 0.0002],
      [0.2, 0.001],
      [1, 0.005],
    ] as const) {
      const { bytes, proof } = await deliver({ ...own, thinning: { degrees, metres } })
      expect(proof.thinned!.maxRotationErrorDegrees).toBeLessThan(degrees + 0.01)
      expect(proof.thinned!.maxPositionError).toBeLessThan(metres + 1e-5)
      expect(bytes.length).toBeLessThan(last)
      last = bytes.length
      const read = await readFile(bytes, 'walk.glb')
      expect([read.takes[0].fps, read.takes[0].frames]).toEqual([60, take.frames])
    }
    expect(last).toBeLessThan(0.4 * whole)
  })
  it('lie on curves where that takes fewer bytes, as close, and other readers play them alike', async () => {
    // a smooth take: curves need fewer keys than lines
    const { skeleton, take } = record(gait('stroll', { ...WALK, speed: 0.6 }, 6, 3), NORTH, 60)
    const own: GltfContent = { name: 'stroll', skeleton, takes: [take] }
    const allowed = { degrees: 0.05, metres: 0.0002 }
    const straight = await deliver({ ...own, thinning: allowed })
    const curved = await deliver({ ...own, thinning: { ...allowed, curved: true } })
    expect(curved.bytes.length).toBeLessThan(straight.bytes.length)
    expect(curved.proof.thinned!.maxRotationErrorDegrees).toBeLessThan(allowed.degrees + 0.01)
    expect(curved.proof.thinned!.maxPositionError).toBeLessThan(allowed.metres + 1e-5)
    // the 3D library's own reader, at moments between the keys
    const { GLTFLoader } = await import('three/addons/loaders/GLTFLoader.js')
    const load = async (bytes: Uint8Array<ArrayBuffer>) => new GLTFLoader().parseAsync(bytes.buffer, '')
    const [a, b] = [await load((await deliver(own)).bytes), await load(curved.bytes)]
    const cubic = b.animations[0].tracks.filter(
      t =>
        'isInterpolantFactoryMethodGLTFCubicSpline' in
        (t as unknown as { createInterpolant: object }).createInterpolant,
    )
    expect(cubic.length).toBeGreaterThan(3)
    const players = [a, b].map(({ scene, animations }) => {
      const mixer = new AnimationMixer(scene)
      mixer.clipAction(animations[0]).play()
      return { scene, mixer }
    })
    let most = 0
    for (let t = 0; t < take.frames / take.fps - 0.1; t += 0.137) {
      const [p, q] = players.map(({ scene, mixer }) => {
        mixer.setTime(t)
        scene.updateMatrixWorld(true)
        const out: Vector3[] = []
        scene.traverse(o => out.push(new Vector3().setFromMatrixPosition(o.matrixWorld)))
        return out
      })
      expect(q.length).toBe(p.length)
      p.forEach((v, i) => (most = Math.max(most, v.distanceTo(q[i]))))
    }
    // chains of joints add up what each may stray
    expect(most).toBeLessThan(0.008)
  })
  it('are none of a take that stands still but its two ends', () => {
    const still = Float32Array.from({ length: 4 * 50 }, (_, i) => [0, 0, 0, 1][i % 4])
    expect(isStill(still, 4)).toBe(true)
    expect([...keptTurns(still, 0.1)]).toEqual([0, 49])
  })
  it('tell their rate whatever it is, even where nothing moves', async () => {
    const { skeleton, take } = record(gait('walk', WALK, 2, 3), NORTH, 25)
    const J = skeleton.names.length
    const frozen: Take = {
      ...take,
      rotations: take.rotations.map((_, i) => take.rotations[i % (4 * J)]),
      translations: take.translations.map((_, i) => take.translations[i % (3 * J)]),
    }
    for (const t of [take, frozen, resampleTake(take, 48)]) {
      const { bytes } = await deliver({ name: 'still', skeleton, takes: [t] })
      const read = await readFile(bytes, 'still.glb')
      expect([read.takes[0]?.fps, read.takes[0]?.frames]).toEqual([t.fps, t.frames])
    }
  })
})
