import { beforeAll, describe, expect, it } from 'vitest'
import { encode } from 'fast-png'
import { conjugate, quatAt, type Quat, type Vec3, compose, fromAxisAngle } from '../src/math'
import { plainMaterial, transformMesh, type Mesh, meshOf } from '../src/mesh'
import { writeGlb, type GltfContent } from '../src/formats'
import { RULES, type Finding } from '../src/findings'
import { emptyRecipe, hashBytes, type Recipe } from '../src/recipe'
import { contextIn, createDerivation, mendAll, type Derivation } from '../src/steps'
import { applyRigEdit, moveJoints, rebuildRig, sameJoints, type Rig } from '../src/rig'
import { jointByRole, worldPose } from '../src/skeleton'
import { deform, type Skin } from '../src/skin'
import { cleanDoll } from './figure'
import { join, tube } from './shapes'

type Doll = Rig & { mesh: Mesh; skin: Skin }
let doll: Doll

beforeAll(async () => {
  doll = await cleanDoll()
})

interface Opened {
  recipe: Recipe
  derivation: Derivation
  found: readonly Finding[]
}
async function open(content: Omit<GltfContent, 'name'>): Promise<Opened> {
  const bytes = await writeGlb({ name: 'doll', ...content })
  const hash = hashBytes(bytes)
  const derivation = createDerivation(async () => bytes)
  const recipe: Recipe = { ...emptyRecipe('doll'), body: { name: 'doll.glb', hash, size: bytes.length } }
  return { recipe, derivation, found: await derivation.get('findings', recipe, { of: [] }) }
}
const rules = (found: readonly Finding[]): string[] => [
  ...new Set(found.filter(f => f.severity !== 'note' || f.mendable).map(f => f.rule)),
]
/** As a stranger would send it: no roles told. */
const anonymous = (rig: Rig): GltfContent => ({
  name: 'doll',
  mesh: rig.mesh,
  skin: rig.skin,
  takes: rig.takes,
  skeleton: { ...rig.skeleton, roles: rig.skeleton.names.map(() => undefined), tips: undefined },
})
const vertexNear = (p: Vec3): number => {
  let best = 0,
    least = Infinity
  for (let v = 0; v < doll.mesh.positions.length / 3; v++) {
    const d = Math.hypot(
      doll.mesh.positions[3 * v] - p[0],
      doll.mesh.positions[3 * v + 1] - p[1],
      doll.mesh.positions[3 * v + 2] - p[2],
    )
    if (d < least) {
      least = d
      best = v
    }
  }
  return best
}
const withSkin = (change: (joints: Uint16Array, weights: Float32Array, k: number) => void): Rig => {
  const skin: Skin = { ...doll.skin, joints: doll.skin.joints.slice(), weights: doll.skin.weights.slice() }
  change(skin.joints, skin.weights, skin.influences)
  return { ...doll, skin }
}
const joint = (role: string): number => jointByRole(doll.skeleton, role)
const renamed = (name: (n: string, j: number) => string): Rig => ({
  ...doll,
  skeleton: { ...doll.skeleton, names: doll.skeleton.names.map(name) },
})

