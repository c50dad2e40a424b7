import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  angleBetween,
  distance,
  fromAxisAngle,
  quatAt,
  rotate,
  seededRandom,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../src/math'
import { applyRigEdit, applyRigEdits, armsDown, moveRecord, type Rig, type RigEdit } from '../src/rig'
import {
  mirroredName,
  partnerJoint,
  boneDirection,
  jointByRole,
  readAxes,
  readBends,
  worldPose,
  type Skeleton,
} from '../src/skeleton'
import { deform, type Skin } from '../src/skin'
import { meshOf } from '../src/mesh'
import { biped, ROLES, wildAxes, wildTake } from './skeletons'

/** A cloud of skinned points about a skeleton with joint axes of no convention, and a wild take. */
function wildRig(seed: number, axes = wildAxes(seed)): Rig & { skin: Skin; mesh: NonNullable<Rig['mesh']> } {
  const skeleton = biped({ axes })
  const random = seededRandom(seed + 5)
  const n = 60
  const positions = Float32Array.from({ length: 3 * n }, (_, i) => (i % 3 === 1 ? 1.7 * random() : random() - 0.5))
  const joints = new Uint16Array(4 * n)
  const weights = new Float32Array(4 * n)
  for (let v = 0; v < n; v++) {
    const w = [random(), random(), random(), random()]
    const sum = w.reduce((a, b) => a + b, 0)
    const start = Math.floor(random() * (ROLES.length - 4))
    for (let k = 0; k < 4; k++) {
      joints[4 * v + k] = start + k
      weights[4 * v + k] = w[k] / sum
    }
  }
  const indices = Uint32Array.from({ length: 3 * (n - 2) }, (_, i) => Math.floor(i / 3) + (i % 3))
  return {
    skeleton,
    mesh: meshOf(positions, indices),
    skin: { influences: 4, joints, weights },
    takes: [wildTake(skeleton, seed)],
  }
}

/** Skinned points at every frame of every take. */
function moved(rig: Rig): Float32Array[] {
  return rig.takes.flatMap(take =>
    Array.from({ length: take.frames }, (_, f) =>
      deform(
        rig.mesh!.positions,
        rig.skeleton,
        rig.skin!,
        worldPose(rig.skeleton, take.translations, take.rotations, f * rig.skeleton.names.length),
      ),
    ),
  )
}

function worstOff(a: Float32Array[], b: Float32Array[]): number {
  let worst = 0
  a.forEach((frame, f) =>
    frame.forEach((v, i) => {
      worst = Math.max(worst, Math.abs(v - b[f][i]))
    }),
  )
  return worst
}

/** Edits that must not move a single vertex of any frame. */
const STILL: Record<string, (s: Skeleton) => RigEdit> = {
  'aiming along the bones': () => ({ kind: 'aim', convention: { along: '+y', hinge: '+x' } }),
  'aiming by another convention': () => ({ kind: 'aim', convention: { along: '-x', hinge: '+z' } }),
  'turning a hinge': () => ({ kind: 'hinge', joint: 'leftLowerArm', degrees: 37, mirror: true }),
  'splitting a bone': () => ({ kind: 'split', joint: 'leftUpperArm', parts: 4, mirror: true }),
  'inserting a joint': () => ({ kind: 'insert', joint: 'rightUpperLeg', name: 'helper', share: 0.3, mirror: false }),
  'hanging a joint elsewhere': () => ({ kind: 'reparent', joint: 'leftShoulder', parent: 'chest', mirror: true }),
  'moving a joint alone': s =>
    moveRecord(s, s.roles.indexOf('leftLowerArm'), [0.45, 1.4, 0.03], 1.7, { children: false, mirror: true }),
  'moving a joint with its children': s =>
    moveRecord(s, s.roles.indexOf('spine'), [0, 1.15, 0.05], 1.7, { children: true, mirror: false }),
  'adding a mount': () => ({
    kind: 'add',
    parent: 'rightHand',
    name: 'lantern',
    at: [0, -0.03, 0],
    along: [0, 0, 0],
    joints: 1,
    mirror: false,
  }),
  'adding a chain': () => ({
    kind: 'add',
    parent: 'hips',
    name: 'tail',
    at: [0, 0, -0.05],
    along: [0, 0, -0.04],
    joints: 5,
    mirror: false,
  }),
  'bending a knee': () => ({ kind: 'bend', joint: 'leftLowerLeg', degrees: 3 }),
  renaming: () => ({ kind: 'rename', names: { hips: 'pelvis' } }),
  'arms out': () => ({ kind: 'rest', pose: 'arms-out', degrees: 0 }),
  'arms down': () => ({ kind: 'rest', pose: 'arms-down', degrees: 50 }),
  'a given rest pose': () => ({
    kind: 'rest',
    pose: 'given',
    degrees: 0,
    rotations: { leftUpperArm: [0.1, 0.2, 0.3, 0.927] },
  }),
}

