import { describe, expect, it } from 'vitest'
import { recogniseRoles, skeletonFromWorld, type WorldJoint } from '../src/skeleton'

type Row = [string, string, string, number, number, number]
const legs = (names: (s: string) => [string, string][], parent: string, pre?: (s: string) => string): Row[] =>
  ['left', 'right'].flatMap(s => {
    const k = s === 'left' ? 1 : -1
    const out: Row[] = []
    let up = parent
    if (pre) {
      out.push([pre(s), parent, '', 0, 0.98, 0])
      up = pre(s)
    }
    const ys = [0.93, 0.5, 0.08, 0.02, 0.02],
      zs = [0, 0.01, 0, 0.13, 0.2]
    names(s).forEach(([n, r], i) => {
      out.push([n, up, r ? s + r : '', k * 0.09, ys[i], zs[i]])
      up = n
    })
    return out
  })
const arms = (names: (s: string) => [string, string][], parent: string, xs: number[]): Row[] =>
  ['left', 'right'].flatMap(s => {
    const k = s === 'left' ? 1 : -1
    const out: Row[] = []
    let up = parent
    names(s).forEach(([n, r], i) => {
      out.push([n, up, r ? s + r : '', k * xs[i], 1.42, 0])
      up = n
    })
    return out
  })
const cap = (s: string) => s[0].toUpperCase() + s.slice(1)
const L = (s: string) => s[0].toUpperCase()

