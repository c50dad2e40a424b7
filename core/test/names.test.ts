import { describe, expect, it } from 'vitest'
import { seededRandom, type Vec3 } from '../src/math'
import {
  skeletonFromWorld,
  jointsInWorld,
  recogniseRoles,
  type Skeleton,
  type WorldJoint,
  nameOfRole,
  namesByScheme,
} from '../src/skeleton'
import { biped, ROLES, wildAxes } from './skeletons'

const words = (role: string): string[] =>
  role
    .replace(/^(left|right)/, '')
    .replace(/([A-Z])/g, ' $1')
    .trim()
    .toLowerCase()
    .split(' ')
const sideOf = (role: string): '' | 'left' | 'right' =>
  role.startsWith('left') ? 'left' : role.startsWith('right') ? 'right' : ''
const other: Record<string, string> = {
  upperarm: 'arm',
  lowerarm: 'forearm',
  upperleg: 'thigh',
  lowerleg: 'shin',
  shoulder: 'clavicle',
  toes: 'ball',
  hips: 'pelvis',
  upperchest: 'spine3',
  chest: 'spine2',
  spine: 'spine1',
}
const plain = (role: string): string => other[words(role).join('')] ?? words(role).join('')

/** Ways of naming a body, of our own making. */
const STYLES: Record<string, (role: string, i: number) => string> = {
  'camel, side first': role => role,
  'words with spaces': role => `${sideOf(role)} ${words(role).join(' ')}`.trim(),
  'snake, letter last': role => `${words(role).join('_')}${sideOf(role) ? `_${sideOf(role)[0]}` : ''}`,
  'letter first in capitals': role =>
    `${sideOf(role) ? `${sideOf(role)[0].toUpperCase()}_` : ''}${plain(role).toUpperCase()}`,
  'prefix and colon': role => `crew:${role}`,
  'dot letter': role => `${plain(role)}${sideOf(role) ? `.${sideOf(role)[0].toUpperCase()}` : ''}`,
  'prefix, underscore, side in the middle': role => `rig_${sideOf(role) ? `${sideOf(role)}_` : ''}${plain(role)}`,
  'numbered throughout': (role, i) => `${String(i).padStart(2, '0')}_${sideOf(role)}_${words(role).join('_')}`,
  'two letters last': role => `${plain(role)}${sideOf(role) ? (sideOf(role) === 'left' ? '-lf' : '-rt') : ''}`,
  anatomical: role => {
    const bone: Record<string, string> = {
      upperarm: 'humerus',
      lowerarm: 'radius',
      upperleg: 'femur',
      lowerleg: 'tibia',
      shoulder: 'clavicle',
      foot: 'ankle',
      hand: 'wrist',
      toes: 'ball',
      hips: 'pelvis',
      head: 'skull',
    }
    return `${bone[words(role).join('')] ?? words(role).join('')}${sideOf(role) ? ` ${sideOf(role)}` : ''}`
  },
  'letter without a break': role => `${sideOf(role)[0] ?? ''}${plain(role)}`,
  'ankle and foot, shoulder and elbow': role => {
    const part: Record<string, string> = {
      shoulder: 'Collar',
      upperarm: 'Shoulder',
      lowerarm: 'Elbow',
      hand: 'Wrist',
      upperleg: 'Hip',
      lowerleg: 'Knee',
      foot: 'Ankle',
      toes: 'Foot',
      hips: 'Root',
      neck: 'NeckTwist01',
    }
    return `${sideOf(role) ? `${sideOf(role)[0].toUpperCase()}_` : ''}${part[words(role).join('')] ?? plain(role)}`
  },
  meaningless: (_, i) => `node_${(i * 7919) % 997}`,
  'all alike': () => 'joint',
}

/** The same skeleton with its joints in another order, children still after parents. */
function shuffled(skeleton: Skeleton, seed: number): { skeleton: Skeleton; from: number[] } {
  const random = seededRandom(seed)
  const joints = jointsInWorld(skeleton)
  const open = joints.flatMap((j, i) => (j.parent < 0 ? [i] : []))
  const from: number[] = []
  while (open.length > 0) {
    const [next] = open.splice(Math.floor(random() * open.length), 1)
    from.push(next)
    joints.forEach((j, i) => {
      if (j.parent === next) open.push(i)
    })
  }
  const list: WorldJoint[] = from.map(i => ({
    ...joints[i],
    role: undefined,
    parent: joints[i].parent < 0 ? -1 : from.indexOf(joints[i].parent),
  }))
  return { skeleton: skeletonFromWorld(list), from }
}

describe('roles are recognised', () => {
  for (const [style, name] of Object.entries(STYLES)) {
    it(style, () => {
      for (let seed = 1; seed <= 6; seed++) {
        const random = seededRandom(seed)
        const stretch = [0.8 + 0.5 * random(), 0.9 + 0.3 * random()]
        const place = (p: Vec3): Vec3 => [p[0] * stretch[0], p[1] * stretch[1], p[2]]
        const own = biped({ axes: wildAxes(seed), place, roles: false, name: role => name(role, ROLES.indexOf(role)) })
        const { skeleton, from } = shuffled(own, seed)
        const read = recogniseRoles(skeleton)
        for (const [role, j] of Object.entries(read.joints))
          expect(ROLES[from[j]], `${style}, seed ${seed}: ${role} by ${read.by}`).toBe(role)
        expect(read.missing).toEqual([])
      }
    })
  }
})

