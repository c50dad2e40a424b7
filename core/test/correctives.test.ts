import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import {
  correctedFor,
  driveOf,
  makeCorrective,
  nameShapes,
  openShape,
  poseOf,
  sculptDab,
  shapeFor,
  USUAL_EASE,
  weightsThrough,
  withShapes,
  type Corrective,
  type CorrectiveShapes,
  type Driven,
  type SculptStroke,
} from '../src/corrective'
import { floatValues, type GltfDocument } from '../src/document'
import { figureWithTakes, proveGlb, readFile, writeGlb, type GltfContent } from '../src/formats'
import { fromAxisAngle, multiply, normalize, pseudoInverse, slerp, IDENTITY, type Quat, type Vec3 } from '../src/math'
import { groundOf, type CanvasGround } from '../src/paint'
import { atBind, bindPose, posed, worldPose, type PoseTurn, type Skeleton } from '../src/skeleton'
import { deform, deformKeepingVolume, undeformMoves, type Skin } from '../src/skin'
import { cleanDoll } from './figure'
import { io, richRigged } from './round-trip/rich'
import { biped, wildAxes, wildTake } from './skeletons'

const degrees = (d: number): number => (d * Math.PI) / 180
const turn = (joint: string, axis: Vec3, d: number): PoseTurn => ({
  joint,
  by: fromAxisAngle(normalize(axis), degrees(d)),
})
const elbow = (d: number): PoseTurn => turn('leftLowerArm', [0, 1, 0], -d)
const corrective = (more: Partial<Corrective> = {}): Corrective => ({
  id: 'c1',
  label: 'Elbow bent',
  turns: [elbow(120)],
  ease: 1,
  keep: 1,
  mirrored: false,
  strokes: [],
  ...more,
})
const stroke = (more: Partial<SculptStroke> = {}): SculptStroke => ({
  tool: 'raise',
  dabs: [],
  radius: 0.04,
  strength: 1,
  falloff: 0.7,
  mirror: false,
  through: true,
  ...more,
})

/** The shapes of a list of correctives. */
async function makeShapes(
  ground: CanvasGround,
  skeleton: Skeleton,
  skin: Skin,
  list: readonly Corrective[],
  taken: readonly string[] = [],
): Promise<CorrectiveShapes> {
  const made = []
  for (const c of list) made.push({ ...c, ...(await makeCorrective(ground, skeleton, skin, c)) })
  return nameShapes(made, taken)
}

let doll: Awaited<ReturnType<typeof cleanDoll>>
let ground: CanvasGround
beforeAll(async () => {
  doll = await cleanDoll()
  ground = await groundOf(doll.mesh, 1.72)
})
const driven = (poses: readonly (readonly PoseTurn[])[], ease = 1): Driven[] => poses.map(turns => ({ turns, ease }))
const weightsAt = (skeleton: Skeleton, poses: PoseTurn[][], turns: PoseTurn[], ease = 1): Float64Array =>
  driveOf(skeleton, driven(poses, ease)).weights(posed(atBind(skeleton), turns))