/** Every mismatch planted in a doll that is otherwise in order. */
const PLANTED: Record<string, () => Promise<Rig> | Rig> = {
  'world-aligned-axes': () => {
    const world = worldPose(doll.skeleton)
    return rebuildRig(
      doll,
      sameJoints(doll.skeleton).map((j, i) => ({ ...j, rotation: conjugate(quatAt(world.rotations, i)) })),
    )
  },
  'root-turned': () =>
    rebuildRig(
      doll,
      sameJoints(doll.skeleton).map((j, i) =>
        i === 0 ? { ...j, rotation: [Math.SQRT1_2, 0, 0, Math.SQRT1_2] as Quat } : j,
      ),
    ),
  'bent-back': () => moveJoints(doll, new Map([[joint('leftLowerLeg'), [0, 0, -0.04] as Vec3]]), false),
  'straight-limb': () => {
    const w = worldPose(doll.skeleton).positions
    const [a, m, b] = ['leftUpperLeg', 'leftLowerLeg', 'leftFoot'].map(r => joint(r))
    const t = (w[3 * a + 1] - w[3 * m + 1]) / (w[3 * a + 1] - w[3 * b + 1])
    return moveJoints(
      doll,
      new Map([
        [
          m,
          [
            w[3 * a] + t * (w[3 * b] - w[3 * a]) - w[3 * m],
            0,
            w[3 * a + 2] + t * (w[3 * b + 2] - w[3 * a + 2]) - w[3 * m + 2],
          ] as Vec3,
        ],
      ]),
      false,
    )
  },
  'hinge-disagrees': () =>
    applyRigEdit(doll, { kind: 'hinge', joint: 'leftLowerLeg', degrees: 30, mirror: false }, 1.7),
  'joint-outside': () => moveJoints(doll, new Map([[joint('rightLowerArm'), [0, 0.12, 0] as Vec3]]), false),
  'zero-length-bone': () =>
    applyRigEdit(doll, { kind: 'insert', joint: 'leftUpperArm', name: 'stray', share: 0, mirror: false }, 1.7),
  'prefix-missing': () => renamed((n, j) => (j % 2 ? `crew:${n}` : n)),
  'duplicate-names': () => renamed(n => (n === 'leftToes' || n === 'rightToes' ? 'toes' : n)),
  'asymmetric-skeleton': () => moveJoints(doll, new Map([[joint('rightUpperArm'), [0.035, 0, 0] as Vec3]]), false),
  'unusual-rest': () => applyRigEdit(doll, { kind: 'rest', pose: 'arms-down', degrees: 82 }, 1.7),
  'weights-not-summing': () =>
    withSkin((_, w, k) => {
      for (let v = 0; v < 50; v++) for (let i = v * k; i < v * k + k; i++) w[i] *= 0.6
    }),
  'loose-vertices': () => withSkin((_, w, k) => w.fill(0, 40 * k, 60 * k)),
  'influence-across-gap': () =>
    withSkin((j, w, k) => {
      const v = vertexNear([0.09, 0.6, 0.06])
      const arm = joint('leftHand')
      for (let u = v - 8; u < v + 8; u++) {
        w[u * k + k - 1] = 0.4
        j[u * k + k - 1] = arm
        w[u * k] *= 0.6
      }
    }),
}

describe('a figure in order', () => {
  it('has nothing to mend', async () => {
    const { found } = await open(anonymous(doll))
    expect(rules(found)).toEqual([])
  })
})

