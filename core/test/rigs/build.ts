import { add, fromAxisAngle, normalize, rotate, seededRandom, sub, type Quat, type Vec3 } from '../../src/math'
import { skeletonFromWorld, type Skeleton, type WorldJoint } from '../../src/skeleton'

/** A skeleton somebody else might have made, and what its joints really are. */
export interface Rig {
  readonly skeleton: Skeleton
  /** Joint by main role; roles that no joint plays are left out. */
  readonly truth: Readonly<Record<string, number>>
  readonly kind: 'biped' | 'fourleg' | 'other'
}

/** How a body is proportioned and stands. */
export interface Body {
  readonly height: number
  /** Angle of the arms below straight out, radians. */
  readonly armsDown: number
  readonly legShare: number
  readonly armShare: number
  readonly width: number
  readonly clavicles: boolean
  readonly spine: number
  readonly neck: number
  readonly toes: boolean
  /** Turns of limbs away from standing, by joint. */
  readonly held?: Readonly<Record<string, Quat>>
}

export function someBody(seed: number, more: Partial<Body> = {}): Body {
  const random = seededRandom(seed)
  const between = (a: number, b: number): number => a + (b - a) * random()
  return {
    height: between(1.2, 2.1),
    armsDown: between(0, 1.3),
    legShare: between(0.42, 0.54),
    armShare: between(0.3, 0.38),
    width: between(0.85, 1.25),
    clavicles: true,
    spine: 3,
    neck: 1,
    toes: true,
    ...more,
  }
}

/** Joints put together one by one, with what each really is. */
export class Maker {
  private readonly joints: (WorldJoint & { truth?: string })[] = []
  constructor(private readonly random = seededRandom(1)) {}

  add(name: string, parent: string | number, position: Vec3, truth?: string): number {
    const p = typeof parent === 'number' ? parent : this.find(parent)
    return this.joints.push({ name, parent: p, position, rotation: [0, 0, 0, 1], truth }) - 1
  }
  find(truth: string): number {
    if (truth === '') return -1
    return this.joints.findIndex(j => j.truth === truth)
  }
  at(truth: string): Vec3 {
    return this.joints[this.find(truth)].position
  }
  has(truth: string): boolean {
    return this.find(truth) >= 0
  }
  /** Puts a joint between another and its parent, a share of the way up. */
  between(name: string, truth: string, share: number): number {
    const j = this.find(truth)
    const child = this.joints[j]
    const above = this.joints[child.parent].position
    const position = add(above, scaled(sub(child.position, above), share))
    // parents come first: it takes the place of the child, which moves to the end with all that hangs on it
    const made = this.joints.push({ name, parent: child.parent, position, rotation: [0, 0, 0, 1] }) - 1
    this.joints[j] = { ...child, parent: made }
    return made
  }
  rename(name: (truth: string | undefined, old: string, j: number) => string): this {
    this.joints.forEach((joint, j) => (this.joints[j] = { ...joint, name: name(joint.truth, joint.name, j) }))
    return this
  }
  /** Takes joints out; what hangs on them hangs on what carried them. */
  drop(which: (truth: string | undefined) => boolean): this {
    for (let j = this.joints.length - 1; j >= 0; j--) {
      if (!which(this.joints[j].truth)) continue
      const [gone] = this.joints.splice(j, 1)
      this.joints.forEach((joint, i) => {
        const parent = joint.parent === j ? gone.parent : joint.parent
        this.joints[i] = { ...joint, parent: parent > j ? parent - 1 : parent }
      })
    }
    return this
  }
  /** Hangs a joint on another one. */
  hang(truth: string, on: number): this {
    const j = this.find(truth)
    this.joints[j] = { ...this.joints[j], parent: on }
    return this
  }
  /** Hangs every joint on one. */
  flatten(on: number): this {
    this.joints.forEach((joint, j) => j !== on && (this.joints[j] = { ...joint, parent: on }))
    return this
  }
  /** Says which joint plays a role. */
  truthful(truth: string, joint: number): this {
    const was = this.find(truth)
    this.joints[was] = { ...this.joints[was], truth: undefined }
    this.joints[joint] = { ...this.joints[joint], truth }
    return this
  }
  moveTo(truth: string, position: Vec3): this {
    const j = this.find(truth)
    this.joints[j] = { ...this.joints[j], position }
    return this
  }
  /** Siblings and roots in the order of a value. */
  order(value: (truth: string | undefined) => number): this {
    this.value = value
    return this
  }
  private value: ((truth: string | undefined) => number) | undefined
  /** Moves everything. */
  place(move: (p: Vec3) => Vec3): this {
    this.joints.forEach((joint, j) => (this.joints[j] = { ...joint, position: move(joint.position) }))
    return this
  }