describe('what drives shapes', () => {
  const axis = fc.tuple(fc.double({ min: -1, max: 1 }), fc.double({ min: -1, max: 1 }), fc.double({ min: -1, max: 1 }))
  const anyTurn = fc
    .tuple(
      axis.filter(([x, y, z]) => !Number.isNaN(x + y + z) && Math.hypot(x, y, z) > 0.2),
      fc.double({ min: 25, max: 150, noNaN: true }),
    )
    .map(([a, d]) => turn('leftUpperArm', a, d))

  it('shows each in full at its own pose, at none of the others and not at rest, whatever the joint axes', () => {
    fc.assert(
      fc.property(fc.array(anyTurn, { minLength: 1, maxLength: 5 }), fc.integer(), (turns, seed) => {
        const apart = turns.every((a, i) => turns.every((b, k) => k <= i || angle(a.by as Quat, b.by as Quat) > 0.35))
        fc.pre(apart)
        const skeleton = biped({ axes: wildAxes(seed) })
        const poses = turns.map(t => [t])
        // a twist too small to drive anything makes poses alike: only what differs by more is asked about
        fc.pre(poses.length === 1 || turns.every(t => Math.abs(t.by[0]) < 0.1))
        const drive = driveOf(skeleton, driven(poses, 1 + (Math.abs(seed) % 4)))
        expect(Math.max(...drive.weights(atBind(skeleton).restRotations))).toBeLessThan(1e-6)
        poses.forEach((p, i) => {
          const w = drive.weights(posed(atBind(skeleton), p))
          w.forEach((v, k) => expect(v).toBeCloseTo(k === i ? 1 : 0, 3))
        })
      }),
      { numRuns: 150 },
    )
  })

  it('grows evenly from rest, gives way to the next pose, and holds beyond the last', () => {
    const poses = [[elbow(60)], [elbow(120)]]
    const at = (d: number): number[] => [...weightsAt(doll.skeleton, poses, [elbow(d)])]
    for (const [d, a, b] of [
      [15, 0.25, 0],
      [45, 0.75, 0],
      [60, 1, 0],
      [90, 0.5, 0.5],
      [120, 0, 1],
      [145, 0, 1],
    ]) {
      expect(at(d)[0]).toBeCloseTo(a, 5)
      expect(at(d)[1]).toBeCloseTo(b, 5)
    }
    expect(at(-90)).toEqual([0, 0])
    // late on the way from rest, and just as evenly from one pose to the next
    const late = (d: number): number[] => [...weightsAt(doll.skeleton, poses, [elbow(d)], 3)]
    expect(late(30)[0]).toBeCloseTo(0.125, 5)
    expect(late(90)[0]).toBeCloseTo(0.5, 5)
    expect(late(90)[1]).toBeCloseTo(0.5, 5)
  })

  it('does not care how an arm is twisted, unless a pose is told by its twist', () => {
    const raised = turn('leftUpperArm', [0, 0, 1], 80)
    const twisted = (d: number): PoseTurn => ({
      joint: 'leftUpperArm',
      by: multiply(raised.by as Quat, fromAxisAngle([1, 0, 0], degrees(d))),
    })
    const swung = weightsAt(doll.skeleton, [[raised]], [twisted(50)])[0]
    expect(swung).toBeGreaterThan(0.97)
    const told = weightsAt(doll.skeleton, [[twisted(60)]], [raised])[0]
    expect(told).toBeLessThan(0.6)
  })

  it('asks for all joints of a pose together, and for none where one is gone', () => {
    const both = [turn('leftUpperLeg', [1, 0, 0], -90), turn('leftLowerLeg', [1, 0, 0], 90)]
    expect(weightsAt(doll.skeleton, [both], both)[0]).toBeCloseTo(1)
    expect(weightsAt(doll.skeleton, [both], both.slice(0, 1))[0]).toBeLessThan(0.35)
    expect(weightsAt(doll.skeleton, [[...both, turn('tail', [1, 0, 0], 90)]], both)[0]).toBe(0)
  })

  it('undoes a matrix, and lets rows that are alike share', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(fc.double({ min: -2, max: 2, noNaN: true }), { minLength: 3, maxLength: 3 }), {
          minLength: 3,
          maxLength: 3,
        }),
        m => {
          const rows = m.map((r, i) => r.map((v, k) => v + (i === k ? 8 : 0)))
          const inverse = pseudoInverse(rows)
          rows.forEach((r, i) =>
            rows.forEach((_, k) =>
              expect(r.reduce((s, v, l) => s + v * inverse[l][k], 0)).toBeCloseTo(i === k ? 1 : 0, 5),
            ),
          )
        },
      ),
      { numRuns: 40 },
    )
    const shared = pseudoInverse([
      [1, 1],
      [1, 1],
    ])
    expect(shared.flat().every(v => Math.abs(v - 0.25) < 1e-3)).toBe(true)
  })
})
const angle = (a: Quat, b: Quat): number =>
  2 * Math.acos(Math.min(1, Math.abs(a[0] * b[0] + a[1] * b[1] + a[2] * b[2] + a[3] * b[3])))

