import { encode } from 'fast-png'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  looksLikeNormals,
  proveGlb,
  readFile,
  readGltf,
  readObj,
  readPly,
  readStl,
  writeGlb,
  writePly,
  writeStl,
} from '../src/formats'
import {
  ChiraxisError,
  compose,
  fromAxisAngle,
  invertAffine,
  multiplyMat4,
  quatAt,
  type Quat,
  type Vec3,
} from '../src/math'
import { plainMaterial, type Mesh } from '../src/mesh'
import { applyRigEdit } from '../src/rig'
import { worldPose } from '../src/skeleton'
import { deform } from '../src/skin'
import { cleanDoll } from './figure'
import { box } from './shapes'

const text = (s: string): Uint8Array => new TextEncoder().encode(s)
const refusal = async (bytes: Uint8Array, name: string): Promise<ChiraxisError> => {
  const error = await readFile(bytes, name).then(
    () => undefined,
    e => e as unknown,
  )
  expect(error, `${name} should be refused`).toBeInstanceOf(ChiraxisError)
  return error as ChiraxisError
}
const coloured = (): Mesh => {
  const b = box([0, 0, 0], [1, 2, 1])
  return { ...b, colors: Float32Array.from({ length: b.positions.length }, (_, i) => (i % 7) / 7) }
}

describe('PLY', () => {
  it('comes back from its own writer, colours to the eighth bit', () => {
    const b = coloured()
    const { mesh } = readPly(writePly(b))
    expect(mesh!.positions).toEqual(b.positions)
    expect(mesh!.indices).toEqual(b.indices)
    mesh!.colors!.forEach((c, i) => expect(c).toBeCloseTo(b.colors![i], 1))
  })
  it('is read in ASCII, with other properties, faces of any size and elements in between', () => {
    const source = `ply\r\nformat ascii 1.0\ncomment made by hand\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z\nproperty float confidence\nproperty uchar red\nproperty uchar green\nproperty uchar blue\nelement mark 1\nproperty list uchar int where\nelement face 1\nproperty list uchar int vertex_indices\nproperty uchar flag\nend_header\n0 0 0 0.5 255 0 0\n1 0 0 0.5 0 255 0\n1 1 0 0.5 0 0 255\n0 1 0 0.5 255 255 255\n2 7 8\n4 0 1 2 3 9\n`
    const { mesh } = readPly(text(source))
    expect([...mesh!.indices]).toEqual([0, 1, 2, 0, 2, 3])
    expect([...mesh!.colors!.subarray(0, 3)]).toEqual([1, 0, 0])
  })
  it('is read big-endian', () => {
    const head = text(
      'ply\nformat binary_big_endian 1.0\nelement vertex 3\nproperty double x\nproperty double y\nproperty double z\nelement face 1\nproperty list uchar uint vertex_index\nend_header\n',
    )
    const bytes = new Uint8Array(head.length + 72 + 13)
    bytes.set(head)
    const view = new DataView(bytes.buffer, head.length)
    ;[0, 0, 0, 1, 0, 0, 0, 1, 0].forEach((v, i) => view.setFloat64(8 * i, v))
    view.setUint8(72, 3)
    ;[0, 1, 2].forEach((v, i) => view.setUint32(73 + 4 * i, v))
    expect([...readPly(bytes).mesh!.positions]).toEqual([0, 0, 0, 1, 0, 0, 0, 1, 0])
  })
  it('is refused when cut short, without faces, or out of range', async () => {
    const whole = writePly(coloured())
    expect((await refusal(whole.subarray(0, whole.length - 5), 'cut.ply')).code).toBe('truncated-file')
    expect(
      (
        await refusal(
          text(
            'ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nend_header\n0 0 0\n',
          ),
          'points.ply',
        )
      ).code,
    ).toBe('no-triangles')
    expect(
      (
        await refusal(
          text(
            'ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n1 0 0\n0 1 0\n3 0 1 7\n',
          ),
          'range.ply',
        )
      ).code,
    ).toBe('index-range')
    expect((await refusal(text('ply\nformat ascii 1.0\nelement vertex 999999999\n'), 'bomb.ply')).code).toBe(
      'truncated-file',
    )
    expect((await refusal(text('no ply'), 'named.ply')).code).toBe('wrong-format')
  })
})

