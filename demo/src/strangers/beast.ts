import { add, addScaled, lerp, normalize, scale, seededRandom, sub, type Vec3 } from '@chiraxis/core/math'
import { boundsOf, joinMeshes, vertexNormals, type Mesh } from '@chiraxis/core/mesh'
import { ball, loft, tube, type LoftOptions, type Ring } from './loft'
import { GRAINS, oneSurface, type MakeKind } from './make'

/** Kinds of four-legged bodies, by what makes them unlike one another. */
export const BEAST_KINDS = [
  'hound',
  'horse',
  'goat',
  'bull',
  'camel',
  'elephant',
  'bear',
  'pig',
  'cat',
  'giraffe',
] as const
export type BeastKind = (typeof BEAST_KINDS)[number]

type Range = readonly [number, number]
/** Lengths are shares of the height of the withers; angles degrees above level. */
interface Shape {
  /** From the hips to above the forelegs. */
  readonly length: Range
  readonly croup: Range
  /** Depth of the trunk at the chest: the belly is as far below the withers. */
  readonly chest: Range
  readonly belly: Range
  readonly wide: Range
  readonly neck: Range
  readonly neckRise: Range
  readonly neckGirth: Range
  readonly head: Range
  readonly headRise: Range
  /** Of the muzzle at its end, as a share of the skull. */
  readonly muzzle: Range
  readonly legGirth: Range
  /** Height of wrist and hock, as shares of elbow and hip. */
  readonly wrist: Range
  readonly hock: Range
  readonly foot: Range
  readonly tail: Range
  readonly tailRise: Range
  readonly ears: Range
  readonly extras?: readonly ('horns' | 'hump' | 'mane' | 'trunk' | 'beard' | 'antlers')[]
}