  /** The skeleton: parents first, children in any order, joint axes by a seed or all alike. */
  done(kind: Rig['kind'], { axes, shuffle = false }: { axes?: number; shuffle?: boolean } = {}): Rig {
    const children = this.joints.map((): number[] => [])
    const roots: number[] = []
    this.joints.forEach((j, i) => (j.parent < 0 ? roots : children[j.parent]).push(i))
    const order: number[] = []
    const visit = (list: number[]): void => {
      const key = (i: number): number => (shuffle ? this.random() : this.value ? this.value(this.joints[i].truth) : 0)
      const own = list.map(i => [key(i), i] as const).sort((a, b) => a[0] - b[0]).map(x => x[1]) // prettier-ignore
      for (const i of own) {
        order.push(i)
        visit(children[i])
      }
    }
    visit(roots)
    const place = new Map(order.map((old, now) => [old, now]))
    const turns = axes === undefined ? undefined : seededRandom(axes)
    const out = order.map((old): WorldJoint => {
      const { name, parent, position } = this.joints[old]
      const rotation: Quat = turns
        ? fromAxisAngle(normalize([turns() - 0.5, turns() - 0.5, turns() - 0.4]), 6 * turns())
        : [0, 0, 0, 1]
      return { name, parent: parent < 0 ? -1 : place.get(parent)!, position, rotation }
    })
    const truth: Record<string, number> = {}
    order.forEach((old, now) => {
      const t = this.joints[old].truth
      if (t !== undefined && truth[t] === undefined) truth[t] = now
    })
    return { skeleton: skeletonFromWorld(out), truth, kind }
  }
}

const scaled = (v: Vec3, s: number): Vec3 => [v[0] * s, v[1] * s, v[2] * s]

/** A human: Y up, facing +Z, feet on the ground. Every joint is called by its role. */
export function human(body: Body, maker = new Maker(), root: string | number = ''): Maker {
  const { height: h, legShare, armShare, width, armsDown } = body
  const hip = h * legShare
  const held = (role: string): Quat => body.held?.[role] ?? [0, 0, 0, 1]
  const m = maker
  m.add('hips', root, [0, hip + 0.02 * h, 0], 'hips')
  const chestY = hip + (h * 0.82 - hip) * 0.9
  const spineNames = ['spine', 'chest', 'upperChest', 'spine4', 'spine5'].slice(0, body.spine)
  let above = 'hips'
  spineNames.forEach((s, i) => {
    const y = hip + 0.02 * h + ((chestY - hip) * (i + 1)) / (body.spine + 0.3)
    m.add(s, above, [0, y, 0], s)
    above = s
  })
  const chest = above
  const neckY = h * 0.84
  for (let i = 0; i < body.neck; i++) {
    const name = i === 0 ? 'neck' : `neck${i + 1}`
    m.add(name, above, [0, neckY + (i * 0.05 * h) / body.neck, 0], name)
    above = name
  }
  m.add('head', above, [0, h * 0.895, 0.01 * h], 'head')
  for (const side of ['left', 'right'] as const) {
    const k = side === 'left' ? 1 : -1
    const shoulder: Vec3 = [k * 0.1 * h * width, h * 0.815, 0]
    let from = chest
    if (body.clavicles) {
      m.add(`${side}Shoulder`, chest, [k * 0.015 * h * width, h * 0.81, 0.01 * h], `${side}Shoulder`)
      from = `${side}Shoulder`
    }
    const out: Vec3 = [k * Math.cos(armsDown), -Math.sin(armsDown), 0]
    const upper = held(`${side}UpperArm`)
    const lower = mul(upper, held(`${side}LowerArm`))
    m.add(`${side}UpperArm`, from, shoulder, `${side}UpperArm`)
    const elbow = add(shoulder, rotate(upper, add(scaled(out, armShare * h * 0.5), [0, 0, -0.004 * h])))
    m.add(`${side}LowerArm`, `${side}UpperArm`, elbow, `${side}LowerArm`)
    const wrist = add(elbow, rotate(lower, add(scaled(out, armShare * h * 0.46), [0, 0, 0.008 * h])))
    m.add(`${side}Hand`, `${side}LowerArm`, wrist, `${side}Hand`)
    const hipJoint: Vec3 = [k * 0.055 * h * width, hip, 0]
    const thigh = held(`${side}UpperLeg`)
    const shin = mul(thigh, held(`${side}LowerLeg`))
    m.add(`${side}UpperLeg`, 'hips', hipJoint, `${side}UpperLeg`)
    const knee = add(hipJoint, rotate(thigh, [0, -hip * 0.47, 0.006 * h]))
    m.add(`${side}LowerLeg`, `${side}UpperLeg`, knee, `${side}LowerLeg`)
    const ankle = add(knee, rotate(shin, [0, -hip * 0.45, -0.014 * h]))
    m.add(`${side}Foot`, `${side}LowerLeg`, ankle, `${side}Foot`)
    if (body.toes)
      m.add(`${side}Toes`, `${side}Foot`, add(ankle, rotate(shin, [0, -hip * 0.05, 0.075 * h])), `${side}Toes`)
  }
  return m
}