describe('STL', () => {
  it('comes back welded from its own writer', () => {
    const b = box([0, 0, 0], [1, 2, 1])
    const { mesh } = readStl(writeStl(b))
    expect(mesh!.indices.length).toBe(b.indices.length)
    expect(mesh!.positions.length).toBe(b.positions.length)
  })
  it('is read in ASCII', () => {
    const facet = (a: string): string => `facet normal 0 0 1\nouter loop\n${a}\nendloop\nendfacet\n`
    const { mesh } = readStl(
      text(
        `solid sheet\n${facet('vertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0')}${facet('vertex 1 0 0\nvertex 1 1 0\nvertex 0 1 0')}endsolid sheet\n`,
      ),
    )
    expect([mesh!.positions.length / 3, mesh!.indices.length / 3]).toEqual([4, 2])
  })
  it('is refused when cut short or empty', async () => {
    const whole = writeStl(box([0, 0, 0], [1, 1, 1]))
    expect((await refusal(whole.subarray(0, 200), 'cut.stl')).code).toBe('truncated-file')
    expect((await refusal(new Uint8Array(84), 'none.stl')).code).toBe('no-triangles')
  })
})

describe('every reader', () => {
  it('refuses damage in words and never crashes', async () => {
    const good: [string, Uint8Array][] = [
      ['a.ply', writePly(coloured())],
      ['a.stl', writeStl(coloured())],
      ['a.glb', await writeGlb({ name: 'x', mesh: coloured() })],
      ['a.obj', text('v 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nf 1/1 2/1 3/1\n')],
    ]
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 0, max: good.length - 1 }),
        fc.array(fc.tuple(fc.nat(), fc.nat(255)), { minLength: 1, maxLength: 12 }),
        fc.integer({ min: 0, max: 100 }),
        async (which, changes, cut) => {
          const [name, whole] = good[which]
          const bytes = whole.slice(0, Math.max(1, Math.floor((whole.length * cut) / 100)))
          for (const [at, value] of changes) bytes[at % bytes.length] = value
          try {
            await readFile(bytes, name)
          } catch (error) {
            expect(error).toBeInstanceOf(ChiraxisError)
          }
        },
      ),
      { numRuns: 150 },
    )
  })
})

const png = (): Uint8Array => encode({ width: 4, height: 4, data: new Uint8Array(48).fill(120), channels: 3, depth: 8 })

describe('OBJ with a material library', () => {
  const obj =
    'mtllib crew.mtl\nv 0 0 0 1 0 0\nv 1 0 0 0 1 0\nv 1 1 0 0 0 1\nv 0 1 0 1 1 1\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nvt 0.5 0.5\no shirt\nusemtl cloth\nf 1/1 2/2 3/3\nusemtl skin\nf 1/5 3/3 4/4\n'
  const mtl =
    'newmtl cloth\nKd 0.5 0.25 0.125\nmap_Kd textures/cloth.png\nbump -bm 0.6 bumps.png\nnewmtl skin\nKd 1 0 0\nd 0.5\n'
  it('keeps parts, colours, images, and one vertex for each texture coordinate', () => {
    const beside = new Map([
      ['crew.mtl', text(mtl)],
      ['cloth.png', png()],
      ['bumps.png', png()],
    ])
    const { mesh, materials, images, dropped } = readObj(text(obj), beside)
    expect(mesh!.parts.map(p => [p.name, p.count])).toEqual([
      ['shirt', 3],
      ['shirt 2', 3],
    ])
    expect(materials!.map(m => m.name)).toEqual(['cloth', 'skin'])
    expect(materials![0].maps).toEqual({ color: 0, normal: 1 })
    expect(materials![1].alpha).toBe(0.5)
    expect(images).toHaveLength(2)
    // the first corner has two coordinates, so it is two vertices at one place
    expect(mesh!.positions.length / 3).toBe(5)
    expect([...mesh!.colors!.subarray(12, 15)]).toEqual([1, 0, 0])
    expect(dropped).toEqual([])
  })
  it('tells what did not come along', () => {
    expect(readObj(text(obj)).dropped.join()).toMatch(/crew\.mtl/)
    expect(readObj(text(obj), new Map([['crew.mtl', text(mtl)]])).dropped.join()).toMatch(/cloth\.png/)
    expect(
      readObj(
        text(obj),
        new Map([
          ['crew.mtl', text(mtl)],
          ['cloth.png', text('no image')],
          ['bumps.png', png()],
        ]),
      ).dropped.join(),
    ).toMatch(/broken/)
  })
})