describe('a shape', () => {
  it('brings the linear blend to the volume-keeping one in its own pose', async () => {
    const { mesh, skeleton, skin } = doll
    const offsets = await shapeFor(ground, skeleton, skin, corrective())
    const pose = poseOf(skeleton, [elbow(120)])
    const wanted = deformKeepingVolume(mesh.positions, skeleton, skin, pose)
    const plain = deform(mesh.positions, skeleton, skin, pose)
    const shaped = deform(withShapes(mesh.positions, [{ offsets }], [1]), skeleton, skin, pose)
    let was = 0,
      is = 0
    for (let i = 0; i < wanted.length; i++) {
      was = Math.max(was, Math.abs(wanted[i] - plain[i]))
      is = Math.max(is, Math.abs(wanted[i] - shaped[i]))
    }
    expect(was).toBeGreaterThan(0.01)
    expect(is).toBeLessThan(0.04 * was)
    // what the elbow does not move is not shaped
    const foot = [...mesh.positions.keys()].filter(i => i % 3 === 1 && mesh.positions[i] < 0.5)
    expect(foot.every(i => offsets[i - 1] === 0 && offsets[i] === 0 && offsets[i + 1] === 0)).toBe(true)
  })

  it('comes on as volume is lost: nowhere on the way is it farther from the volume-keeping blend than the plain skin', async () => {
    const { mesh, skeleton, skin } = doll
    for (const full of [elbow(130), turn('leftLowerLeg', [1, 0, 0], 120), turn('leftUpperLeg', [1, 0, 0], -90)]) {
      const offsets = await shapeFor(ground, skeleton, skin, { turns: [full], keep: 1, strokes: [] })
      for (const share of [0.25, 0.5, 0.75]) {
        const turns = [{ ...full, by: slerp(IDENTITY, full.by as Quat, share) }]
        const pose = poseOf(skeleton, turns)
        const weights = driveOf(skeleton, driven([[full]], USUAL_EASE)).weights(posed(atBind(skeleton), turns))
        const shaped = deform(withShapes(mesh.positions, [{ offsets }], weights), skeleton, skin, pose)
        const wanted = deformKeepingVolume(mesh.positions, skeleton, skin, pose)
        const plain = deform(mesh.positions, skeleton, skin, pose)
        const off = (a: Float32Array): number => a.reduce((sum, v, i) => sum + (v - wanted[i]) ** 2, 0)
        expect(off(shaped)).toBeLessThan(0.7 * off(plain))
      }
    }
  })

  it('takes moves back through any blend that has not collapsed', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 1e6 }), seed => {
        const { mesh, skeleton, skin } = doll
        const rotations = skeleton.restRotations.map((v, i) => v + 0.25 * Math.sin(seed + 7 * i))
        for (let j = 0; j < rotations.length; j += 4) {
          const l = Math.hypot(...rotations.subarray(j, j + 4))
          for (let k = 0; k < 4; k++) rotations[j + k] /= l
        }
        const pose = worldPose(skeleton, skeleton.restTranslations, rotations)
        const moves = mesh.positions.map((_, i) => 0.01 * Math.sin(seed + i))
        const back = undeformMoves(skeleton, skin, pose, moves)
        const moved = deform(
          mesh.positions.map((v, i) => v + back[i]),
          skeleton,
          skin,
          pose,
        )
        const still = deform(mesh.positions, skeleton, skin, pose)
        let worst = 0
        for (let i = 0; i < moves.length; i++) worst = Math.max(worst, Math.abs(moved[i] - still[i] - moves[i]))
        expect(worst).toBeLessThan(0.002)
      }),
      { numRuns: 20 },
    )
  })

  it('is painted: raised along the surface, evened out, and cleared', () => {
    const { skeleton, skin } = doll
    const own = corrective({ keep: 0 })
    const shape = openShape(ground, skeleton, skin, own)
    const at = nearest(ground, [0.27, 1.465, 0])
    const place = [0, 1, 2].map(k => ground.positions[3 * at + k] / ground.size)
    const normal = [0, 1, 2].map(k => ground.normals[3 * at + k])
    const dab = [...place, ...normal, 1] as SculptStroke['dabs'][number]
    const moved = sculptDab(shape, stroke(), dab)
    expect(moved.has(at)).toBe(true)
    const gone = (v: number): Vec3 => [0, 1, 2].map(k => shape.places[3 * v + k] - shape.plain[3 * v + k]) as Vec3
    const n = [0, 1, 2].map(k => shape.normals[3 * at + k]) as Vec3
    const out = gone(at)
    expect(out[0] * n[0] + out[1] * n[1] + out[2] * n[2]).toBeCloseTo(0.08 * 0.04 * 1.72, 4)
    for (let v = 0; v < shape.places.length / 3; v++) if (!moved.has(v)) expect(Math.hypot(...gone(v))).toBe(0)
    const bump = Math.hypot(...out)
    sculptDab(shape, stroke({ tool: 'smooth' }), dab)
    expect(Math.hypot(...gone(at))).toBeLessThan(0.8 * bump)
    const calm = openShape(ground, skeleton, skin, { ...own, turns: [elbow(0)] })
    sculptDab(calm, stroke({ tool: 'smooth' }), dab)
    for (const v of moved)
      expect(Math.hypot(...[0, 1, 2].map(k => calm.places[3 * v + k] - calm.plain[3 * v + k]))).toBeLessThan(1e-6)
    for (let i = 0; i < 3; i++) sculptDab(shape, stroke({ tool: 'clear', falloff: 0, radius: 0.06 }), dab)
    for (const v of moved) expect(Math.hypot(...gone(v))).toBeLessThan(1e-9)
  })

  it('goes for both sides as mirror images, each driven by its own joint', async () => {
    const { mesh, skeleton, skin } = doll
    const [x, y, z] = [0.4 / 1.72, 1.465 / 1.72, 0]
    const strokes = [stroke({ dabs: [[x, y, z, 0, 1, 0, 1]] })]
    const { shapes, lost } = await makeShapes(ground, skeleton, skin, [corrective({ mirrored: true, strokes })])
    expect(lost).toEqual([])
    expect(shapes.map(s => s.name)).toEqual(['Elbow bent, left', 'Elbow bent, right'])
    expect(shapes[1].turns[0].joint).toBe('rightLowerArm')
    const mirror = nearestMirror(mesh.positions)
    let worst = 0
    mirror.forEach((m, v) => {
      for (let k = 0; k < 3; k++)
        worst = Math.max(
          worst,
          Math.abs(shapes[1].offsets[3 * m + k] - (k === 0 ? -1 : 1) * shapes[0].offsets[3 * v + k]),
        )
    })
    // the two halves of the doll are bound cell by cell and mirror to within a few millimetres
    expect(worst).toBeLessThan(0.006)
  })

  it('tells names apart, and which corrective lost its joint', async () => {
    const { skeleton, skin } = doll
    const list = [
      corrective(),
      corrective({ id: 'c2' }),
      corrective({ id: 'c3', turns: [turn('tail', [1, 0, 0], 40)] }),
    ]
    const made = await makeShapes(ground, skeleton, skin, list, ['Elbow bent'])
    expect(made.shapes.map(s => s.name)).toEqual(['Elbow bent 2', 'Elbow bent 3'])
    expect(made.lost).toEqual([{ id: 'c3', reason: expect.stringContaining('tail') as string }])
  })

  it('leaves the body alone at rest and shows halfway in half the turn', async () => {
    const { mesh, skeleton, skin } = doll
    const { shapes } = await makeShapes(ground, skeleton, skin, [corrective()])
    expect(correctedFor(mesh.positions, skeleton, shapes, skeleton.restRotations)).toBe(mesh.positions)
    const half = posed(atBind(skeleton), [{ joint: 'leftLowerArm', by: slerp(IDENTITY, elbow(120).by as Quat, 0.5) }])
    const shown = correctedFor(mesh.positions, skeleton, shapes, half)
    const most = shapes[0].offsets.reduce((a, v, i) => (Math.abs(v) > Math.abs(shapes[0].offsets[a]) ? i : a), 0)
    expect(shown[most] - mesh.positions[most]).toBeCloseTo(0.5 * shapes[0].offsets[most], 4)
  })
})