/** Hierarchies as recordings and characters come with them: name, parent, the role it plays, and where it stands. */
const SETS: Record<string, Row[]> = {
  'a joint for each half of the pelvis, two necks': [
    ['Hips', '', 'hips', 0, 1, 0],
    ...legs(
      s => [
        [cap(s) + 'UpLeg', 'UpperLeg'],
        [cap(s) + 'Leg', 'LowerLeg'],
        [cap(s) + 'Foot', 'Foot'],
        [cap(s) + 'ToeBase', 'Toes'],
      ],
      'Hips',
      s => L(s) + 'HipJoint',
    ),
    ['LowerBack', 'Hips', 'spine', 0, 1.02, 0],
    ['Spine', 'LowerBack', '', 0, 1.15, 0],
    ['Spine1', 'Spine', '', 0, 1.28, 0],
    ['Neck', 'Spine1', 'neck', 0, 1.42, 0],
    ['Neck1', 'Neck', '', 0, 1.48, 0],
    ['Head', 'Neck1', 'head', 0, 1.56, 0],
    ...arms(
      s => [
        [cap(s) + 'Shoulder', 'Shoulder'],
        [cap(s) + 'Arm', 'UpperArm'],
        [cap(s) + 'ForeArm', 'LowerArm'],
        [cap(s) + 'Hand', 'Hand'],
        [cap(s) + 'FingerBase', ''],
        [cap(s) + 'HandIndex1', ''],
      ],
      'Spine1',
      [0.02, 0.18, 0.45, 0.7, 0.75, 0.8],
    ),
    ['LThumb', 'LeftHand', '', 0.72, 1.4, 0.03],
    ['RThumb', 'RightHand', '', -0.72, 1.4, 0.03],
  ],
  'bones by their names, letter without a break': [
    ['root', '', 'hips', 0, 1, 0],
    ...legs(
      s => [
        [s[0] + 'femur', 'UpperLeg'],
        [s[0] + 'tibia', 'LowerLeg'],
        [s[0] + 'foot', 'Foot'],
        [s[0] + 'toes', 'Toes'],
      ],
      'root',
      s => s[0] + 'hipjoint',
    ),
    ['lowerback', 'root', 'spine', 0, 1.05, 0],
    ['upperback', 'lowerback', '', 0, 1.18, 0],
    ['thorax', 'upperback', '', 0, 1.3, 0],
    ['lowerneck', 'thorax', 'neck', 0, 1.42, 0],
    ['upperneck', 'lowerneck', '', 0, 1.48, 0],
    ['head', 'upperneck', 'head', 0, 1.56, 0],
    ...arms(
      s => [
        [s[0] + 'clavicle', 'Shoulder'],
        [s[0] + 'humerus', 'UpperArm'],
        [s[0] + 'radius', 'LowerArm'],
        [s[0] + 'wrist', 'Hand'],
        [s[0] + 'hand', ''],
        [s[0] + 'fingers', ''],
      ],
      'thorax',
      [0.02, 0.18, 0.45, 0.7, 0.74, 0.8],
    ),
    ['lthumb', 'lwrist', '', 0.73, 1.4, 0.03],
    ['rthumb', 'rwrist', '', -0.73, 1.4, 0.03],
  ],
  'joints by their names, a chest of four': [
    ['Hips', '', 'hips', 0, 1, 0],
    ['Chest', 'Hips', 'spine', 0, 1.08, 0],
    ['Chest2', 'Chest', '', 0, 1.18, 0],
    ['Chest3', 'Chest2', '', 0, 1.26, 0],
    ['Chest4', 'Chest3', '', 0, 1.34, 0],
    ['Neck', 'Chest4', 'neck', 0, 1.44, 0],
    ['Head', 'Neck', 'head', 0, 1.56, 0],
    ...arms(
      s => [
        [cap(s) + 'Collar', 'Shoulder'],
        [cap(s) + 'Shoulder', 'UpperArm'],
        [cap(s) + 'Elbow', 'LowerArm'],
        [cap(s) + 'Wrist', 'Hand'],
      ],
      'Chest4',
      [0.02, 0.18, 0.45, 0.7],
    ),
    ...legs(
      s => [
        [cap(s) + 'Hip', 'UpperLeg'],
        [cap(s) + 'Knee', 'LowerLeg'],
        [cap(s) + 'Ankle', 'Foot'],
        [cap(s) + 'Toe', 'Toes'],
      ],
      'Hips',
    ),
  ],
  'letter first, foot beyond the ankle': [
    ['Pelvis', '', 'hips', 0, 1, 0],
    ...legs(
      s => [
        [L(s) + '_Hip', 'UpperLeg'],
        [L(s) + '_Knee', 'LowerLeg'],
        [L(s) + '_Ankle', 'Foot'],
        [L(s) + '_Foot', 'Toes'],
      ],
      'Pelvis',
    ),
    ['Spine1', 'Pelvis', 'spine', 0, 1.1, 0],
    ['Spine2', 'Spine1', 'chest', 0, 1.2, 0],
    ['Spine3', 'Spine2', 'upperChest', 0, 1.3, 0],
    ['Neck', 'Spine3', 'neck', 0, 1.45, 0],
    ['Head', 'Neck', 'head', 0, 1.56, 0],
    ...arms(
      s => [
        [L(s) + '_Collar', 'Shoulder'],
        [L(s) + '_Shoulder', 'UpperArm'],
        [L(s) + '_Elbow', 'LowerArm'],
        [L(s) + '_Wrist', 'Hand'],
        [L(s) + '_Hand', ''],
      ],
      'Spine3',
      [0.05, 0.18, 0.45, 0.7, 0.78],
    ),
  ],
  'letter last, twist and helper joints': [
    ['root', '', '', 0, 0, 0],
    ['pelvis', 'root', 'hips', 0, 1, 0],
    ['spine_01', 'pelvis', 'spine', 0, 1.06, 0],
    ['spine_02', 'spine_01', '', 0, 1.12, 0],
    ['spine_03', 'spine_02', '', 0, 1.2, 0],
    ['spine_04', 'spine_03', '', 0, 1.28, 0],
    ['spine_05', 'spine_04', '', 0, 1.36, 0],
    ['neck_01', 'spine_05', 'neck', 0, 1.45, 0],
    ['neck_02', 'neck_01', '', 0, 1.5, 0],
    ['head', 'neck_02', 'head', 0, 1.56, 0],
    ...arms(
      s => [
        ['clavicle_' + s[0], 'Shoulder'],
        ['upperarm_' + s[0], 'UpperArm'],
        ['lowerarm_' + s[0], 'LowerArm'],
        ['hand_' + s[0], 'Hand'],
        ['middle_metacarpal_' + s[0], ''],
        ['middle_01_' + s[0], ''],
      ],
      'spine_05',
      [0.02, 0.18, 0.45, 0.7, 0.72, 0.78],
    ),
    ...['l', 'r'].flatMap((s): Row[] => {
      const k = s === 'l' ? 1 : -1
      return [
        ['upperarm_twist_01_' + s, 'upperarm_' + s, '', k * 0.3, 1.42, 0],
        ['lowerarm_twist_01_' + s, 'lowerarm_' + s, '', k * 0.6, 1.42, 0],
        ['thigh_twist_01_' + s, 'thigh_' + s, '', k * 0.09, 0.7, 0],
      ]
    }),
    ...legs(
      s => [
        ['thigh_' + s[0], 'UpperLeg'],
        ['calf_' + s[0], 'LowerLeg'],
        ['foot_' + s[0], 'Foot'],
        ['ball_' + s[0], 'Toes'],
      ],
      'pelvis',
    ),
    ['ik_foot_root', 'root', '', 0, 0, 0],
    ['ik_foot_l', 'ik_foot_root', '', 0.09, 0.08, 0],
    ['ik_foot_r', 'ik_foot_root', '', -0.09, 0.08, 0],
    ['ik_hand_l', 'root', '', 0.7, 1.42, 0],
    ['ik_hand_r', 'root', '', -0.7, 1.42, 0],
  ],
  'words, arms on the neck and legs on the spine': [
    ['Crew', '', '', 0, 1, 0],
    ['Crew Pelvis', 'Crew', 'hips', 0, 1, 0],
    ['Crew Spine', 'Crew Pelvis', 'spine', 0, 1.1, 0],
    ['Crew Spine1', 'Crew Spine', '', 0, 1.3, 0],
    ['Crew Neck', 'Crew Spine1', 'neck', 0, 1.45, 0],
    ['Crew Head', 'Crew Neck', 'head', 0, 1.55, 0],
    ...arms(
      s => [
        ['Crew ' + L(s) + ' Clavicle', 'Shoulder'],
        ['Crew ' + L(s) + ' UpperArm', 'UpperArm'],
        ['Crew ' + L(s) + ' Forearm', 'LowerArm'],
        ['Crew ' + L(s) + ' Hand', 'Hand'],
        ['Crew ' + L(s) + ' Finger0', ''],
        ['Crew ' + L(s) + ' Finger01', ''],
      ],
      'Crew Neck',
      [0.02, 0.18, 0.45, 0.7, 0.75, 0.8],
    ),
    ...legs(
      s => [
        ['Crew ' + L(s) + ' Thigh', 'UpperLeg'],
        ['Crew ' + L(s) + ' Calf', 'LowerLeg'],
        ['Crew ' + L(s) + ' Foot', 'Foot'],
        ['Crew ' + L(s) + ' Toe0', 'Toes'],
      ],
      'Crew Spine',
    ),
  ],
  'pelvis and trunk side by side': [
    ['center', '', '', 0, 1, 0],
    ['groove', 'center', '', 0, 1, 0],
    ['waist', 'groove', 'hips', 0, 1, 0],
    ['lower_body', 'waist', '', 0, 1, 0],
    ['upper_body', 'waist', 'spine', 0, 1.05, 0],
    ['upper_body2', 'upper_body', '', 0, 1.2, 0],
    ['neck', 'upper_body2', 'neck', 0, 1.45, 0],
    ['head', 'neck', 'head', 0, 1.55, 0],
    ...arms(
      s => [
        ['shoulder_' + L(s), 'Shoulder'],
        ['arm_' + L(s), 'UpperArm'],
        ['elbow_' + L(s), 'LowerArm'],
        ['wrist_' + L(s), 'Hand'],
      ],
      'upper_body2',
      [0.03, 0.18, 0.45, 0.7],
    ),
    ...legs(
      s => [
        ['leg_' + L(s), 'UpperLeg'],
        ['knee_' + L(s), 'LowerLeg'],
        ['ankle_' + L(s), 'Foot'],
        ['toe_' + L(s), 'Toes'],
      ],
      'lower_body',
    ),
  ],
  'a spine up to the head': [
    ['bnd-spine', '', 'hips', 0, 1, 0],
    ['bnd-spine.001', 'bnd-spine', 'spine', 0, 1.1, 0],
    ['bnd-spine.002', 'bnd-spine.001', '', 0, 1.2, 0],
    ['bnd-spine.003', 'bnd-spine.002', '', 0, 1.3, 0],
    ['bnd-spine.004', 'bnd-spine.003', 'neck', 0, 1.45, 0],
    ['bnd-spine.005', 'bnd-spine.004', '', 0, 1.5, 0],
    ['bnd-spine.006', 'bnd-spine.005', 'head', 0, 1.55, 0],
    ...arms(
      s => [
        ['bnd-shoulder.' + L(s), 'Shoulder'],
        ['bnd-upper_arm.' + L(s), 'UpperArm'],
        ['bnd-forearm.' + L(s), 'LowerArm'],
        ['bnd-hand.' + L(s), 'Hand'],
      ],
      'bnd-spine.003',
      [0.03, 0.18, 0.45, 0.7],
    ),
    ...legs(
      s => [
        ['bnd-thigh.' + L(s), 'UpperLeg'],
        ['bnd-shin.' + L(s), 'LowerLeg'],
        ['bnd-foot.' + L(s), 'Foot'],
        ['bnd-toe.' + L(s), 'Toes'],
      ],
      'bnd-spine',
    ),
  ],
  'short words': [
    ['Hip', '', 'hips', 0, 1, 0],
    ['Ab', 'Hip', 'spine', 0, 1.1, 0],
    ['Chest', 'Ab', 'chest', 0, 1.25, 0],
    ['Neck', 'Chest', 'neck', 0, 1.45, 0],
    ['Head', 'Neck', 'head', 0, 1.55, 0],
    ['Skull', 'Head', '', 0, 1.7, 0],
    ...arms(
      s => [
        [L(s) + 'Shoulder', 'Shoulder'],
        [L(s) + 'UArm', 'UpperArm'],
        [L(s) + 'FArm', 'LowerArm'],
        [L(s) + 'Hand', 'Hand'],
      ],
      'Chest',
      [0.03, 0.18, 0.45, 0.7],
    ),
    ...legs(
      s => [
        [L(s) + 'Thigh', 'UpperLeg'],
        [L(s) + 'Shin', 'LowerLeg'],
        [L(s) + 'Foot', 'Foot'],
        [L(s) + 'Toe', 'Toes'],
      ],
      'Hip',
    ),
  ],
  'no toes': [
    ['hip', '', 'hips', 0, 1, 0],
    ['abdomen', 'hip', 'spine', 0, 1.1, 0],
    ['chest', 'abdomen', 'chest', 0, 1.25, 0],
    ['neck', 'chest', 'neck', 0, 1.45, 0],
    ['head', 'neck', 'head', 0, 1.55, 0],
    ...arms(
      s => [
        [s[0] + 'Collar', 'Shoulder'],
        [s[0] + 'Shldr', 'UpperArm'],
        [s[0] + 'ForeArm', 'LowerArm'],
        [s[0] + 'Hand', 'Hand'],
      ],
      'chest',
      [0.03, 0.18, 0.45, 0.7],
    ),
    ...legs(
      s => [
        [s[0] + 'Thigh', 'UpperLeg'],
        [s[0] + 'Shin', 'LowerLeg'],
        [s[0] + 'Foot', 'Foot'],
      ],
      'hip',
    ),
  ],
}

/** Parents before children. */
function ordered(rows: readonly Row[]): Row[] {
  const out: Row[] = []
  while (out.length < rows.length)
    for (const r of rows) if (!out.includes(r) && (!r[1] || out.some(o => o[0] === r[1]))) out.push(r)
  return out
}

describe('roles of whole hierarchies', () => {
  for (const [name, unordered] of Object.entries(SETS)) {
    it(name, () => {
      const rows = ordered(unordered)
      // whatever space it was recorded in
      for (const [unit, swap] of [
        [1, false],
        [100, true],
      ] as const) {
        const joints = rows.map(([n, parent, , x, y, z]): WorldJoint => ({
          name: n,
          parent: rows.findIndex(r => r[0] === parent),
          position: swap ? [unit * x, -unit * z, unit * y] : [unit * x, unit * y, unit * z],
          rotation: [0, 0, 0, 1],
        }))
        const read = recogniseRoles(skeletonFromWorld(joints))
        expect(read.kind).toBe('biped')
        expect(read.missing).toEqual([])
        for (const [n, , role] of rows) if (role) expect(rows[read.joints[role]]?.[0], role).toBe(n)
      }
    })
  }
})