const HOUND: Shape = {
  length: [0.85, 1.1],
  croup: [0.92, 1.02],
  chest: [0.4, 0.48],
  belly: [0.3, 0.38],
  wide: [0.11, 0.16],
  neck: [0.34, 0.48],
  neckRise: [25, 55],
  neckGirth: [0.09, 0.12],
  head: [0.36, 0.46],
  headRise: [-35, -5],
  muzzle: [0.4, 0.6],
  legGirth: [0.035, 0.05],
  wrist: [0.38, 0.46],
  hock: [0.3, 0.36],
  foot: [0.11, 0.15],
  tail: [0.35, 0.6],
  tailRise: [-50, 60],
  ears: [0.1, 0.2],
}
const SHAPES: Readonly<Record<BeastKind, Shape>> = {
  hound: HOUND,
  horse: {
    ...HOUND,
    neck: [0.5, 0.62],
    neckRise: [30, 60],
    neckGirth: [0.12, 0.15],
    head: [0.38, 0.44],
    headRise: [-65, -35],
    legGirth: [0.035, 0.045],
    wrist: [0.5, 0.56],
    hock: [0.38, 0.43],
    foot: [0.06, 0.09],
    tail: [0.45, 0.6],
    tailRise: [-85, -60],
    ears: [0.08, 0.12],
    extras: ['mane'],
  },
  goat: {
    ...HOUND,
    belly: [0.42, 0.5],
    wide: [0.14, 0.18],
    headRise: [-45, -15],
    foot: [0.07, 0.1],
    tail: [0.1, 0.18],
    tailRise: [20, 60],
    extras: ['horns', 'beard'],
  },
  bull: {
    ...HOUND,
    length: [1, 1.25],
    chest: [0.5, 0.58],
    belly: [0.48, 0.58],
    wide: [0.18, 0.24],
    neck: [0.28, 0.36],
    neckRise: [-35, 10],
    neckGirth: [0.16, 0.21],
    head: [0.36, 0.44],
    headRise: [-70, -30],
    muzzle: [0.6, 0.8],
    legGirth: [0.05, 0.07],
    foot: [0.09, 0.12],
    tail: [0.45, 0.6],
    tailRise: [-88, -75],
    extras: ['horns', 'hump'],
  },
  camel: {
    ...HOUND,
    neck: [0.6, 0.75],
    neckRise: [15, 50],
    head: [0.28, 0.34],
    legGirth: [0.035, 0.05],
    belly: [0.36, 0.44],
    tail: [0.25, 0.35],
    tailRise: [-85, -65],
    extras: ['hump'],
  },
  elephant: {
    ...HOUND,
    length: [0.85, 1],
    croup: [0.9, 1],
    chest: [0.5, 0.58],
    belly: [0.52, 0.6],
    wide: [0.2, 0.26],
    neck: [0.16, 0.22],
    neckRise: [5, 30],
    neckGirth: [0.2, 0.24],
    head: [0.36, 0.42],
    headRise: [-60, -35],
    muzzle: [0.45, 0.55],
    legGirth: [0.085, 0.11],
    wrist: [0.36, 0.42],
    hock: [0.24, 0.3],
    foot: [0.12, 0.16],
    tail: [0.3, 0.4],
    tailRise: [-88, -75],
    ears: [0.25, 0.35],
    extras: ['trunk'],
  },
  bear: {
    ...HOUND,
    chest: [0.5, 0.58],
    belly: [0.48, 0.56],
    wide: [0.19, 0.25],
    neck: [0.24, 0.32],
    neckRise: [-15, 25],
    neckGirth: [0.16, 0.2],
    head: [0.36, 0.42],
    headRise: [-35, -5],
    legGirth: [0.075, 0.1],
    wrist: [0.22, 0.3],
    hock: [0.16, 0.22],
    foot: [0.18, 0.24],
    tail: [0.06, 0.1],
    tailRise: [-60, 0],
    ears: [0.06, 0.09],
  },
  pig: {
    ...HOUND,
    length: [1.1, 1.3],
    chest: [0.56, 0.64],
    belly: [0.6, 0.72],
    wide: [0.2, 0.26],
    neck: [0.18, 0.26],
    neckRise: [-20, 10],
    neckGirth: [0.2, 0.24],
    head: [0.42, 0.5],
    headRise: [-45, -20],
    muzzle: [0.5, 0.7],
    legGirth: [0.045, 0.06],
    foot: [0.09, 0.12],
    tail: [0.12, 0.2],
    tailRise: [0, 60],
    ears: [0.1, 0.16],
  },
  cat: {
    ...HOUND,
    length: [1, 1.3],
    neck: [0.28, 0.36],
    neckRise: [5, 45],
    head: [0.28, 0.36],
    headRise: [-30, -10],
    muzzle: [0.6, 0.75],
    tail: [0.7, 1.05],
    tailRise: [-60, 80],
    ears: [0.08, 0.13],
  },
  giraffe: {
    ...HOUND,
    length: [0.55, 0.7],
    croup: [0.82, 0.9],
    chest: [0.32, 0.38],
    belly: [0.26, 0.32],
    neck: [0.75, 0.95],
    neckRise: [50, 75],
    neckGirth: [0.08, 0.1],
    head: [0.24, 0.3],
    headRise: [-50, -25],
    legGirth: [0.026, 0.034],
    wrist: [0.48, 0.54],
    hock: [0.36, 0.42],
    foot: [0.05, 0.07],
    tail: [0.35, 0.45],
    tailRise: [-88, -75],
  },
}

/** A made four-legged body and what is true of it: joints by role, `…End` for tips, metres, facing +Z on the ground. */
export interface Beast {
  readonly kind: BeastKind
  readonly make: MakeKind
  readonly mesh: Mesh
  readonly joints: Readonly<Record<string, Vec3>>
  readonly height: number
}

const rad = Math.PI / 180
const way = (rise: number): Vec3 => [0, Math.sin(rise * rad), Math.cos(rise * rad)]

