import { add, fromAxisAngle, seededRandom, type Quat, type Vec3 } from '../../src/math'
import { ROLE_PARENTS } from '../../src/body'
import { animal, human, Maker, someBody, withFingers, type Body, type Rig } from './build'

/** How somebody names the joints of a body: by role, or nothing for those that keep theirs. */
type Names = (role: string) => string | undefined

const sided = (role: string): { side: string; part: string } => {
  const m = /^(left|right)(.*)$/.exec(role)
  return m ? { side: m[1], part: m[2] } : { side: '', part: role }
}
const dictionary =
  (words: Readonly<Record<string, string>>, join: (word: string, side: string) => string): Names =>
  role => {
    const { side, part } = sided(role)
    const word = words[part]
    return word === undefined ? undefined : join(word, side)
  }
const letter = (side: string): string => (side === 'left' ? 'L' : 'R')

const PLAIN = { hips: 'pelvis', spine: 'spine_01', chest: 'spine_02', upperChest: 'spine_03', neck: 'neck', head: 'head', Shoulder: 'clavicle', UpperArm: 'upperarm', LowerArm: 'forearm', Hand: 'hand', UpperLeg: 'thigh', LowerLeg: 'calf', Foot: 'foot', Toes: 'ball' } // prettier-ignore
const JOINTS = { hips: 'Hips', spine: 'Waist', chest: 'Torso', upperChest: 'Chest', neck: 'Neck', head: 'Head', Shoulder: 'Collar', UpperArm: 'Shoulder', LowerArm: 'Elbow', Hand: 'Wrist', UpperLeg: 'Hip', LowerLeg: 'Knee', Foot: 'Ankle', Toes: 'Toe' } // prettier-ignore
const WORDS = { hips: 'Root', spine: 'Spine', chest: 'Spine1', upperChest: 'Spine2', neck: 'Neck', head: 'Head', Shoulder: 'Shoulder', UpperArm: 'Arm', LowerArm: 'ForeArm', Hand: 'Hand', UpperLeg: 'UpLeg', LowerLeg: 'Leg', Foot: 'Foot', Toes: 'ToeBase' } // prettier-ignore

const byWords = (words: Readonly<Record<string, string>>, join: (word: string, side: string) => string) => {
  const names = dictionary(words, join)
  return (m: Maker): Maker => m.rename((truth, old) => (truth && names(truth)) ?? old)
}
const plain = byWords(PLAIN, (w, s) => (s ? `${w}_${letter(s).toLowerCase()}` : w))
const joints = byWords(JOINTS, (w, s) => (s ? `${s === 'left' ? 'Left' : 'Right'}${w}` : w))
const words = byWords(WORDS, (w, s) => (s ? `${letter(s)}_${w}` : w))
const meaningless = (m: Maker, start = 0): Maker => m.rename((_, __, j) => `joint${j + start}`)

const x = (angle: number): Quat => fromAxisAngle([1, 0, 0], angle)
const z = (angle: number): Quat => fromAxisAngle([0, 0, 1], angle)
const y = (angle: number): Quat => fromAxisAngle([0, 1, 0], angle)

const WALKING: Body['held'] = {
  leftUpperLeg: x(-0.5),
  leftLowerLeg: x(0.2),
  rightUpperLeg: x(0.35),
  rightLowerLeg: x(0.5),
  leftUpperArm: x(0.4),
  rightUpperArm: x(-0.5),
  leftLowerArm: x(-0.5),
  rightLowerArm: x(-0.6),
}
const SITTING: Body['held'] = {
  leftUpperLeg: x(-1.5),
  leftLowerLeg: x(1.5),
  rightUpperLeg: x(-1.5),
  rightLowerLeg: x(1.5),
}
const AHEAD: Body['held'] = { leftUpperArm: y(-1.3), rightUpperArm: y(1.3) }
const RAISED: Body['held'] = { leftUpperArm: z(1.2), rightUpperArm: z(-1.2), leftLowerArm: z(0.4) }
const CROSSED: Body['held'] = { leftUpperArm: y(-0.9), rightUpperArm: y(0.9), leftLowerArm: y(-1.6), rightLowerArm: y(1.6) } // prettier-ignore

/** What each joint of a body hangs on. */
const CHAIN: Readonly<Record<string, string>> = { hips: '', ...ROLE_PARENTS }
const LIMB_PARTS = ['UpperArm', 'LowerArm', 'Hand', 'UpperLeg', 'LowerLeg', 'Foot'] as const

