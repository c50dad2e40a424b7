import { describe, expect, it } from 'vitest'
import { readFile, writeGlb, type Received } from '@chiraxis/core/formats'
import { joinMeshes, meshOf, type Mesh } from '@chiraxis/core/mesh'
import { seededRandom } from '@chiraxis/core/math'
import { emptyRecipe, hashBytes, type FileRef, type Recipe } from '@chiraxis/core/recipe'
import { contentOf, createDerivation, guessArrival, stemOf, type Derivation } from '@chiraxis/core/steps'
import { jointWeights } from '@chiraxis/core/skin'
import { makeFigure, makeHound, ODA, PIM, BRINDLE, trueSkeleton, variedProportions } from '../src/figures'
import { mannequin } from './mannequin'

const FIGURE = makeFigure(ODA, { vertices: 6000 })

/** The same body a week later: vertices moved a little, triangles and vertices in another order. */
function edited(mesh: Mesh, seed: number, by: number): Mesh {
  const random = seededRandom(seed)
  const n = mesh.positions.length / 3
  const order = Array.from({ length: n }, (_, i) => i)
  for (let i = n - 1; i > 0; i--) {
    const j = Math.floor(random() * (i + 1))
    ;[order[i], order[j]] = [order[j], order[i]]
  }
  const place = new Uint32Array(n)
  order.forEach((v, at) => (place[v] = at))
  const positions = new Float32Array(3 * n)
  // a smooth swelling, as of a sculptor's brush
  for (let v = 0; v < n; v++) {
    const [x, y, z] = mesh.positions.subarray(3 * v, 3 * v + 3)
    positions.set([x + by * Math.sin(7 * y), y, z + by * Math.cos(5 * y)], 3 * place[v])
  }
  const faces = Array.from({ length: mesh.indices.length / 3 }, (_, f) => f)
  for (let i = faces.length - 1; i > 0; i--) {
    const j = Math.floor(random() * (i + 1))
    ;[faces[i], faces[j]] = [faces[j], faces[i]]
  }
  const indices = Uint32Array.from(
    faces.flatMap(f => [...mesh.indices.subarray(3 * f, 3 * f + 3)]),
    v => place[v],
  )
  return meshOf(positions, indices, 'body')
}

const hat = (crown: number): Mesh => {
  const p: number[] = []
  const t: number[] = []
  for (let i = 0; i < 24; i++) {
    const a = (2 * Math.PI * i) / 24
    p.push(0.1 * Math.cos(a), crown - 0.02, 0.1 * Math.sin(a))
    t.push(i, (i + 1) % 24, 24)
  }
  p.push(0, crown + 0.12, 0)
  return meshOf(Float32Array.from(p), Uint32Array.from(t), 'hat')
}
const crownOf = (mesh: Mesh): number => {
  let top = -Infinity
  for (let i = 1; i < mesh.positions.length; i += 3) top = Math.max(top, mesh.positions[i])
  return top
}

function session(): { put: (name: string, bytes: Uint8Array) => FileRef; derivation: Derivation } {
  const files = new Map<string, Uint8Array>()
  return {
    put: (name, bytes) => {
      const hash = hashBytes(bytes)
      files.set(hash, bytes)
      return { name, hash, size: bytes.length }
    },
    derivation: createDerivation(async f => files.get(f.hash)!),
  }
}

describe('a second version of a body', () => {
  it('keeps all hand work by role, name and place, and lists just what no longer fits', async () => {
    const { put, derivation } = session()
    const first = joinMeshes([meshOf(FIGURE.mesh.positions, FIGURE.mesh.indices, 'body'), hat(crownOf(FIGURE.mesh))])
    const v1 = put('clerk_v1.glb', await writeGlb({ name: 'clerk', mesh: first }))
    const elbow = FIGURE.joints.leftLowerArm
    const H = FIGURE.height
    const recipe: Recipe = {
      ...emptyRecipe('clerk'),
      body: v1,
      landmarks: { edits: { leftElbow: [elbow[0] / H, elbow[1] / H, elbow[2] / H] } },
      pieces: { hat: { role: 'rigid', joint: 'leftHand' }, buttons: { role: 'rigid', joint: 'chest' } },
      bones: {
        ...emptyRecipe().bones,
        // how many fingers are seen may change with the surface; told, it stays
        plan: { ...emptyRecipe().bones.plan, fingers: { left: 0, right: 0 } },
        edits: [
          { kind: 'split', joint: 'rightUpperArm', parts: 2, mirror: false },
          { kind: 'rename', names: { head: 'skull' } },
        ] as never,
      },
      skin: {
        ...emptyRecipe().skin,
        edits: [
          {
            kind: 'stroke',
            tool: 'add',
            joint: 'chest',
            dabs: [[0, 0.62, 0.06, 0, 0, 1, 1]],
            radius: 0.08,
            strength: 1,
            value: 1,
            falloff: 0.5,
            mirror: false,
            through: true,
            locked: [],
          },
        ] as never,
      },
    }
    const before = await contentOf(derivation, recipe, [])
    // moved, in another order, one more piece, another name
    const second = joinMeshes([
      edited(FIGURE.mesh, 5, 0.004),
      hat(crownOf(FIGURE.mesh)),
      { ...hat(0.9), parts: [{ ...hat(0.9).parts[0], name: 'cone' }] },
    ])
    const v2 = put('clerk_v2_final.glb', await writeGlb({ name: 'clerk', mesh: second }))
    const next: Recipe = { ...recipe, body: v2 }
    const after = await contentOf(derivation, next, [])
    const names = after.skeleton!.names
    expect(names).toContain('skull')
    expect(names.length).toBe(before.skeleton!.names.length)
    expect(names).toEqual(before.skeleton!.names)
    // the landmark by hand is where it was put
    const placed = (await derivation.get('landmarks', next)).placed.find(l => l.id === 'leftElbow')!
    const h = (await derivation.get('shape', next)).straightened.height
    expect(placed.position[0] / h).toBeCloseTo(elbow[0] / H, 2)
    // the hat still rides where it was told to, though nobody would guess so
    const part = after.mesh!.parts.find(p => p.name === 'hat')!
    const hand = after.skeleton!.roles.indexOf('leftHand')
    const held = jointWeights(after.skin!, hand)
    for (const v of after.mesh!.indices.subarray(part.start, part.start + part.count)) expect(held[v]).toBe(1)
    // the stroke lands on the same place
    const chest = jointWeights(after.skin!, after.skeleton!.roles.indexOf('chest'))
    const near = await derivation.get('automaticSkin', next)
    const plain = jointWeights(near, after.skeleton!.roles.indexOf('chest'))
    expect(chest.some((w, v) => w > plain[v] + 0.2)).toBe(true)
    const findings = await derivation.get('findings', next, { of: [] })
    const lost = findings.filter(f => f.rule === 'lost-edit').map(f => f.where)
    expect(lost).toEqual(['buttons'])
  })
})