const mul = (a: Quat, b: Quat): Quat => [
  a[3] * b[0] + a[0] * b[3] + a[1] * b[2] - a[2] * b[1],
  a[3] * b[1] - a[0] * b[2] + a[1] * b[3] + a[2] * b[0],
  a[3] * b[2] + a[0] * b[1] - a[1] * b[0] + a[2] * b[3],
  a[3] * b[3] - a[0] * b[0] - a[1] * b[1] - a[2] * b[2],
]

/** Adds fingers to both hands: joints each, and whether they begin in the palm. */
export function withFingers(
  m: Maker,
  joints: number,
  name: (side: string, finger: string, i: number) => string,
): Maker {
  for (const side of ['left', 'right']) {
    if (!m.has(`${side}Hand`)) continue
    const hand = m.at(`${side}Hand`)
    const out = normalize(sub(hand, m.at(`${side}LowerArm`)))
    const fingers = ['Thumb', 'Index', 'Middle', 'Ring', 'Little']
    fingers.forEach((finger, f) => {
      let above: string | number = `${side}Hand`
      for (let i = 0; i < joints; i++) {
        const along = finger === 'Thumb' ? 0.02 + 0.02 * i : 0.03 + 0.03 * i
        const aside = finger === 'Thumb' ? 0.03 + 0.015 * i : 0.03 - 0.018 * f
        above = m.add(name(side, finger, i), above, add(add(hand, scaled(out, along)), [0, 0, aside]))
      }
    })
  }
  return m
}

/** An animal on four legs: trunk along Z, head ahead. Joints are called by their roles. */
export function animal(
  seed: number,
  { tail = 4, neck = 2, blades = true, toes = true, ears = true }: { tail?: number; neck?: number; blades?: boolean; toes?: boolean; ears?: boolean } = {}, // prettier-ignore
): Maker {
  const random = seededRandom(seed)
  const between = (a: number, b: number): number => a + (b - a) * random()
  const high = between(0.4, 1.5)
  const long = high * between(1, 1.5)
  const m = new Maker(random)
  m.add('hips', '', [0, high, -long / 2], 'hips')
  m.add('spine', 'hips', [0, high * 1.03, -long * 0.15], 'spine')
  m.add('chest', 'spine', [0, high * 1.02, long * 0.25], 'chest')
  let above = 'chest'
  const lift = between(0.2, 0.9)
  for (let i = 0; i < neck; i++) {
    const name = i === 0 ? 'neck' : `neck${i + 1}`
    m.add(name, above, [0, high * (1.05 + (lift * i) / (neck + 1)), long * (0.45 + 0.1 * i)], name)
    above = name
  }
  m.add('head', above, [0, high * (1.05 + lift), long * (0.5 + 0.12 * neck)], 'head')
  m.add('jaw', 'head', [0, high * (1.02 + lift), long * (0.53 + 0.12 * neck)])
  if (ears) for (const k of [1, -1]) m.add(k > 0 ? 'leftEar' : 'rightEar', 'head', [k * 0.05 * high, high * (1.12 + lift), long * (0.5 + 0.12 * neck)]) // prettier-ignore
  above = 'hips'
  for (let i = 0; i < tail; i++) {
    const name = `tail${i + 1}`
    m.add(name, above, [0, high * (0.98 - 0.08 * i), -long * (0.55 + 0.1 * i)], name)
    above = name
  }
  for (const side of ['left', 'right']) {
    const x = (side === 'left' ? 1 : -1) * 0.13 * high
    let from = 'chest'
    if (blades) {
      m.add(`${side}FrontShoulder`, 'chest', [x, high * 0.98, long * 0.3], `${side}FrontShoulder`)
      from = `${side}FrontShoulder`
    }
    m.add(`${side}FrontUpperLeg`, from, [x, high * 0.76, long * 0.42], `${side}FrontUpperLeg`)
    m.add(`${side}FrontLowerLeg`, `${side}FrontUpperLeg`, [x, high * 0.52, long * 0.32], `${side}FrontLowerLeg`)
    m.add(`${side}FrontFoot`, `${side}FrontLowerLeg`, [x, high * 0.2, long * 0.34], `${side}FrontFoot`)
    if (toes) m.add(`${side}FrontToes`, `${side}FrontFoot`, [x, high * 0.04, long * 0.38], `${side}FrontToes`)
    m.add(`${side}HindUpperLeg`, 'hips', [x, high * 0.93, -long * 0.5], `${side}HindUpperLeg`)
    m.add(`${side}HindLowerLeg`, `${side}HindUpperLeg`, [x, high * 0.56, -long * 0.4], `${side}HindLowerLeg`)
    m.add(`${side}HindFoot`, `${side}HindLowerLeg`, [x, high * 0.27, -long * 0.58], `${side}HindFoot`)
    if (toes) m.add(`${side}HindToes`, `${side}HindFoot`, [x, high * 0.04, -long * 0.52], `${side}HindToes`)
  }
  return m
}