describe('GLB', () => {
  it('keeps textures, texture coordinates and morphs, proven', async () => {
    const b = coloured()
    const n = b.positions.length / 3
    const mesh: Mesh = {
      ...b,
      uvs: Float32Array.from({ length: 2 * n }, (_, i) => i / n),
      morphs: [
        { name: 'aa', offsets: new Float32Array(3 * n).fill(0.1) },
        { name: 'happy', offsets: new Float32Array(3 * n).fill(-0.1) },
      ],
      parts: [
        { ...b.parts[0], count: 18, material: 0 },
        { name: 'lid', start: 18, count: b.indices.length - 18, color: [1, 0, 0], material: 1 },
      ],
    }
    const content = {
      name: 'box',
      mesh,
      images: [{ name: 'paint', mime: 'image/png' as const, bytes: png() }],
      materials: [
        { ...plainMaterial('paint'), maps: { color: 0 } },
        { ...plainMaterial('glass', [1, 0, 0]), alpha: 0.4, blend: 'blend' as const, doubleSided: true },
      ],
    }
    const bytes = await writeGlb(content)
    expect((await proveGlb(bytes, content)).validatorErrors).toBe(0)
    const read = await readGltf(bytes)
    expect(read.images![0].bytes).toEqual(png())
    expect(read.materials).toEqual(
      content.materials.map(m => ({
        ...m,
        roughness: expect.closeTo(m.roughness, 5),
        alpha: expect.closeTo(m.alpha, 5),
      })),
    )
    expect(read.mesh!.uvs).toEqual(mesh.uvs)
    expect(read.mesh!.morphs!.map(m => m.name)).toEqual(['aa', 'happy'])
    expect(read.mesh!.morphs![1].offsets).toEqual(mesh.morphs![1].offsets)
    expect(read.mesh!.parts.map(p => p.material)).toEqual([0, 1])
  })

  it('keeps the bind pose apart from the rest pose', async () => {
    const rig = await cleanDoll()
    const bent = await applyRigEdit(rig, { kind: 'rest', pose: 'arms-down', degrees: 60 }, 1.7)
    const bytes = await writeGlb({
      name: 'doll',
      mesh: rig.mesh,
      skeleton: bent.skeleton,
      skin: bent.skin,
      takes: bent.takes,
    })
    const proof = await proveGlb(bytes, {
      name: 'doll',
      mesh: rig.mesh,
      skeleton: bent.skeleton,
      skin: bent.skin,
      takes: bent.takes,
    })
    expect(proof.validatorErrors).toBe(0)
    const read = await readGltf(bytes)
    expect(read.skeleton!.bind).toBeDefined()
    const own = (s: typeof bent, p: Float32Array): Float32Array => deform(p, s.skeleton, s.skin!, worldPose(s.skeleton))
    const a = own(bent, rig.mesh.positions),
      b = own({ skeleton: read.skeleton!, skin: read.skin, takes: [] }, read.mesh!.positions)
    a.forEach((v, i) => expect(b[i]).toBeCloseTo(v, 4))
  })

  it('takes bodies bound in centimetres under a scaled node, as many programs write them', async () => {
    const rig = await cleanDoll()
    const { WebIO } = await import('@gltf-transform/core')
    const io = new WebIO()
    const document = await io.readBinary(
      await writeGlb({ name: 'doll', mesh: rig.mesh, skeleton: rig.skeleton, skin: rig.skin }),
    )
    const root = document.getRoot()
    const scene = root.getDefaultScene()!
    const turn: Quat = fromAxisAngle([1, 0, 0], -Math.PI / 2)
    const top = document.createNode('armature').setScale([0.01, 0.01, 0.01]).setRotation(turn)
    const hips = root.listSkins()[0].listJoints()[0]
    scene.removeChild(hips)
    scene.addChild(top)
    top.addChild(hips)
    const toMesh = invertAffine(compose([0, 0, 0], turn, [0.01, 0.01, 0.01]))!
    // joints and vertices told in the armature's own space: centimetres, lying on their back
    const local = (p: Vec3): Vec3 =>
      [0, 1, 2].map(r => toMesh[r] * p[0] + toMesh[4 + r] * p[1] + toMesh[8 + r] * p[2]) as Vec3
    root
      .listSkins()[0]
      .listJoints()
      .forEach(j => {
        if (j === hips) {
          const t = local(j.getTranslation() as Vec3)
          j.setTranslation(t)
          const q = turn
          const own = j.getRotation()
          j.setRotation(
            [
              q[3] * own[0] - q[0] * own[3],
              own[1] * q[3] - q[0] * own[2],
              own[2] * q[3] + q[0] * own[1],
              own[3] * q[3] + q[0] * own[0],
            ].map((v, i) => (i === 0 ? -(q[0] * own[3]) + q[3] * own[0] : v)) as Quat,
          )
        } else j.setTranslation(j.getTranslation().map(v => v * 100) as Vec3)
      })
    const primitive = root.listMeshes()[0].listPrimitives()[0]
    const position = primitive.getAttribute('POSITION')!
    for (let v = 0; v < position.getCount(); v++)
      position.setElement(v, local(position.getElement(v, [0, 0, 0]) as Vec3))
    const inverse = root.listSkins()[0].getInverseBindMatrices()!
    root
      .listSkins()[0]
      .listJoints()
      .forEach((j, i) => {
        const world = multiplyMat4(invertAffine(j.getWorldMatrix())!, compose([0, 0, 0], turn, [0.01, 0.01, 0.01]))
        inverse.setElement(i, Array.from(world))
      })
    const read = await readGltf(await io.writeBinary(document))
    for (let i = 0; i < rig.mesh.positions.length; i += 97)
      expect(read.mesh!.positions[i]).toBeCloseTo(rig.mesh.positions[i], 4)
    const a = worldPose(rig.skeleton),
      b = worldPose(read.skeleton!)
    rig.skeleton.names.forEach((n, j) => {
      const k = read.skeleton!.names.indexOf(n)
      for (let c = 0; c < 3; c++) expect(b.positions[3 * k + c]).toBeCloseTo(a.positions[3 * j + c], 4)
    })
    expect(quatAt(b.rotations, 0).every(Number.isFinite)).toBe(true)
  })

  it('says when bind matrices are unusable, and keeps the body', async () => {
    const rig = await cleanDoll()
    const { WebIO } = await import('@gltf-transform/core')
    const io = new WebIO()
    const document = await io.readBinary(
      await writeGlb({ name: 'doll', mesh: rig.mesh, skeleton: rig.skeleton, skin: rig.skin }),
    )
    document.getRoot().listSkins()[0].getInverseBindMatrices()!.setElement(3, new Array(16).fill(0))
    const read = await readGltf(await io.writeBinary(document))
    expect(read.dropped.join()).toMatch(/cannot be inverted/)
    expect(read.mesh!.positions).toEqual(rig.mesh.positions)
  })

  it('moves a mesh that hangs on a joint rigidly with it', async () => {
    const rig = await cleanDoll()
    const { WebIO } = await import('@gltf-transform/core')
    const io = new WebIO()
    const document = await io.readBinary(
      await writeGlb({ name: 'doll', mesh: rig.mesh, skeleton: rig.skeleton, skin: rig.skin }),
    )
    const other = await io.readBinary(
      await writeGlb({ name: 'lantern', mesh: box([-0.02, -0.02, -0.02], [0.02, 0.02, 0.02]) }),
    )
    const hand = document
      .getRoot()
      .listNodes()
      .find(n => n.getName() === 'rightHand')!
    const source = other.getRoot().listMeshes()[0].listPrimitives()[0]
    const buffer = document.getRoot().listBuffers()[0]
    const copy = document
      .createPrimitive()
      .setAttribute(
        'POSITION',
        document
          .createAccessor()
          .setType('VEC3')
          .setArray(source.getAttribute('POSITION')!.getArray()!.slice() as Float32Array<ArrayBuffer>)
          .setBuffer(buffer),
      )
      .setIndices(
        document
          .createAccessor()
          .setType('SCALAR')
          .setArray(source.getIndices()!.getArray()!.slice() as Uint16Array<ArrayBuffer>)
          .setBuffer(buffer),
      )
    hand.addChild(document.createNode('lantern').setMesh(document.createMesh('lantern').addPrimitive(copy)))
    const read = await readGltf(await io.writeBinary(document))
    const own = read.skeleton!.names.indexOf('rightHand')
    const part = read.mesh!.parts.find(p => p.name === 'lantern')!
    for (const v of read.mesh!.indices.subarray(part.start, part.start + part.count)) {
      expect(read.skin!.joints[v * read.skin!.influences]).toBe(own)
      expect(read.skin!.weights[v * read.skin!.influences]).toBe(1)
    }
  })

  it('names textures that lie beside a .gltf and did not come along', async () => {
    const json = {
      asset: { version: '2.0' },
      scene: 0,
      scenes: [{ nodes: [0] }],
      nodes: [{ mesh: 0 }],
      materials: [{ pbrMetallicRoughness: { baseColorTexture: { index: 0 } } }],
      textures: [{ source: 0 }],
      images: [{ uri: 'coat.png' }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 }, material: 0 }] }],
      buffers: [{ byteLength: 36, uri: 'body.bin' }],
      bufferViews: [{ buffer: 0, byteLength: 36 }],
      accessors: [{ bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] }],
    }
    const bin = new Uint8Array(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]).buffer)
    const bytes = text(JSON.stringify(json))
    expect((await refusal(bytes, 'body.gltf')).message).toMatch(/beside/)
    const alone = await readFile(bytes, 'body.gltf', { beside: new Map([['body.bin', bin]]) })
    expect(alone.dropped.join()).toMatch(/coat\.png/)
    const both = await readFile(bytes, 'body.gltf', {
      beside: new Map([
        ['body.bin', bin],
        ['coat.png', png()],
      ]),
    })
    expect(both.images).toHaveLength(1)
    expect(both.dropped).toEqual([])
  })
})

describe('images', () => {
  it('are told to be normal maps only where they are', async () => {
    const of = (rgb: readonly number[], wild = 0): Uint8Array =>
      encode({
        width: 16,
        height: 16,
        channels: 3,
        depth: 8,
        data: Uint8Array.from({ length: 768 }, (_, i) => rgb[i % 3] + ((i * 31) % (wild + 1))),
      })
    const image = (bytes: Uint8Array) => ({ name: 'x', mime: 'image/png' as const, bytes })
    expect(await looksLikeNormals(image(of([128, 128, 255])))).toBe(true)
    expect(await looksLikeNormals(image(of([60, 90, 200], 50)))).toBe(false)
    expect(await looksLikeNormals(image(of([200, 180, 160])))).toBe(false)
    expect(await looksLikeNormals(image(text('broken')))).toBe(false)
  })
})