describe('fingers are recognised', () => {
  const LENGTHS = [0.03, 0.025, 0.02]
  /** A hand of five on a biped, joints called by `name`, ends and palm bones as wished. */
  function handed(
    name: (finger: string, k: number) => string,
    options: { ends?: boolean; palm?: boolean } = {},
  ): { skeleton: Skeleton; truth: Record<string, string> } {
    const joints: WorldJoint[] = jointsInWorld(biped({ roles: true })).map(j => ({ ...j }))
    const truth: Record<string, string> = {}
    for (const [side, s] of [
      ['left', 1],
      ['right', -1],
    ] as const) {
      const hand = joints.findIndex(j => j.role === `${side}Hand`)
      const at = joints[hand].position
      ;['Thumb', 'Index', 'Middle', 'Ring', 'Little'].forEach((finger, f) => {
        const thumb = finger === 'Thumb'
        let x = thumb ? 0.03 : 0.09
        const z = thumb ? 0.03 : 0.035 - 0.02 * f
        let parent = hand
        const count = 3 + (options.palm && !thumb ? 1 : 0) + (options.ends ? 1 : 0)
        if (options.palm && !thumb) x = 0.03
        for (let k = 0; k < count; k++) {
          const isPalm = options.palm && !thumb && k === 0
          const own = k - (options.palm && !thumb ? 1 : 0)
          const part = isPalm
            ? 'meta'
            : own < 3
              ? (thumb ? ['Metacarpal', 'Proximal', 'Distal'] : ['Proximal', 'Intermediate', 'Distal'])[own]
              : 'End'
          const label = `${side}_${isPalm ? `${finger} meta` : part === 'End' ? `${name(finger, 9)} end` : name(finger, own)}`
          joints.push({
            name: label,
            parent,
            position: [at[0] + s * x, at[1] - (thumb ? 0.01 * k : 0), at[2] + z + (thumb ? 0.018 * k : 0)],
            rotation: [0, 0, 0, 1],
          })
          if (part !== 'meta' && part !== 'End') truth[side + finger + part] = label
          parent = joints.length - 1
          x += thumb ? 0.018 : LENGTHS[Math.min(2, k)] + 0.01
        }
      })
    }
    return { skeleton: skeletonFromWorld(joints), truth }
  }
  it.each([
    ['by name', (f: string, k: number) => `${f.toLowerCase()}_${k + 1}`, {}],
    [
      'by other words',
      (f: string, k: number) =>
        `${{ Thumb: 'pollex', Index: 'pointer', Middle: 'middle', Ring: 'ring', Little: 'pinky' }[f]} ${k}`,
      { ends: true },
    ],
    ['with bones of the palm', (f: string, k: number) => `${f}${k}`, { palm: true, ends: true }],
    ['by place alone', (f: string, k: number) => `${f}${k}`, {}],
  ] as const)('%s', (_, name, options) => {
    const { skeleton, truth } = handed(name, options)
    const read = recogniseRoles({
      ...skeleton,
      names: _ === 'by place alone' ? skeleton.names.map((n, i) => (skeleton.roles[i] ? n : `b${i}`)) : skeleton.names,
    })
    for (const [role, label] of Object.entries(truth))
      expect(read.joints[role], role).toBe(skeleton.names.indexOf(label))
  })
})

describe('naming schemes', () => {
  it('name by role, side and style', () => {
    expect(nameOfRole('leftUpperArm', { style: 'camel', side: 'first', letter: false, prefix: '' })).toBe(
      'leftUpperArm',
    )
    expect(nameOfRole('leftUpperArm', { style: 'snake', side: 'last', letter: true, prefix: 'crew:' })).toBe(
      'crew:upper_arm_l',
    )
    expect(nameOfRole('rightThumbDistal', { style: 'words', side: 'last', letter: false, prefix: '' })).toBe(
      'Thumb distal right',
    )
    expect(nameOfRole('hips', { style: 'words', side: 'first', letter: true, prefix: '' })).toBe('Hips')
  })
  it('tell only what changes, and every scheme can be read back', () => {
    const s = biped()
    expect(namesByScheme(s, { style: 'camel', side: 'first', letter: false, prefix: '' })).toEqual({
      names: {},
      changes: [],
    })
    for (const style of ['camel', 'snake', 'words'] as const)
      for (const side of ['first', 'last'] as const)
        for (const letter of [true, false]) {
          const { names } = namesByScheme(s, { style, side, letter, prefix: 'x:' })
          const renamed = { ...s, names: s.names.map(n => names[n] ?? n), roles: s.names.map(() => undefined) }
          const read = recogniseRoles(renamed)
          expect(read.by, `${style} ${side} ${letter}`).toBe('names')
          for (const [role, j] of Object.entries(read.joints)) expect(s.roles[j]).toBe(role)
        }
  })
})