describe('planted mismatches are found, mended, and the takes stay right', () => {
  for (const [rule, plant] of Object.entries(PLANTED)) {
    it(rule, async () => {
      const rig = await plant()
      const { recipe, derivation, found } = await open(anonymous(rig))
      const own = found.filter(f => f.rule === rule)
      expect(own.length, rules(found).join()).toBeGreaterThan(0)
      expect(own[0].mendable).toBe(true)
      expect(own[0].remedy!.length).toBeGreaterThan(10)
      expect(own[0].message).not.toMatch(/undefined|NaN/)
      const before = await derivation.get('rig', recipe)
      const result = await mendAll(derivation, recipe)
      expect(result.mended).toContain(rule)
      expect(rules(result.left)).toEqual([])
      // what is mended in the skeleton moves no vertex of any frame; weights alone may
      const after = await derivation.get('rig', result.recipe)
      if (/weights|loose|influence|zero/.test(rule)) return
      const mesh = (await derivation.get('shape', recipe)).mesh
      for (let f = 0; f < before.takes[0].frames; f += 5) {
        const pose = (r: typeof before): Float32Array =>
          deform(
            mesh.positions,
            r.skeleton,
            r.skin!,
            worldPose(r.skeleton, r.takes[0].translations, r.takes[0].rotations, f * r.skeleton.names.length),
          )
        const a = pose(before),
          b = pose(after)
        let worst = 0
        for (let i = 0; i < a.length; i++) worst = Math.max(worst, Math.abs(a[i] - b[i]))
        expect(worst).toBeLessThan(4e-5)
      }
    })
  }

  it('too many influences', async () => {
    const { bind } = await import('../src/skin')
    const skin = await bind(doll.mesh, doll.skeleton, { cells: 80, influences: 8, firmness: 0.2, smooth: 6 })
    const { recipe, derivation, found } = await open(anonymous({ ...doll, skin }))
    expect(found.find(f => f.rule === 'too-many-influences')!.value).toBeGreaterThan(4)
    const result = await mendAll(derivation, recipe)
    expect(result.mended).toContain('too-many-influences')
    expect((await derivation.get('skin', result.recipe)).influences).toBe(4)
  })

  it('all at once', async () => {
    let rig = doll as Rig
    const world = worldPose(doll.skeleton)
    rig = moveJoints(
      rig,
      new Map([
        [joint('leftLowerLeg'), [0, 0, -0.04] as Vec3],
        [joint('rightLowerLeg'), [0, 0, -0.04] as Vec3],
      ]),
      false,
    )
    rig = rebuildRig(
      rig,
      sameJoints(rig.skeleton).map((j, i) => ({
        ...j,
        name: i % 2 ? `crew:${j.name}` : j.name,
        rotation: conjugate(quatAt(world.rotations, i)),
      })),
    )
    const { recipe, derivation, found } = await open(anonymous(rig))
    for (const rule of ['bent-back', 'prefix-missing', 'world-aligned-axes']) expect(rules(found)).toContain(rule)
    expect(rules((await mendAll(derivation, recipe)).left)).toEqual([])
  })
})

describe('rules that only tell', () => {
  it('parts without a joint', async () => {
    const pruned = await applyRigEdit(doll, { kind: 'remove', joint: 'leftHand', mirror: false }, 1.7)
    const { found } = await open(anonymous(pruned))
    expect(
      found.some(f => f.rule === 'missing-role' && /left hand/.test(f.message)) ||
        found.some(f => f.rule === 'missing-role'),
    ).toBe(true)
  })
  it('joints without a part', async () => {
    const more = await applyRigEdit(
      doll,
      {
        kind: 'add',
        parent: 'rightHand',
        name: 'lantern',
        at: [0, -0.03, 0],
        along: [0, 0, 0],
        joints: 1,
        mirror: false,
      },
      1.7,
    )
    const { found } = await open(anonymous(more))
    expect(found.find(f => f.rule === 'idle-joints')).toMatchObject({ value: 1, severity: 'note' })
  })
  it('edits that no longer fit', async () => {
    const { recipe, derivation } = await open(anonymous(doll))
    const found = await derivation.get(
      'findings',
      { ...recipe, bones: { ...recipe.bones, edits: [{ kind: 'remove', joint: 'nobody', mirror: false }] } },
      { of: [] },
    )
    expect(found.find(f => f.rule === 'lost-edit')!.message).toMatch(/nobody/)
  })
})