const nearest = ({ positions }: CanvasGround, p: Vec3): number => {
  let best = 0,
    least = Infinity
  for (let v = 0; v < positions.length / 3; v++) {
    const d = Math.hypot(...p.map((x, k) => x - positions[3 * v + k]))
    if (d < least) [best, least] = [v, d]
  }
  return best
}
const nearestMirror = (positions: Float32Array): number[] =>
  Array.from({ length: positions.length / 3 }, (_, v) => {
    const p: Vec3 = [-positions[3 * v], positions[3 * v + 1], positions[3 * v + 2]]
    return nearest({ positions } as CanvasGround, p)
  })

describe('shapes in files', () => {
  let made: CorrectiveShapes
  let content: GltfContent
  beforeAll(async () => {
    const { mesh, skeleton, skin, takes } = doll
    made = await makeShapes(ground, skeleton, skin, [corrective({ mirrored: true })])
    content = { name: 'doll', mesh, skeleton, skin, takes, shapes: made.shapes }
  })

  it('are morph targets under their names, driven through every take, and told to be so', async () => {
    const bytes = await writeGlb(content)
    expect((await proveGlb(bytes, content)).validatorErrors).toBe(0)
    const read = await readFile(bytes, 'doll.glb')
    expect(read.mesh!.morphs!.map(m => m.name)).toEqual(made.shapes.map(s => s.name))
    const { json } = read.document!
    const mesh = json.meshes!.find(m => m.weights)!
    expect((mesh.extras as { drivers: Record<string, unknown> }).drivers).toMatchObject({
      'Elbow bent, left': {
        joints: [{ joint: doll.skeleton.names[doll.skeleton.roles.indexOf('leftLowerArm')] }],
        ease: 1,
      },
    })
    const through = weightsThrough(doll.skeleton, made.shapes, doll.takes[0])
    expect(Math.max(...through)).toBeGreaterThan(0.05)
    expect(motionOf(read.document!)).toEqual([...through].map(v => expect.closeTo(v, 4) as number))
    // most of the body is not shaped and takes no room
    const plain = await writeGlb({ ...content, shapes: [] })
    expect(bytes.length - plain.length).toBeLessThan(0.5 * 2 * 12 * (doll.mesh.positions.length / 3) + 60_000)
  })

  it('are driven by takes that are carried onto the delivered file later, and its own takes stay as they were', async () => {
    const received = await readFile(await writeGlb(content), 'doll.glb')
    const later = { ...wildTake(received.skeleton!, 9), name: 'later' }
    const whole = figureWithTakes('doll', received, [later]).content
    const bytes = await writeGlb(whole)
    expect(await proveGlb(bytes, whole)).toMatchObject({ validatorErrors: 0, sameAsSource: true })
    const read = await readFile(bytes, 'doll.glb')
    const through = weightsThrough(received.skeleton!, made.shapes, later)
    expect(Math.max(...through)).toBeGreaterThan(0.02)
    const motion = morphMotion(read.document!)
    expect([...motion.later[0].values]).toEqual([...through].map(v => expect.closeTo(v, 4) as number))
    const own = doll.takes[0].name
    expect(motion[own]).toEqual(morphMotion(received.document!)[own])
    // and more correctives go behind those it came with
    const more = await makeShapes(ground, doll.skeleton, doll.skin, [
      corrective({ label: 'Knee', turns: [turn('leftLowerLeg', [1, 0, 0], 90)] }),
    ])
    const both = { ...whole, shapes: more.shapes }
    const again = await writeGlb(both)
    expect(await proveGlb(again, both)).toMatchObject({ validatorErrors: 0, sameAsSource: true })
    const names = (await readFile(again, 'doll.glb')).mesh!.morphs!.map(m => m.name)
    expect(names).toEqual(['Elbow bent, left', 'Elbow bent, right', 'Knee'])
  })

  it('show at rest where the rest pose was changed into their turn', async () => {
    const { skeleton } = doll
    const half = [{ joint: 'leftLowerArm', by: slerp(IDENTITY, elbow(120).by as Quat, 0.5) }]
    const bent = { ...skeleton, bind: bindPose(skeleton), restRotations: posed(skeleton, half) }
    const whole = { ...content, skeleton: bent, takes: [] }
    const bytes = await writeGlb(whole)
    expect((await proveGlb(bytes, whole)).validatorErrors).toBe(0)
    const { json } = (await readFile(bytes, 'doll.glb')).document!
    expect(json.meshes!.find(m => m.weights)!.weights).toEqual([expect.closeTo(0.5, 4), 0])
  })

  it('are refused where the file does not hold them', async () => {
    const bytes = await writeGlb(content)
    const other = made.shapes.map(s => ({ ...s, offsets: s.offsets.map(v => 1.5 * v) }))
    await expect(proveGlb(bytes, { ...content, shapes: other })).rejects.toMatchObject({ code: 'unproven' })
    const slower = {
      ...doll.takes[0],
      rotations: doll.takes[0].rotations
        .slice()
        .fill(0)
        .map((_, i) => (i % 4 === 3 ? 1 : 0)),
    }
    const { skeleton } = doll
    const still = made.shapes.map(s => ({ ...s, turns: [turn('rightLowerLeg', [1, 0, 0], 20)] }))
    expect(slower.frames).toBe(doll.takes[0].frames)
    await expect(proveGlb(bytes, { ...content, skeleton, shapes: still })).rejects.toThrow(/does not follow the take/)
    await expect(proveGlb(await writeGlb({ ...content, shapes: [] }), content)).rejects.toThrow(/is missing/)
  })

  it('go behind the morph targets a figure came with, whose motion stays', async () => {
    const source = await io().writeBinary((await richRigged()).document)
    const received = await readFile(source, 'rich.glb')
    const { skeleton, mesh, skin } = received
    const joint = skeleton!.names.findIndex((_, j) => skeleton!.parents[j] >= 0 && skin!.joints.includes(j))
    const own = await groundOf(mesh!, 1.8)
    const ref = skeleton!.roles[joint] ?? skeleton!.names[joint]
    const record = corrective({
      label: 'Bent',
      keep: 0,
      turns: [turn(ref, [0.3, 0.2, 1], 70)],
      strokes: [stroke({ radius: 0.9, dabs: [[0, 0.5, 0, 0, 0, 1, 1]] })],
    })
    const { shapes } = await makeShapes(own, skeleton!, skin!, [record])
    expect(shapes[0].offsets.some(v => v !== 0)).toBe(true)
    const wild = { ...wildTake(skeleton!, 4), name: 'wild' }
    const whole: GltfContent = { ...figureWithTakes('rich', received, [wild]).content, shapes }
    const bytes = await writeGlb(whole)
    const proof = await proveGlb(bytes, whole)
    expect(proof).toMatchObject({ validatorErrors: 0, sameAsSource: true })
    const before = morphMotion(received.document!)
    const after = morphMotion((await readFile(bytes, 'rich.glb')).document!)
    for (const [name, list] of Object.entries(before)) {
      expect(after[name].length).toBeGreaterThanOrEqual(list.length)
      for (const old of list) expect(after[name].some(a => goesAlong(old, a))).toBe(true)
    }
  })
})