describe('what a file with a body is', () => {
  const received = (mesh: Mesh, more: Partial<Received> = {}): Received => ({
    format: 'glb',
    mesh,
    takes: [],
    dropped: [],
    ...more,
  })
  const open = { name: 'clerk_v1.glb', received: received(FIGURE.mesh) }
  const bone = { ...trueSkeleton(FIGURE) }
  it('is a new version by name and shape, whatever its order, axes and unit', () => {
    const turned = { ...edited(FIGURE.mesh, 9, 0.003) }
    const p = turned.positions
    for (let i = 0; i < p.length; i += 3) [p[i], p[i + 1], p[i + 2]] = [100 * p[i], 100 * -p[i + 2], 100 * p[i + 1]]
    expect(guessArrival(open, { name: 'clerk_v2.glb', received: received(turned) }).likely).toBe('version')
    expect(guessArrival(open, { name: 'export.fbx', received: received(turned) }).likely).toBe('version')
  })
  it.each([
    ['Pim', makeFigure(PIM, { vertices: 5000 }).mesh],
    ['a hound', makeHound(BRINDLE, { vertices: 5000 }).mesh],
    ['a child', makeFigure(variedProportions(41), { vertices: 5000 }).mesh],
    [
      'a doll of prisms',
      mannequin({ height: 1.2, armsDown: 70, sides: 5, overlap: 0.6, thickness: 1.5, skirt: true }).mesh,
    ],
  ])('is another figure by its shape: %s', (_, mesh) =>
    expect(guessArrival(open, { name: 'other.glb', received: received(mesh) }).likely).toBe('figure'),
  )
  it('is motion where it holds takes on this skeleton, a piece where it is small and near', () => {
    const take = { name: 'run', fps: 30, frames: 2, rotations: new Float32Array(0), translations: new Float32Array(0) }
    const figure = { name: 'clerk_v1.glb', received: received(FIGURE.mesh, { skeleton: bone }) }
    const mover = received(makeFigure(PIM, { vertices: 3000 }).mesh, { skeleton: bone, takes: [take, take] })
    expect(guessArrival(figure, { name: 'runs.fbx', received: mover })).toMatchObject({
      likely: 'clips',
      why: expect.stringContaining('2 takes'),
    })
    expect(guessArrival(open, { name: 'hat.glb', received: received(hat(crownOf(FIGURE.mesh))) }).likely).toBe('piece')
  })
  it.each([
    ['clerk.glb', 'clerk'],
    ['Clerk_v2.glb', 'clerk'],
    ['clerk-003.fbx', 'clerk'],
    ['clerk final (2).obj', 'clerk'],
    ['folder/clerk_new_v12.GLB', 'clerk'],
    ['2001.glb', '2001.glb'],
  ])('has a name without its number: %s', (name, stem) => expect(stemOf(name)).toBe(stem))
})

describe('a piece that comes later', () => {
  it('is put on the body with its material and everything else of its file', async () => {
    const { put, derivation } = session()
    const body = put(
      'body.glb',
      await writeGlb({ name: 'clerk', mesh: meshOf(FIGURE.mesh.positions, FIGURE.mesh.indices, 'body') }),
    )
    const own = hat(crownOf(FIGURE.mesh))
    const straw = {
      name: 'straw',
      color: [0.8, 0.7, 0.2] as const,
      alpha: 1,
      metallic: 0,
      roughness: 0.9,
      blend: 'opaque' as const,
      doubleSided: true,
      maps: {},
    }
    const piece = put(
      'hat.glb',
      await writeGlb({ name: 'hat', mesh: { ...own, parts: [{ ...own.parts[0], material: 0 }] }, materials: [straw] }),
    )
    const recipe: Recipe = { ...emptyRecipe('clerk'), body, added: [{ file: piece, beside: [] }] }
    const content = await contentOf(derivation, recipe, [])
    expect(content.mesh!.parts.map(p => p.name)).toEqual(['body', 'hat'])
    const bytes = await writeGlb(content)
    const back = await readFile(bytes, 'a.glb')
    expect(back.materials!.map(m => m.name)).toContain('straw')
    expect(back.document!.json.materials!.find(m => m.name === 'straw')!.doubleSided).toBe(true)
    const guesses = await derivation.get('pieces', recipe)
    expect(guesses[1]).toMatchObject({ kind: 'hat', role: 'rigid', joint: 'head' })
  })
})