/** Joints that animators move, at the places of the limbs, beside the skeleton. */
function withControls(m: Maker, name: (side: string, part: string) => string, above: string | number = ''): Maker {
  const root = m.add('controls', above, [0, 0, 0])
  for (const side of ['left', 'right'])
    for (const part of LIMB_PARTS) m.add(name(side, part), root, m.at(`${side}${part}`))
  return m
}
/** Targets of hands and feet, with poles of elbows and knees. */
function withTargets(
  m: Maker,
  above: string | number = '',
  name = (w: string, s: string): string => `${w}_${s}`,
): Maker {
  for (const side of ['left', 'right']) {
    const s = letter(side)
    m.add(name('ik_hand', s), above, m.at(`${side}Hand`))
    const foot = m.add(name('ik_foot', s), above, m.at(`${side}Foot`))
    m.add(name('ik_heel', s), foot, add(m.at(`${side}Foot`), [0, -0.05, -0.05]))
    m.add(name('pole_elbow', s), above, add(m.at(`${side}LowerArm`), [0, 0, -0.4]))
    m.add(name('pole_knee', s), above, add(m.at(`${side}LowerLeg`), [0, 0, 0.5]))
  }
  return m
}
function ends(m: Maker): Maker {
  m.add('head_end', 'head', add(m.at('head'), [0, 0.2, 0]))
  for (const s of ['left', 'right']) {
    if (m.has(`${s}Toes`)) m.add(`toe_end_${letter(s)}`, `${s}Toes`, add(m.at(`${s}Toes`), [0, 0, 0.07]))
    m.add(`hand_end_${letter(s)}`, `${s}Hand`, add(m.at(`${s}Hand`), [s === 'left' ? 0.1 : -0.1, 0, 0]))
  }
  return m
}
/** A skirt of chains around the pelvis, alike on both sides. */
function skirt(m: Maker, named: boolean): Maker {
  const hips = m.at('hips')
  for (let i = 0; i < 8; i++) {
    const a = (2 * Math.PI * (i + 0.5)) / 8
    let above: string | number = 'hips'
    for (let k = 0; k < 4; k++) {
      const at: Vec3 = [hips[0] + (0.12 + 0.06 * k) * Math.sin(a), hips[1] - 0.12 * k, hips[2] + (0.1 + 0.06 * k) * Math.cos(a)] // prettier-ignore
      above = m.add(named ? `skirt_${i}_${k}` : `c${i}${k}`, above, at)
    }
  }
  return m
}
function wings(m: Maker, from: string, name: (s: string, i: number) => string): Maker {
  const at = m.at(from)
  for (const side of ['left', 'right']) {
    const k = side === 'left' ? 1 : -1
    let above: string | number = from
    for (let i = 0; i < 5; i++)
      above = m.add(name(side, i), above, add(at, [k * (0.1 + 0.25 * i), 0.1 * i, -0.1 - 0.05 * i]))
  }
  return m
}
/** Takes joints out of the limbs. */
function without(parts: readonly string[], m: Maker): Maker {
  return m.drop(t => parts.some(p => t?.endsWith(p)))
}

export interface Style {
  readonly name: string
  readonly make: (seed: number) => Rig
}
const style = (name: string, make: (seed: number) => Rig): Style => ({ name, make })