/** Makes the four-legged stranger of a seed: the same one every time. What is not asked for is drawn. */
export async function makeBeast(seed: number, wanted: Partial<Pick<Beast, 'kind' | 'make'>> = {}): Promise<Beast> {
  const random = seededRandom(seed * 8123 + 5)
  const one = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]
  const kind = wanted.kind ?? one(BEAST_KINDS)
  const make = wanted.make ?? one(['smooth pieces', 'low-poly', 'boxy', 'one surface', 'scan'] as const)
  const s = SHAPES[kind]
  const of = ([a, b]: Range): number => a + (b - a) * random()
  const W = 0.4 + 1.6 * random()
  const J: Record<string, Vec3> = {}
  const put = (role: string, x: number, y: number, z: number): Vec3 => (J[role] = [x * W, y * W, z * W])
  const length = of(s.length),
    croup = of(s.croup),
    chest = of(s.chest),
    belly = of(s.belly),
    wide = of(s.wide),
    girth = of(s.legGirth)
  const [zf, zh] = [length / 2, -length / 2]
  const hips = put('hips', 0, croup - 0.1, zh)
  put('spine', 0, lerp([0, croup - 0.09, 0], [0, 0.91, 0], 0.4)[1], zh + 0.42 * length)
  const ribs = put('chest', 0, 0.89, zf - 0.08)
  const neck = put('neck', 0, 0.88, zf + 0.1)
  const skull = (J.head = addScaled(neck, way(of(s.neckRise)), of(s.neck) * W))
  const headWay = way(of(s.headRise))
  const head = of(s.head) * W
  const nose = (J.headEnd = addScaled(skull, headWay, head))
  const up = normalize([0, headWay[2], -headWay[1]])
  J.crown = add(addScaled(skull, headWay, 0.18 * head), scale(up, 0.25 * head))
  const tailWay = of(s.tailRise),
    tailLong = of(s.tail) * W
  const tail = put('tail1', 0, croup - 0.06, zh - 0.13)
  const middle = (J.tailMiddle = add(
    tail,
    scale([0, Math.sin(0.6 * tailWay * rad), -Math.cos(0.6 * tailWay * rad)], 0.5 * tailLong),
  ))
  J.tailEnd = add(middle, scale([0, Math.sin(tailWay * rad), -Math.cos(tailWay * rad)], 0.5 * tailLong))

  const grain = GRAINS[make]
  const round: LoftOptions = { sides: Math.max(8, grain.sides), square: grain.square }
  const ring = (at: Vec3, w: number, a: number, b = a): Ring => ({ at, wide: w, ahead: a, behind: b })
  // a trunk lies: rings stand upright, `ahead` up
  const line = (z: number, top: number, low: number, w: number): Ring =>
    ring([0, ((top + low) / 2) * W, z * W], w * W, ((top - low) / 2) * W)
  const pieces: Mesh[] = [
    loft(
      'trunk',
      [
        line(zh - 0.16, croup - 0.04, croup - 0.22, 0.3 * wide),
        line(zh - 0.1, croup, croup - 0.36, 0.75 * wide),
        line(zh + 0.06, croup + 0.005, croup - belly, wide),
        line(zh + 0.45 * length, 0.96, 0.96 - belly, 1.02 * wide),
        line(zf - 0.18, 0.98, 0.98 - chest, 1.05 * wide),
        line(zf, 1, 1 - chest, wide),
        line(zf + 0.1, 0.98, 1.06 - chest, 0.8 * wide),
        line(zf + 0.18, 0.9, 1.12 - chest, 0.4 * wide),
      ],
      { ...round, front: [0, 1, 0] },
    ),
  ]
  const g = of(s.neckGirth) * W
  pieces.push(
    loft(
      'neck',
      [
        ring(lerp(ribs, neck, 0.3), 1.15 * g, 1.5 * g),
        ring(neck, g, 1.35 * g),
        ring(lerp(neck, skull, 0.5), 0.8 * g, 1.05 * g),
        ring(skull, 0.7 * g, 0.85 * g),
      ],
      { ...round, front: [0, 1, 0] },
    ),
  )
  const m = of(s.muzzle)
  const r = 0.27 * head
  pieces.push(
    loft(
      'head',
      [
        ring(addScaled(skull, headWay, -0.1 * head), 0.45 * r, 0.5 * r),
        ring(addScaled(skull, headWay, 0.06 * head), 0.9 * r, 0.95 * r),
        ring(addScaled(skull, headWay, 0.28 * head), r, r),
        ring(addScaled(skull, headWay, 0.55 * head), lerp([r, 0, 0], [m * r, 0, 0], 0.6)[0], 0.8 * r),
        ring(addScaled(skull, headWay, 0.9 * head), m * r, m * r),
        ring(nose, 0.5 * m * r, 0.5 * m * r),
      ],
      { ...round, front: up },
    ),
  )
  const [wrist, hock, foot] = [of(s.wrist), of(s.hock), of(s.foot)]
  for (const side of ['left', 'right'] as const) {
    const x = side === 'left' ? 1 : -1
    const out = x * Math.max(0.6 * wide, 1.25 * girth)
    const elbowY = Math.min(0.56, 1.02 - chest + 0.1)
    const step = 0.05 * (random() - 0.5)
    const f = zf + step
    const front = [
      put(`${side}FrontShoulder`, x * 0.45 * wide, 0.93, zf - 0.04),
      put(`${side}FrontUpperLeg`, x * 0.75 * wide, 0.5 * (0.93 + elbowY), zf + 0.1),
      put(`${side}FrontLowerLeg`, out, elbowY, f - 0.04),
      put(`${side}FrontFoot`, out, wrist * elbowY, f),
      put(`${side}FrontToes`, out, 0.07, f + 0.1 * foot),
    ]
    const tip = put(`${side}FrontToesEnd`, out, 0, f + 0.1 * foot + 0.6 * foot)
    const hz = zh - step
    const hipY = croup - 0.16
    const hind = [
      put(`${side}HindUpperLeg`, x * 0.6 * wide, hipY, hz + 0.02),
      put(`${side}HindLowerLeg`, out, hipY * lerp([hock, 0, 0], [1, 0, 0], 0.52)[0], hz + 0.1),
      put(`${side}HindFoot`, out, hock * hipY, hz - 0.11),
      put(`${side}HindToes`, out, 0.06, hz - 0.11 + 0.25 * foot),
    ]
    const hindTip = put(`${side}HindToesEnd`, out, 0, hz - 0.11 + 0.85 * foot)
    const q = girth * W
    const low = (p: Vec3, by: number): Vec3 => [p[0], by * W, p[2]]
    const fat = Math.min(2.2, (0.5 * chest) / girth / 2.4)
    pieces.push(
      tube(
        `${side} foreleg`,
        [
          front[1],
          front[2],
          lerp(front[2], front[3], 0.5),
          front[3],
          lerp(front[3], front[4], 0.6),
          front[4],
          low(front[4], 0.015),
        ],
        [1.2 * fat * q, Math.max(1.25, 0.8 * fat) * q, 0.95 * q, 0.85 * q, 0.72 * q, 0.85 * q, 0.9 * q],
        { ...round, front: [0, 0, 1] },
      ),
      tube(
        `${side} hind leg`,
        [
          hind[0],
          hind[1],
          lerp(hind[1], hind[2], 0.5),
          hind[2],
          lerp(hind[2], hind[3], 0.6),
          hind[3],
          low(hind[3], 0.015),
        ],
        [1.5 * fat * q, 1.3 * Math.max(1, 0.8 * fat) * q, 1.05 * q, 0.85 * q, 0.75 * q, 0.85 * q, 0.9 * q],
        { ...round, front: [0, 0, 1] },
      ),
    )
    for (const [name, toes, end] of [
      ['forepaw', front[4], tip],
      ['hind paw', hind[3], hindTip],
    ] as const)
      pieces.push(
        loft(
          `${side} ${name}`,
          [
            ring(addScaled(low(toes, 0.03), [0, 0, 1], -0.9 * q), 0.9 * q, 0.03 * W),
            ring(low(toes, 0.035), 1.05 * q, 0.035 * W),
            ring(low(end, 0.015), 0.75 * q, 0.015 * W),
          ],
          { ...round, front: [0, 1, 0] },
        ),
      )
    const ear = of(s.ears) * W
    const base = add(addScaled(skull, headWay, 0.1 * head), [x * 0.75 * r, 0.7 * r, 0])
    const flap = kind === 'elephant'
    const earWay = flap ? normalize([x, -0.35, -0.35]) : normalize([x * 0.5, 1, -0.3])
    J[`${side}Ear`] = base
    J[`${side}EarEnd`] = addScaled(base, earWay, ear)
    pieces.push(
      tube(
        `${side} ear`,
        [base, addScaled(base, earWay, 0.5 * ear), J[`${side}EarEnd`]],
        flap ? [0.3 * ear, 0.55 * ear, 0.2 * ear] : [0.25 * ear, 0.22 * ear, 0.05 * ear],
        { ...round, front: [0, 0, 1] },
      ),
    )
    if (s.extras?.includes('horns')) {
      const horn = addScaled(base, [0, 1, 0], 0.1 * r)
      const long = (0.12 + 0.25 * random()) * W
      pieces.push(
        tube(
          `${side} horn`,
          [horn, add(horn, [x * 0.4 * long, 0.5 * long, -0.1 * long]), add(horn, [x * 0.5 * long, long, 0.1 * long])],
          [0.16 * r, 0.12 * r, 0.03 * r],
          { ...round, sides: 8, front: [0, 0, 1] },
        ),
      )
    }
  }
  if (s.extras?.includes('hump')) {
    const at = kind === 'bull' ? zf - 0.05 : zh + (0.35 + 0.3 * random()) * length
    pieces.push(
      ball('hump', [0, 0.97 * W, at * W], [0.6 * wide * W, (0.1 + 0.12 * random()) * W, 0.18 * W], round.sides),
    )
  }
  if (s.extras?.includes('mane'))
    pieces.push(
      loft(
        'mane',
        [0, 0.35, 0.7, 1].map(t =>
          ring(add(lerp(neck, skull, t), scale([0, 0.85, -0.5], g * (1.25 - 0.4 * t))), 0.25 * g, 0.5 * g),
        ),
        { ...round, front: [0, 1, 0] },
      ),
    )
  if (s.extras?.includes('beard'))
    pieces.push(
      tube(
        'beard',
        [0, 0.5, 1].map(t => add(addScaled(skull, headWay, 0.6 * head), [0, -(0.5 + 1.1 * t) * r, 0.1 * r])),
        [0.3 * r, 0.22 * r, 0.05 * r],
        { ...round, sides: 8, front: [0, 0, 1] },
      ),
    )
  if (s.extras?.includes('trunk')) {
    const low = 0.06 + 0.35 * random()
    const points = [0, 0.25, 0.5, 0.75, 1].map((t): Vec3 => [
      0,
      lerp([0, nose[1], 0], [0, low * W, 0], t)[1],
      nose[2] + (0.06 * Math.sin(Math.PI * t) + 0.05 * t) * W,
    ])
    pieces.push(
      tube(
        'trunk of the nose',
        [addScaled(skull, headWay, 0.5 * head), ...points],
        [0.8 * r, 0.6 * r, 0.5 * r, 0.4 * r, 0.32 * r, 0.25 * r],
        { ...round, front: [0, 0, 1] },
      ),
    )
    for (const x of [1, -1])
      pieces.push(
        tube(
          'tusk',
          [
            addScaled(nose, [x, 0, 0], 0.4 * r),
            add(nose, [x * 0.5 * r, -0.5 * r, 0.8 * r]),
            add(nose, [x * 0.5 * r, -0.2 * r, 1.8 * r]),
          ],
          [0.14 * r, 0.12 * r, 0.03 * r],
          { ...round, sides: 8, front: [0, 1, 0] },
        ),
      )
  }
  pieces.push(
    tube('tail', [lerp(hips, tail, 0.5), tail, middle, J.tailEnd], [0.05 * W, 0.04 * W, 0.028 * W, 0.012 * W], {
      ...round,
      front: [1, 0, 0],
    }),
  )
  let mesh = joinMeshes(pieces)
  if (make === 'one surface' || make === 'scan') mesh = await oneSurface(mesh, make === 'scan', seed)
  const ground = boundsOf(mesh.positions).min[1]
  const positions = mesh.positions.slice()
  for (let i = 1; i < positions.length; i += 3) positions[i] -= ground
  const joints = Object.fromEntries(Object.entries(J).map(([role, at]) => [role, sub(at, [0, ground, 0])]))
  return {
    kind,
    make,
    mesh: { ...mesh, positions, normals: vertexNormals(positions, mesh.indices) },
    joints,
    height: boundsOf(positions).max[1],
  }
}