describe('edits keep skin and takes where they were: within 1e-5 of height at every frame', () => {
  for (const [name, edit] of Object.entries(STILL)) {
    it(name, async () => {
      await fc.assert(
        fc.asyncProperty(fc.integer({ min: 1, max: 1e6 }), async seed => {
          const rig = wildRig(seed)
          const after = await applyRigEdit(rig, edit(rig.skeleton), 1.7)
          expect(worstOff(moved(rig), moved(after))).toBeLessThan(1.7e-5)
        }),
        { numRuns: 12 },
      )
    })
  }

  it('one after another, in any order', async () => {
    const names = Object.keys(STILL)
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 1, max: 1e6 }),
        fc.shuffledSubarray(names, { minLength: 4, maxLength: 8 }),
        async (seed, chosen) => {
          const rig = wildRig(seed)
          const { rig: after } = await applyRigEdits(
            rig,
            chosen.map(n => STILL[n](rig.skeleton)),
            1.7,
          )
          expect(worstOff(moved(rig), moved(after))).toBeLessThan(4e-5)
        },
      ),
      { numRuns: 10 },
    )
  })
})

describe('aiming', () => {
  it('lays the wished axes on bone and hinge', async () => {
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 1, max: 1e6 }), async seed => {
        const { skeleton } = await applyRigEdit(
          wildRig(seed),
          { kind: 'aim', convention: { along: '+y', hinge: '+x' } },
          1.7,
        )
        const world = worldPose(skeleton)
        skeleton.names.forEach((_, j) => {
          const bone = boneDirection(skeleton, j)
          if (bone) expect(angleBetween(rotate(quatAt(world.rotations, j), [0, 1, 0]), bone)).toBeLessThan(2e-3)
        })
        for (const b of readBends(skeleton)) expect(b.off).toBeLessThan(0.01)
        expect(readAxes(skeleton).kind).toBe('along')
      }),
      { numRuns: 10 },
    )
  })
  it('is told apart from axes like the world and from none', async () => {
    expect(readAxes(biped()).kind).toBe('world')
    expect(readAxes(biped({ axes: wildAxes(3) })).kind).toBe('mixed')
    const turned: Quat = fromAxisAngle([1, 0, 0], Math.PI / 2)
    expect(readAxes(biped({ axes: () => turned })).kind).toBe('world')
  })
})

describe('moving', () => {
  it('puts the joint where it is wanted, mirrors, and re-aims what ran along its bone', async () => {
    const clean = await applyRigEdit(wildRig(4), { kind: 'aim', convention: { along: '+y', hinge: '+x' } }, 1.7)
    const j = jointByRole(clean.skeleton, 'leftLowerArm')
    const to: Vec3 = [0.5, 1.36, -0.04]
    const { skeleton } = await applyRigEdit(
      clean,
      moveRecord(clean.skeleton, j, to, 1.7, { children: false, mirror: true }),
      1.7,
    )
    const world = worldPose(skeleton)
    expect(distance(vec3At(world.positions, j), to)).toBeLessThan(1e-5)
    const other = vec3At(world.positions, jointByRole(skeleton, 'rightLowerArm'))
    const before = vec3At(worldPose(clean.skeleton).positions, jointByRole(clean.skeleton, 'rightLowerArm'))
    expect(sub(other, before)[0]).toBeCloseTo(-(to[0] - 0.44), 5)
    expect(readAxes(skeleton).off.filter(v => v > 0.01)).toHaveLength(0)
    // the hand stayed: children do not go along
    expect(vec3At(world.positions, jointByRole(skeleton, 'leftHand'))[0]).toBeCloseTo(0.69, 5)
  })
  it('survives a change of size, because places are shares', async () => {
    const big = biped({ place: p => p.map(v => v * 3) as Vec3 })
    const record = moveRecord(biped(), 8, [0.44, 1.5, 0], 1.7, { children: false, mirror: false })
    const { skeleton } = await applyRigEdit({ skeleton: big, takes: [] }, record, 5.1)
    expect(vec3At(worldPose(skeleton).positions, 8)[1]).toBeCloseTo(4.5, 4)
  })
})