describe('bodies', () => {
  const placed = (matrix: ArrayLike<number>): Mesh => transformMesh(doll.mesh, matrix)
  const upright: Quat = [0, 0, 0, 1]
  it.each([
    ['lying-body', compose([0, 0, 0], fromAxisAngle([0, 0, 1], Math.PI / 2))],
    ['facing-away', compose([0, 0, 0], fromAxisAngle([0, 1, 0], Math.PI))],
    ['turned-body', compose([0, 0, 0], fromAxisAngle([0, 1, 0], 0.12))],
    ['unit-off', compose([0, 0, 0], upright, [100, 100, 100])],
    ['off-ground', compose([0, 0.3, 0], upright)],
    ['off-midline', compose([0.2, 0, 0], upright)],
  ])('%s: told as it came, and put right by straightening', async (rule, matrix) => {
    const { recipe, derivation, found } = await open({ mesh: placed(matrix) })
    expect(
      found.find(f => f.rule === rule),
      found.map(f => f.rule).join(),
    ).toMatchObject({ severity: 'note', mendable: false })
    const context = { ...(await contextIn(derivation, recipe, { reach: 'kept' })), asReceived: true }
    const own = await RULES.find(r => r.id === rule)!.detect(context)
    expect(own[0]).toMatchObject({ severity: 'warning', mendable: true })
    const { mesh, straightened } = await derivation.get('shape', recipe)
    expect(straightened.height).toBeCloseTo(1.72, 1)
    expect(Math.min(...mesh.positions.filter((_, i) => i % 3 === 1))).toBeCloseTo(0, 2)
  })
  it('unclean faces', async () => {
    const indices = doll.mesh.indices.slice()
    for (let f = 300; f < 330; f += 3) [indices[f + 1], indices[f + 2]] = [indices[f + 2], indices[f + 1]]
    indices[60] = indices[61]
    const { recipe, derivation, found } = await open({ mesh: { ...doll.mesh, indices, normals: undefined } })
    expect(found.find(f => f.rule === 'unclean-faces')!.value).toBeGreaterThan(1)
    const result = await mendAll(derivation, recipe)
    expect(result.mended).toContain('unclean-faces')
    const check = await derivation.get('check', result.recipe)
    expect([check.flipped, check.degenerate]).toEqual([0, 0])
  })
  it('a half body', async () => {
    const whole = join(
      tube(
        Array.from({ length: 30 }, (_, i) => [0, i / 17, 0]),
        0.2,
        24,
      ),
    )
    const keep: number[] = []
    for (let f = 0; f < whole.indices.length; f += 3)
      if ([0, 1, 2].every(k => whole.positions[3 * whole.indices[f + k]] > -1e-6))
        keep.push(...whole.indices.subarray(f, f + 3))
    const to = new Map<number, number>()
    const positions: number[] = []
    const indices = keep.map(v => {
      if (!to.has(v)) {
        to.set(v, positions.length / 3)
        positions.push(...whole.positions.subarray(3 * v, 3 * v + 3))
      }
      return to.get(v)!
    })
    const { recipe, derivation, found } = await open({
      mesh: meshOf(Float32Array.from(positions), Uint32Array.from(indices)),
    })
    expect(found.find(f => f.rule === 'half-body')).toMatchObject({ severity: 'error', mendable: true })
    const { mesh } = await derivation.get('shape', { ...recipe, mirrorHalf: 'left' })
    expect(mesh.indices.length).toBe(2 * indices.length)
    expect((await derivation.get('check', { ...recipe, mirrorHalf: 'left' })).openEdges).toBe(0)
  })
  it('a normal map shown as colour', async () => {
    const size = 32
    const pixels = new Uint8Array(3 * size * size)
    for (let i = 0; i < size * size; i++) {
      const x = 0.3 * Math.sin(i),
        y = 0.3 * Math.cos(i * 0.7)
      pixels.set(
        [x, y, Math.sqrt(1 - x * x - y * y)].map(c => Math.round((c + 1) * 127.5)),
        3 * i,
      )
    }
    const paint = new Uint8Array(3 * size * size).map((_, i) => (i * 37) % 255)
    const image = (data: Uint8Array, name: string) => ({
      name,
      mime: 'image/png' as const,
      bytes: encode({ width: size, height: size, data, channels: 3, depth: 8 }),
    })
    const mesh: Mesh = {
      ...doll.mesh,
      uvs: new Float32Array((doll.mesh.positions.length / 3) * 2),
      parts: [{ ...doll.mesh.parts[0], material: 0 }],
    }
    const materials = [
      { ...plainMaterial('cloth'), maps: { color: 0 } },
      { ...plainMaterial('skin'), maps: { color: 1 } },
    ]
    const { recipe, derivation, found } = await open({
      mesh,
      materials,
      images: [image(pixels, 'bumps'), image(paint, 'paint')],
    })
    expect(found.filter(f => f.rule === 'normal-map-as-colour').map(f => f.where)).toEqual(['cloth'])
    const result = await mendAll(derivation, recipe)
    expect(result.recipe.normalMaps).toEqual(['cloth'])
    expect(result.left.some(f => f.rule === 'normal-map-as-colour')).toBe(false)
  })
})