interface Motion {
  node: string
  times: Float32Array
  values: Float32Array
  size: number
}
/** Whether one motion of morph targets does at its keys what another did, whatever it moves besides. */
const goesAlong = (old: Motion, now: Motion): boolean =>
  old.node === now.node &&
  [...old.times].every((t, f) => {
    const at = [...now.times].findIndex(x => Math.abs(x - t) < 1e-5)
    return (
      at >= 0 &&
      Array.from({ length: old.size }).every(
        (_, k) => Math.abs(old.values[f * old.size + k] - now.values[at * now.size + k]) < 1e-5,
      )
    )
  })
function morphMotion(document: GltfDocument): Record<string, Motion[]> {
  const { json } = document
  const out: Record<string, Motion[]> = {}
  for (const a of json.animations ?? [])
    for (const c of a.channels) {
      if (c.target.path !== 'weights') continue
      const node = json.nodes![c.target.node!]
      const { input, output } = a.samplers[c.sampler]
      const times = floatValues(document, input)
      const values = floatValues(document, output)
      const size = json.meshes![node.mesh!].primitives[0].targets!.length
      ;(out[a.name ?? ''] ??= []).push({ node: node.name ?? '', times, values, size })
    }
  return out
}
const motionOf = (document: GltfDocument): number[] => [...Object.values(morphMotion(document))[0][0].values]