describe('structure', () => {
  it('splits into as many bones, in a line, weights beside each piece', async () => {
    const rig = wildRig(2)
    const { skeleton, skin } = await applyRigEdit(
      rig,
      { kind: 'split', joint: 'leftUpperLeg', parts: 3, mirror: false },
      1.7,
    )
    expect(skeleton.names.length).toBe(rig.skeleton.names.length + 2)
    const world = worldPose(skeleton)
    const chain = ['leftUpperLeg', 'leftUpperLeg 2', 'leftUpperLeg 3', 'leftLowerLeg'].map(n =>
      skeleton.names.indexOf(n),
    )
    chain.slice(1).forEach((c, i) => expect(skeleton.parents[c]).toBe(chain[i]))
    const gaps = chain.slice(1).map((c, i) => distance(vec3At(world.positions, c), vec3At(world.positions, chain[i])))
    expect(Math.max(...gaps) - Math.min(...gaps)).toBeLessThan(1e-5)
    expect(skin!.weights.reduce((a, b) => a + b, 0)).toBeCloseTo(60, 3)
  })
  it('takes a joint out: its children hang on its parent, who has its skin', async () => {
    const rig = wildRig(2)
    const before = rig.skin.joints.filter((j, i) => rig.skin.weights[i] > 0 && rig.skeleton.names[j] === 'chest').length
    const { skeleton, skin } = await applyRigEdit(rig, { kind: 'remove', joint: 'chest', mirror: false }, 1.7)
    expect(before).toBeGreaterThan(0)
    expect(skeleton.names).not.toContain('chest')
    expect(skeleton.names[skeleton.parents[skeleton.names.indexOf('upperChest')]]).toBe('spine')
    expect(skin!.weights.reduce((a, b) => a + b, 0)).toBeCloseTo(60, 3)
  })
  it('refuses rings, and tells what no longer fits in place of dropping it', async () => {
    const rig = wildRig(1)
    await expect(
      applyRigEdit(rig, { kind: 'reparent', joint: 'hips', parent: 'head', mirror: false }, 1.7),
    ).rejects.toThrow(/cannot be the parent/)
    const { lost, rig: after } = await applyRigEdits(
      rig,
      [
        { kind: 'remove', joint: 'chest', mirror: false },
        { kind: 'hinge', joint: 'chest', degrees: 5, mirror: false },
        { kind: 'rename', names: { hips: 'pelvis' } },
      ],
      1.7,
    )
    expect(lost).toHaveLength(1)
    expect(lost[0].reason).toMatch(/chest/)
    expect(after.skeleton.names).toContain('pelvis')
  })
  it('matches the right to the left', async () => {
    const rig = wildRig(9)
    const off = await applyRigEdit(
      rig,
      moveRecord(rig.skeleton, rig.skeleton.roles.indexOf('rightLowerArm'), [-0.5, 1.3, 0.06], 1.7, {
        children: true,
        mirror: false,
      }),
      1.7,
    )
    const { skeleton } = await applyRigEdit(off, { kind: 'match', from: 'left' }, 1.7)
    const world = worldPose(skeleton)
    skeleton.roles.forEach((role, j) => {
      if (!role?.startsWith('left')) return
      const a = vec3At(world.positions, j),
        b = vec3At(world.positions, partnerJoint(skeleton, j))
      expect(Math.hypot(a[0] + b[0], a[1] - b[1], a[2] - b[2])).toBeLessThan(1e-5)
    })
  })
})

describe('rest poses', () => {
  it('bring both arms to the wished angle whatever the axes', async () => {
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 0, max: 80 }), async (seed, degrees) => {
        const { skeleton } = await applyRigEdit(wildRig(seed), { kind: 'rest', pose: 'arms-down', degrees }, 1.7)
        expect(armsDown(skeleton)!).toBeGreaterThan(degrees - 4)
        expect(armsDown(skeleton)!).toBeLessThan(degrees + 4)
        // the skin stays bound where it was
        expect(skeleton.bind).toBeDefined()
      }),
      { numRuns: 10 },
    )
  })
})

describe('sides by name', () => {
  it('are found in any place and script of the mark', () => {
    for (const [a, b] of [
      ['leftHand', 'rightHand'],
      ['hand_l', 'hand_r'],
      ['L_hand', 'R_hand'],
      ['Hand.L', 'Hand.R'],
      ['LEFT arm', 'RIGHT arm'],
      ['arm-lf-2', 'arm-rt-2'],
    ]) {
      expect(mirroredName(a)).toBe(b)
      expect(mirroredName(b)).toBe(a)
    }
    expect(mirroredName('spine')).toBe('spine')
    expect(mirroredName('collar')).toBe('collar')
  })
})