/** Ways in which skeletons come; each may be made with any seed. */
export const STYLES: readonly Style[] = [
  style('plain names', s => plain(human(someBody(s))).done('biped', { axes: s })),
  style('names of joints instead of bones', s => joints(human(someBody(s))).done('biped', { axes: s })),
  style('shoulder, arm, forearm', s => words(human(someBody(s))).done('biped')),
  style('shoulder, elbow, wrist without collarbones', s =>
    joints(human(someBody(s, { clavicles: false }))).done('biped', { shuffle: true }),
  ),
  style('no names at all', s => meaningless(human(someBody(s, { armsDown: 0.2 }))).done('biped', { axes: s, shuffle: true })), // prettier-ignore
  style('no names, arms hanging', s => meaningless(ends(human(someBody(s, { armsDown: 1.4 })))).done('biped', { shuffle: true })), // prettier-ignore
  style('no names, no toes', s => meaningless(human(someBody(s, { toes: false }))).done('biped')),
  style('empty names', s =>
    human(someBody(s))
      .rename(() => '')
      .done('biped', { axes: s }),
  ),
  style('every joint of one name', s =>
    human(someBody(s))
      .rename(() => 'Bone')
      .done('biped', { shuffle: true }),
  ),
  style('a root on the ground and a centre of mass', s => {
    const m = new Maker()
    const root = m.add('root', '', [0, 0, 0])
    const cog = m.add('cog', root, [0, 1, 0])
    return plain(ends(human(someBody(s), m, cog))).done('biped')
  }),
  style('targets and poles beside the skeleton', s => {
    const m = new Maker()
    const root = m.add('root', '', [0, 0, 0])
    return withTargets(plain(human(someBody(s), m, root)), root).done('biped')
  }),
  style('targets before the skeleton', s => {
    const m = withTargets(plain(human(someBody(s))), '')
    return m.order(t => (t === undefined ? 0 : 1)).done('biped')
  }),
  style('targets within the hips', s =>
    withTargets(words(human(someBody(s))), 'hips').done('biped', { shuffle: true }),
  ),
  style('controls called as the bones are', s => {
    const m = plain(human(someBody(s)))
    const word: Record<string, string> = { UpperArm: 'upperarm', LowerArm: 'forearm', Hand: 'hand', UpperLeg: 'thigh', LowerLeg: 'calf', Foot: 'foot' } // prettier-ignore
    return withControls(m, (side, part) => `${word[part]}_${letter(side).toLowerCase()}_ctrl`)
      .order(t => (t === undefined ? 0 : 1))
      .done('biped')
  }),
  style('control chains before bones with a mark', s => {
    const m = human(someBody(s))
    m.rename((t, old) => (t ? `b_${old}` : old))
    const root = m.add('fk', '', [0, 0, 0])
    for (const side of ['left', 'right'])
      for (const limb of [
        ['UpperArm', 'LowerArm', 'Hand'],
        ['UpperLeg', 'LowerLeg', 'Foot'],
      ]) {
        let above: string | number = root
        for (const part of limb) above = m.add(`fk_${side}${part}`, above, m.at(`${side}${part}`))
      }
    return m.order(t => (t === undefined ? 0 : 1)).done('biped')
  }),
  style('twists in line', s => {
    const m = plain(human(someBody(s)))
    for (const side of ['left', 'right']) {
      m.between(`upperarm_twist_${letter(side)}`, `${side}LowerArm`, 0.5)
      m.between(`forearm_twist_${letter(side)}`, `${side}Hand`, 0.6)
      m.between(`thigh_twist_${letter(side)}`, `${side}LowerLeg`, 0.5)
    }
    return m.done('biped', { axes: s })
  }),
  style('twists in line without names', s => {
    const m = human(someBody(s, { armsDown: 0.3 }))
    for (const side of ['left', 'right']) {
      m.between('', `${side}LowerArm`, 0.5)
      m.between('', `${side}Hand`, 0.5)
    }
    return meaningless(m).done('biped')
  }),
  style('twists in line numbered as the limb', s => {
    const m = human(someBody(s))
    m.rename((t, old) => (t?.endsWith('UpperArm') ? old.replace('UpperArm', 'Arm1') : t?.endsWith('LowerArm') ? old.replace('LowerArm', 'Forearm1') : old)) // prettier-ignore
    for (const side of ['left', 'right']) {
      m.between(`${side}Arm2`, `${side}LowerArm`, 0.5)
      m.between(`${side}Forearm2`, `${side}Hand`, 0.5)
    }
    return m.done('biped')
  }),
  style('twists beside', s => {
    const m = words(human(someBody(s)))
    for (const side of ['left', 'right'])
      for (const [part, next] of [
        ['UpperArm', 'LowerArm'],
        ['LowerArm', 'Hand'],
        ['UpperLeg', 'LowerLeg'],
      ])
        // prettier-ignore
        for (const k of [0.33, 0.66]) {
          const [a, b] = [m.at(`${side}${part}`), m.at(`${side}${next}`)]
          m.add(`${letter(side)}_${part}Roll${k}`, `${side}${part}`, [0, 1, 2].map(i => a[i] + (b[i] - a[i]) * k) as Vec3)
        }
    return m.done('biped', { shuffle: true })
  }),
  style('limbs of one bone', s => plain(without(['LowerArm', 'LowerLeg'], human(someBody(s)))).done('biped')),
  style('limbs of one bone without names', s => meaningless(without(['LowerArm', 'LowerLeg', 'Toes'], human(someBody(s)))).done('biped')), // prettier-ignore
  style('no thighs', s => plain(without(['UpperLeg'], human(someBody(s)))).done('biped')),
  style('no feet', s => joints(without(['Foot', 'Toes'], human(someBody(s)))).done('biped')),
  style('fingers of four joints', s =>
    withFingers(plain(human(someBody(s))), 4, (side, f, i) => `${f.toLowerCase()}_0${i}_${letter(side)}`).done('biped'),
  ),
  style('fingers without names', s => meaningless(withFingers(human(someBody(s, { armsDown: 0.7 })), 3, () => '')).done('biped', { shuffle: true })), // prettier-ignore
  style('walking', s => plain(human(someBody(s, { armsDown: 1.3, held: WALKING }))).done('biped', { axes: s })),
  style('walking, no names', s => meaningless(human(someBody(s, { armsDown: 1.3, held: WALKING }))).done('biped')),
  style('sitting', s => joints(human(someBody(s, { armsDown: 1.2, held: SITTING }))).done('biped')),
  style('sitting, no names', s => meaningless(human(someBody(s, { armsDown: 1.2, held: SITTING }))).done('biped')),
  style('arms ahead, no names', s => meaningless(human(someBody(s, { armsDown: 0.1, held: AHEAD }))).done('biped')),
  style('arms raised', s => words(human(someBody(s, { armsDown: 0.1, held: RAISED }))).done('biped')),
  style('arms crossed', s => plain(human(someBody(s, { armsDown: 1.1, held: CROSSED }))).done('biped')),
  style('sides named from the viewer', s => {
    const m = plain(human(someBody(s)))
    return m.rename((t, old) => (t && /_[lr]$/.test(old) ? old.replace(/_([lr])$/, (_, k: string) => (k === 'l' ? '_r' : '_l')) : old)).done('biped') // prettier-ignore
  }),
  style(
    'facing away, centimetres, Z up',
    s =>
    plain(human(someBody(s))).place(p => [-100 * p[0], 100 * p[2], 100 * p[1]]).done('biped', { axes: s }), // prettier-ignore
  ),
  style('lying on its back', s => joints(human(someBody(s))).place(p => [p[0], p[2], -p[1]]).done('biped')), // prettier-ignore
  style('a skirt', s => skirt(plain(human(someBody(s))), true).done('biped')),
  style('a skirt without names', s => meaningless(skirt(human(someBody(s)), false)).done('biped', { shuffle: true })),
  style('wings', s => wings(words(human(someBody(s))), 'upperChest', (side, i) => `wing${i}_${letter(side)}`).done('biped')), // prettier-ignore
  style('long braids and a prop in the hand', s => {
    const m = plain(human(someBody(s)))
    for (const k of [1, -1]) {
      let above: string | number = 'head'
      for (let i = 0; i < 5; i++) above = m.add(`braid_${k > 0 ? 'l' : 'r'}_${i}`, above, add(m.at('head'), [k * 0.1, -0.1 * i, -0.1])) // prettier-ignore
    }
    const sword = m.add('hand_prop_r', 'rightHand', add(m.at('rightHand'), [0, 0, 0.1]))
    m.add('hand_prop_r_end', sword, add(m.at('rightHand'), [0, 0, 1]))
    return m.done('biped')
  }),
  style('names of another script', s => {
    const own: Record<string, string> = { hips: 'таз', spine: 'спина', chest: 'грудь', upperChest: 'верх', neck: 'шея', head: 'голова', Shoulder: 'ключица', UpperArm: 'плечо', LowerArm: 'локоть', Hand: 'кисть', UpperLeg: 'бедро', LowerLeg: 'колено', Foot: 'стопа', Toes: 'носок' } // prettier-ignore
    return byWords(own, (w, side) => (side ? `${w}.${side === 'left' ? 'Л' : 'П'}` : w))(human(someBody(s))).done(
      'biped',
    )
  }),
  style('names in German', s => {
    const own: Record<string, string> = { hips: 'Becken', spine: 'Wirbel1', chest: 'Wirbel2', upperChest: 'Brust', neck: 'Hals', head: 'Kopf', Shoulder: 'Schluesselbein', UpperArm: 'Oberarm', LowerArm: 'Unterarm', Hand: 'Hand', UpperLeg: 'Oberschenkel', LowerLeg: 'Unterschenkel', Foot: 'Fuss', Toes: 'Zehen' } // prettier-ignore
    return byWords(own, (w, side) => (side ? `${w}_${side === 'left' ? 'li' : 're'}` : w))(human(someBody(s))).done(
      'biped',
    )
  }),
  style('a long neck and a long spine', s => plain(human(someBody(s, { neck: 3, spine: 5 }))).done('biped')),
  style('a spine of one joint', s => words(human(someBody(s, { spine: 1 }))).done('biped')),
  style('an animal named by its legs', s =>
    animal(s)
      .rename((t, old) => (t ? old.replace(/(Front|Hind)/, '_$1_') : old))
      .done('fourleg'),
  ),
  style(
    'an animal named as a human',
    s =>
    animal(s).rename((t, old) => (t ? old.replace('FrontUpperLeg', '_upperarm').replace('FrontLowerLeg', '_forearm').replace('FrontFoot', '_hand').replace('FrontToes', '_fingers').replace('FrontShoulder', '_clavicle').replace('HindUpperLeg', '_thigh').replace('HindLowerLeg', '_calf').replace('HindFoot', '_foot').replace('HindToes', '_toe') : old)).done('fourleg'), // prettier-ignore
  ),
  style('an animal without names', s => meaningless(animal(s)).done('fourleg', { axes: s, shuffle: true })),
  style('an animal without names and tail', s => meaningless(animal(s, { tail: 0 })).done('fourleg')),
  style('an animal without shoulder blades', s => meaningless(animal(s, { blades: false, neck: 1 })).done('fourleg')),
  style('an animal with a tail longer than its neck', s =>
    meaningless(animal(s, { tail: 9, neck: 1 })).done('fourleg'),
  ),
  style('an animal with targets at its feet', s => {
    const m = animal(s)
    for (const leg of ['leftFront', 'rightFront', 'leftHind', 'rightHind'])
      m.add(`${leg}_ik`, 'hips', m.at(`${leg}Foot`))
    return m.done('fourleg')
  }),
  style('a snake', s => {
    const m = new Maker()
    let above: string | number = ''
    for (let i = 0; i < 20; i++) above = m.add(`b${i}`, above, [0, 0.1, 0.1 * i * (1 + (s % 3))])
    return m.done('other')
  }),
  style('a machine of six legs', s => {
    const m = new Maker()
    const body = m.add('body', '', [0, 0.5, 0])
    for (let i = 0; i < 6; i++) {
      const k = i % 2 ? 1 : -1
      const at = (n: number): Vec3 => [k * (0.2 + 0.2 * n), n < 2 ? 0.5 + 0.1 * n : 0.05, 0.3 * (Math.floor(i / 2) - 1)]
      const hip = m.add(`leg${i}a`, body, at(0))
      const knee = m.add(`leg${i}b`, hip, at(1))
      m.add(`leg${i}c`, knee, at(2))
    }
    return m.done('other', { shuffle: s % 2 === 0 })
  }),
  style('a tree of sticks', s => {
    const random = seededRandom(s)
    const m = new Maker()
    m.add('a0', '', [0, 0, 0])
    for (let i = 1; i < 30; i++) m.add(`a${i}`, Math.floor(random() * i), [random(), 2 * random(), random()])
    return m.done('other')
  }),
  style('the spine, neck and head one numbered row', s => {
    const m = plain(human(someBody(s, { neck: 2 })))
    const row = ['hips', 'spine', 'chest', 'upperChest', 'neck', 'neck2', 'head']
    return m.rename((t, old) => (t && row.includes(t) ? `spine.00${row.indexOf(t)}` : old)).done('biped')
  }),
  style('bones, mechanics and originals three times over', s => {
    const m = human(someBody(s))
    m.rename((t, old) => (t ? `DEF-${old}` : old))
    const root = m.add('root', '', [0, 0, 0])
    for (const kind of ['ORG', 'MCH']) {
      const made = new Map<string, number>()
      for (const [t, parent] of Object.entries(CHAIN)) {
        if (!m.has(t)) continue
        made.set(t, m.add(`${kind}-${t}`, made.get(parent) ?? root, m.at(t)))
      }
    }
    return m.order(t => (t === undefined ? 0 : 1)).done('biped')
  }),
  style('every joint hangs on the root', s => {
    const m = plain(human(someBody(s)))
    const root = m.add('root', '', [0, 0, 0])
    return m.flatten(root).done('biped')
  }),
  style('feet that hang on the root', s => {
    const m = plain(human(someBody(s)))
    const root = m.add('root', '', [0, 0, 0])
    for (const side of ['left', 'right']) m.hang(`${side}Foot`, root)
    return m.done('biped')
  }),
  style('limbs numbered, the collarbone first', s =>
    human(someBody(s))
      .rename((t, old) => {
        const limb = /^(left|right)(Shoulder|UpperArm|LowerArm|Hand|UpperLeg|LowerLeg|Foot)$/.exec(t ?? '')
        if (!limb) return old
        const arm = ['Shoulder', 'UpperArm', 'LowerArm', 'Hand'].indexOf(limb[2])
        const leg = ['UpperLeg', 'LowerLeg', 'Foot'].indexOf(limb[2])
        const k = arm >= 0 ? arm : leg
        return `${arm >= 0 ? 'arm' : 'leg'}.${letter(limb[1])}${k ? `.00${k}` : ''}`
      })
      .done('biped'),
  ),
  style('limbs numbered from their ends', s =>
    human(someBody(s, { clavicles: false }))
      .rename((t, old) => {
        const limb = /^(left|right)(UpperArm|LowerArm|Hand|UpperLeg|LowerLeg|Foot|Toes)$/.exec(t ?? '')
        if (!limb) return old
        const arm = ['Hand', 'LowerArm', 'UpperArm'].indexOf(limb[2])
        const leg = ['Toes', 'Foot', 'LowerLeg', 'UpperLeg'].indexOf(limb[2])
        return `${arm >= 0 ? 'arm' : 'leg'}_joint_${letter(limb[1])}_${1 + (arm >= 0 ? arm : leg)}`
      })
      .done('biped'),
  ),
  style('sides and numbers only', s => {
    let n = 0
    return human(someBody(s)).rename(t => `Bone${t?.startsWith('left') ? '_L' : t?.startsWith('right') ? '_R' : ''}.${String(n++).padStart(3, '0')}`).done('biped', { axes: s }) // prettier-ignore
  }),
  style(
    'sides told by numbers',
    s =>
    human(someBody(s)).rename((t, old) => (t?.startsWith('left') ? `${t.slice(4)}1` : t?.startsWith('right') ? `${t.slice(5)}2` : old)).done('biped', { shuffle: true }), // prettier-ignore
  ),
  style('legs on a pelvis beside the spine', s => {
    const m = plain(human(someBody(s)))
    const root = m.add('root', '', [0, 0, 0])
    const cog = m.add('body', root, m.at('hips'))
    m.hang('hips', cog)
    m.hang('spine', cog)
    return m.truthful('hips', cog).done('biped')
  }),
  style('a small figure without spine and neck', s => words(human(someBody(s, { spine: 1, neck: 0 }))).done('biped')),
  style('arms that are only hands', s => plain(without(['Shoulder', 'UpperArm', 'LowerArm'], human(someBody(s)))).done('biped')), // prettier-ignore
  style('no arms at all', s => plain(without(['Shoulder', 'UpperArm', 'LowerArm', 'Hand'], human(someBody(s)))).done('biped')), // prettier-ignore
  style('no arms at all, no names', s => meaningless(without(['Shoulder', 'UpperArm', 'LowerArm', 'Hand'], human(someBody(s)))).done('biped')), // prettier-ignore
  style('muscles and helpers called as limbs', s => {
    const m = plain(human(someBody(s)))
    for (const side of ['left', 'right']) {
      const l = letter(side).toLowerCase()
      m.add(`bicep_${l}`, `${side}UpperArm`, add(m.at(`${side}UpperArm`), [0, 0.02, 0.04]))
      m.add(`elbow_fix_${l}`, `${side}UpperArm`, m.at(`${side}LowerArm`))
      m.add(`knee_fix_${l}`, `${side}UpperLeg`, m.at(`${side}LowerLeg`))
      m.add(`calf_bulge_${l}`, `${side}LowerLeg`, add(m.at(`${side}LowerLeg`), [0, -0.1, -0.05]))
      m.add(`shoulder_pad_${l}`, 'upperChest', add(m.at(`${side}UpperArm`), [0, 0.05, 0]))
      m.add(`wrist_${l}_jiggle`, `${side}Hand`, add(m.at(`${side}Hand`), [0, 0.02, 0]))
    }
    return m.order(t => (t === undefined ? 0 : 1)).done('biped')
  }),
  style('sockets before the thighs', s => {
    const m = plain(human(someBody(s)))
    for (const side of ['left', 'right']) m.between(`hip_${letter(side).toLowerCase()}`, `${side}UpperLeg`, 0.7)
    return m.done('biped')
  }),
  style('wrist and hand, ankle and foot', s => {
    const m = joints(human(someBody(s, { clavicles: false })))
    for (const side of ['left', 'right']) {
      const w = side === 'left' ? 'Left' : 'Right'
      m.add(`${w}Hand`, `${side}Hand`, add(m.at(`${side}Hand`), [side === 'left' ? 0.03 : -0.03, 0, 0]))
      m.add(`${w}Foot`, `${side}Foot`, add(m.at(`${side}Foot`), [0, -0.03, 0.02]))
    }
    return m.done('biped')
  }),
  style('legs of an animal on two legs', s => {
    const m = human(someBody(s))
    m.drop(t => t?.endsWith('Toes') ?? false)
    for (const side of ['left', 'right']) {
      const foot = m.find(`${side}Foot`)
      const low = add(m.at(`${side}Foot`), [0, -0.02, 0.05])
      m.moveTo(`${side}Foot`, add(m.at(`${side}LowerLeg`), [0, -0.2, -0.15]))
      m.add(`${side}Ball`, foot, low, `${side}Toes`)
    }
    return plain(m).done('biped')
  }),
  style('a tail on two legs', s => {
    const m = words(human(someBody(s)))
    let above: string | number = 'hips'
    for (let i = 0; i < 7; i++) above = m.add(`tail_${i}`, above, add(m.at('hips'), [0, -0.06 * i, -0.1 - 0.12 * i]))
    return m.done('biped')
  }),
  style('a tail on two legs, no names', s => {
    const m = human(someBody(s))
    let above: string | number = 'hips'
    for (let i = 0; i < 7; i++) above = m.add('', above, add(m.at('hips'), [0, -0.06 * i, -0.1 - 0.12 * i]))
    return meaningless(m).done('biped', { shuffle: true })
  }),
  style('big ears, no names', s => {
    const m = human(someBody(s))
    for (const k of [1, -1]) {
      let above: string | number = 'head'
      for (let i = 0; i < 4; i++) above = m.add('', above, add(m.at('head'), [k * (0.08 + 0.03 * i), 0.08 * i, 0]))
    }
    return meaningless(m).done('biped', { shuffle: true })
  }),
  style('an ape on its knuckles', s => {
    const held = { leftUpperArm: x(-0.2), rightUpperArm: x(-0.2) }
    const m = human(someBody(s, { armsDown: 1.5, legShare: 0.36, armShare: 0.62, held }))
    // the trunk leans forward
    return plain(m).done('biped')
  }),
  style('four arms', s => {
    const m = plain(human(someBody(s)))
    for (const side of ['left', 'right']) {
      const k = side === 'left' ? 1 : -1
      let above: string | number = 'chest'
      for (const [i, part] of ['upperarm', 'forearm', 'hand'].entries())
        above = m.add(
          `low_${part}_${letter(side).toLowerCase()}`,
          above,
          add(m.at('chest'), [k * (0.1 + 0.25 * i), 0, 0]),
        )
    }
    return m.done('biped')
  }),
  style('a horse with the trunk of a human', s => {
    const m = animal(s, { neck: 1, ears: false })
    for (const side of ['left', 'right']) {
      const k = side === 'left' ? 1 : -1
      let above: string | number = 'neck'
      for (const [i, part] of ['upperarm', 'forearm', 'hand'].entries())
        above = m.add(`${part}_${letter(side)}`, above, add(m.at('neck'), [k * (0.15 + 0.2 * i), 0, 0]))
    }
    return m.done('other')
  }),
  style('a bird', s => {
    const m = human(someBody(s, { clavicles: false }))
    return plain(m).rename((t, old) => (/Arm|Hand/.test(t ?? '') ? `wing${['UpperArm', 'LowerArm', 'Hand'].findIndex(p => t!.endsWith(p)) + 1}_${letter(t!.startsWith('left') ? 'left' : 'right')}` : old)).done('biped') // prettier-ignore
  }),
  style('an animal named by numbers', s =>
    animal(s)
      .rename((t, old) => {
        const leg = /^(left|right)(Front|Hind)(Shoulder|UpperLeg|LowerLeg|Foot|Toes)$/.exec(t ?? '')
        if (!leg) return old
        const k = ['Shoulder', 'UpperLeg', 'LowerLeg', 'Foot', 'Toes'].indexOf(leg[3])
        return `${leg[2] === 'Front' ? 'arm' : 'leg'}${k}.${letter(leg[1])}`
      })
      .done('fourleg'),
  ),
  style('an animal with controls', s => {
    const m = animal(s)
    const root = m.add('ctrl_root', '', [0, 0, 0])
    for (const leg of ['leftFront', 'rightFront', 'leftHind', 'rightHind'])
      for (const part of ['UpperLeg', 'LowerLeg', 'Foot']) m.add(`ctrl_${leg}${part}`, root, m.at(`${leg}${part}`))
    return m.order(t => (t === undefined ? 0 : 1)).done('fourleg')
  }),
  style('a sitting animal', s => {
    const m = animal(s)
    return meaningless(m.place(p => [p[0], p[1] + 0.6 * (p[2] > 0 ? p[2] : 0.4 * p[2]), p[2] * 0.8])).done('fourleg')
  }),
  style('an animal standing on its hind legs', s => meaningless(animal(s).place(p => [p[0], p[2] + 1, -p[1]])).done('fourleg')), // prettier-ignore
  style('groups numbered, neck and head alike', s => {
    const own: Record<string, string> = { hips: 'trunk_joint_1', spine: 'trunk_joint_2', chest: 'trunk_joint_3', neck: 'neck_joint_1', head: 'neck_joint_2' } // prettier-ignore
    const limbs = ['UpperArm', 'LowerArm', 'Hand']
    const legs = ['UpperLeg', 'LowerLeg', 'Foot', 'Toes']
    return human(someBody(s, { clavicles: false, spine: 2 }))
      .rename((t, old) => {
        if (!t || own[t]) return own[t ?? ''] ?? old
        const { side, part } = sided(t)
        const arm = limbs.indexOf(part)
        return arm >= 0
          ? `arm_joint_${letter(side)}__${4 - arm}_`
          : `leg_joint_${letter(side)}_${legs.indexOf(part) + 1}`
      })
      .done('biped')
  }),
  style('an animal with a running number behind every name', s => {
    const own: Record<string, string> = { FrontShoulder: 'Shoulder', FrontUpperLeg: 'UpperArm', FrontLowerLeg: 'ForeArm', FrontFoot: 'Hand', FrontToes: 'Fingers', HindUpperLeg: 'Leg01', HindLowerLeg: 'Leg02', HindFoot: 'Foot01', HindToes: 'Foot02' } // prettier-ignore
    let n = 0
    return animal(s).rename((t, old) => {
      const { side, part } = sided(t ?? '')
      return `b_${side ? `${side === 'left' ? 'Left' : 'Right'}${own[part] ?? part}` : old}_${String(n++).padStart(2, '0')}`
    }).done('fourleg') // prettier-ignore
  }),
  style('palms without a wrist, feet on targets', s => {
    const m = joints(human(someBody(s, { clavicles: false })))
    for (const side of ['left', 'right']) {
      const hand = m.at(`${side}Hand`)
      for (let i = 0; i < 3; i++) {
        const palm = m.add(`Palm${i + 1}${letter(side)}`, `${side}LowerArm`, add(hand, [0, 0, 0.03 * (i - 1)]))
        m.add(`Finger${i + 1}${letter(side)}`, palm, add(hand, [side === 'left' ? 0.08 : -0.08, 0, 0.03 * (i - 1)]))
      }
    }
    return without(['Hand'], m).done('biped')
  }),
  style('six legs with names', s => {
    const m = new Maker()
    const body = m.add('Body', '', [0, 0.5, 0])
    m.add('Head', body, [0, 0.5, 0.5 + 0.01 * s])
    for (let i = 0; i < 6; i++) {
      const k = i % 2 ? 1 : -1
      const name = (part: string): string => `${part}Leg${Math.floor(i / 2) + 1}${k > 0 ? 'L' : 'R'}`
      const at = (n: number): Vec3 => [k * (0.2 + 0.2 * n), n < 2 ? 0.5 + 0.1 * n : 0.05, 0.3 * (Math.floor(i / 2) - 1)]
      const hip = m.add(name('Upper'), body, at(0))
      const knee = m.add(name('Lower'), hip, at(1))
      m.add(name('Foot'), knee, at(2))
    }
    return m.done('other')
  }),
  style('a figure in a box turned by a quarter', s => plain(human(someBody(s))).place(p => [p[2], p[1], -p[0]]).done('biped', { axes: s })), // prettier-ignore
  style('hip, knee and ankle without names, arms on the chest beside a neck of four', s =>
    meaningless(human(someBody(s, { neck: 4, spine: 4, armsDown: 0.6 }))).done('biped', { axes: s, shuffle: true }),
  ),
]
