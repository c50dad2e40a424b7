import { add, distance, dot, normalize, scale, sub, type Term, type Vec3 } from '../math'

/** Where the points of a figure are, by landmark id, in shares of its height. */
export type Points = (id: string) => Vec3

/** Something usual about bodies: what it says of the points, and how much bodies differ in it. */
interface Usual {
  readonly of: readonly string[]
  /** Deviations from what is usual, each over its spread. */
  off(at: Points): readonly number[]
}

const SIDES = ['left', 'right'] as const
const middle = (at: Points, part: string): Vec3 => scale(add(at(`left${part}`), at(`right${part}`)), 0.5)
const ratio = (a: number, b: number, usual: number, spread: number): number =>
  Math.log(Math.max(1e-3, a) / Math.max(1e-3, b) / usual) / spread

/** From the hips to the shoulders, unit. */
const trunkWay = (at: Points): Vec3 => normalize(sub(middle(at, 'Shoulder'), middle(at, 'Hip')))
/** Ground to crown. */
const tall = (at: Points): number => Math.max(0.2, at('crown')[1])
/** Chin to crown, as a share of that: about 0.13 for adults, 0.2 for children, up to a half for drawn figures. */
const headShare = (at: Points): number => Math.max(0.05, distance(at('crown'), at('chin')) / tall(at))
const HEAD = ['crown', 'chin'] as const
/** The larger the head, the shorter the limbs: from adults over children to figures of two and a half heads. */
const armOf = (head: number): number => Math.max(0.15, 0.318 - 0.36 * (head - 0.13))
const legOf = (head: number): number => Math.max(0.12, 0.478 - 0.85 * (head - 0.13))

/** What stature a figure is of: giants are far broader than people, with long trunks and arms on short legs. */
export type Stature = 'people' | 'giant'
/** Added for giants, in shares of height. */
const GIANT = { arm: 0.11, leg: -0.085, trunk: 0.14, shoulders: 0.14, hips: 0.036 }
const NOBODY = { arm: 0, leg: 0, trunk: 0, shoulders: 0, hips: 0 }

/**
 * What is usual about standing bodies, as residuals over landmark places in shares of height: lengths of segments to
 * one another and to the whole, both sides alike, joints of trunk and head to their neighbours.
 *
 * Means of adults after Drillis and Contini 1966 (as in Winter, "Biomechanics and motor control of human movement",
 * figure 4.1), joint centres after de Leva 1996, hip centres after Bell, Pedersen and Brand 1990; spreads wide enough
 * for children and drawn figures.
 */
const usualOf = (more: typeof GIANT): readonly Usual[] => [
  ...SIDES.flatMap((s): Usual[] => {
    const [S, E, W, T] = ['Shoulder', 'Elbow', 'Wrist', 'HandTip'].map(p => s + p)
    const [H, K, A, B, Q] = ['Hip', 'Knee', 'Ankle', 'Toes', 'ToeTip'].map(p => s + p)
    const arm = (at: Points): number => distance(at(S), at(E)) + distance(at(E), at(W))
    const leg = (at: Points): number => distance(at(H), at(K)) + distance(at(K), at(A))
    return [
      { of: [S, E, W], off: at => [ratio(distance(at(S), at(E)), distance(at(E), at(W)), 1.1, 0.09)] },
      { of: [S, E, W, ...HEAD], off: at => [ratio(arm(at), tall(at), armOf(headShare(at)) + more.arm, 0.16)] },
      { of: [S, E, W, T], off: at => [ratio(distance(at(W), at(T)), arm(at), 0.335, 0.14)] },
      // a hand goes on the way its forearm does
      {
        of: [E, W, T],
        off: at => scale(sub(normalize(sub(at(T), at(W))), normalize(sub(at(W), at(E)))), 1 / 0.3),
      },
      { of: [H, K, A], off: at => [ratio(distance(at(H), at(K)), distance(at(K), at(A)), 1.0, 0.07)] },
      { of: [H, K, A, ...HEAD], off: at => [ratio(leg(at), tall(at), legOf(headShare(at)) + more.leg, 0.12)] },
      { of: [A], off: at => [(at(A)[1] - 0.042) / 0.012] },
      { of: [B, A], off: at => [(at(B)[1] - 0.32 * at(A)[1]) / 0.008] },
      { of: [Q, B], off: at => [(at(Q)[1] - 0.85 * at(B)[1]) / 0.01] },
      {
        of: [A, B, Q],
        off: at => [
          ratio(
            Math.hypot(at(B)[0] - at(A)[0], at(B)[2] - at(A)[2]),
            Math.hypot(at(Q)[0] - at(A)[0], at(Q)[2] - at(A)[2]),
            0.65,
            0.1,
          ),
          ratio(Math.hypot(at(Q)[0] - at(A)[0], at(Q)[2] - at(A)[2]), tall(at), 0.107, 0.2),
        ],
      },
      // shins stand about upright, and knees about below their hips
      { of: [K, A], off: at => [(at(K)[0] - at(A)[0]) / 0.08, (at(K)[2] - at(A)[2] - 0.01) / 0.09] },
      { of: [H, K], off: at => [(at(H)[0] - at(K)[0]) / 0.08, (at(H)[2] - at(K)[2]) / 0.12] },
      // seen from the front, a leg is straight
      {
        of: [H, K, A],
        off: at => {
          const share = (at(H)[1] - at(K)[1]) / Math.max(1e-3, at(H)[1] - at(A)[1])
          return [(at(K)[0] - at(H)[0] - share * (at(A)[0] - at(H)[0])) / 0.02]
        },
      },
    ]
  }),
  ...(
    [
      ['Shoulder', 'Elbow', 0.03],
      ['Elbow', 'Wrist', 0.03],
      ['Wrist', 'HandTip', 0.05],
      ['Hip', 'Knee', 0.03],
      ['Knee', 'Ankle', 0.03],
      ['Ankle', 'ToeTip', 0.06],
    ] as const
  ).map(([a, b, spread]): Usual => ({
    of: SIDES.flatMap(s => [s + a, s + b]),
    off: at => [ratio(distance(at(`left${a}`), at(`left${b}`)), distance(at(`right${a}`), at(`right${b}`)), 1, spread)],
  })),
  {
    of: ['leftHip', 'rightHip', 'hips', 'leftShoulder', 'rightShoulder'],
    off: at => {
      const [l, r] = [at('leftHip'), at('rightHip')]
      const up = normalize(add([0, 1, 0], trunkWay(at)))
      const d = sub(at('hips'), add(middle(at, 'Hip'), scale(up, 0.026)))
      return [d[0] / 0.008, d[1] / 0.01, d[2] / 0.012, (l[1] - r[1]) / 0.012, (l[2] - r[2]) / 0.012]
    },
  },
  {
    of: ['leftShoulder', 'rightShoulder', 'neckBase', 'leftHip', 'rightHip'],
    off: at => {
      const [l, r] = [at('leftShoulder'), at('rightShoulder')]
      const d = sub(at('neckBase'), add(middle(at, 'Shoulder'), scale(trunkWay(at), 0.043)))
      return [(l[1] - r[1]) / 0.014, (l[2] - r[2]) / 0.014, d[0] / 0.012, d[1] / 0.018, d[2] / 0.02]
    },
  },
  {
    of: ['leftShoulder', 'rightShoulder', 'leftHip', 'rightHip', ...HEAD],
    off: at => [ratio(distance(middle(at, 'Shoulder'), middle(at, 'Hip')), tall(at), 0.292 + more.trunk, 0.13)],
  },
  {
    of: ['leftShoulder', 'rightShoulder', ...HEAD],
    off: at => [ratio(distance(at('leftShoulder'), at('rightShoulder')), tall(at), 0.2 + more.shoulders, 0.17)],
  },
  {
    of: ['leftHip', 'rightHip', ...HEAD],
    off: at => [ratio(distance(at('leftHip'), at('rightHip')), tall(at), 0.102 + more.hips, 0.14)],
  },
  {
    of: ['leftShoulder', 'rightShoulder', 'leftHip', 'rightHip', ...HEAD],
    off: at => [
      (middle(at, 'Shoulder')[0] - middle(at, 'Hip')[0]) / 0.02,
      // backs are upright, or bent forward
      (trunkWay(at)[2] - 0.08) / 0.25,
    ],
  },
  {
    // the neck goes on half upright from where the trunk points
    of: ['skullBase', 'neckBase', 'leftShoulder', 'rightShoulder', 'leftHip', 'rightHip', ...HEAD],
    off: at => {
      const size = headShare(at) * tall(at)
      const way = normalize(add([0, 0.7, 0], trunkWay(at)))
      const d = sub(at('skullBase'), add(at('neckBase'), scale(way, 0.018 + 0.11 * size)))
      return [d[0] / 0.014, d[1] / 0.026, (d[2] - 0.014) / 0.028]
    },
  },
  {
    of: ['skullBase', ...HEAD],
    off: at => {
      const size = headShare(at) * tall(at)
      const s = at('skullBase')
      return [
        (s[1] - at('chin')[1] - 0.28 * size) / (0.006 + 0.05 * size),
        (s[2] - at('chin')[2] + 0.36 * size) / (0.012 + 0.1 * size),
        (s[0] - at('crown')[0]) / 0.012,
        (s[2] - at('crown')[2]) / (0.01 + 0.12 * size),
      ]
    },
  },
  { of: [...HEAD], off: at => [ratio(headShare(at), 1, 0.16, 0.45)] },
  {
    of: ['hips', 'chest', 'neckBase'],
    off: at => {
      const way = sub(at('neckBase'), at('hips'))
      const long = Math.max(0.05, Math.hypot(...way))
      const d = sub(at('chest'), at('hips'))
      const along = dot(d, way) / (long * long)
      const foot = add(at('hips'), scale(way, along))
      return [(along - 0.46) / 0.03, (at('chest')[0] - foot[0]) / 0.008, (at('chest')[2] - foot[2] + 0.002) / 0.016]
    },
  },
  ...['crown', 'chin', 'skullBase', 'neckBase', 'chest', 'hips'].map((id): Usual => ({
    of: [id],
    off: at => [at(id)[0] / 0.03],
  })),
]

const USUAL: Readonly<Record<Stature, readonly Usual[]>> = { people: usualOf(NOBODY), giant: usualOf(GIANT) }

/** Usual proportions as terms over packed places: three unknowns a landmark, in the order of `ids`. */
export function usualTerms(ids: readonly string[], stature: Stature): Term[] {
  const place = new Map(ids.map((id, i) => [id, 3 * i]))
  return USUAL[stature].map(u => ({
    over: u.of.flatMap(id => [0, 1, 2].map(k => place.get(id)! + k)),
    residuals: x =>
      u.off(id => {
        const i = place.get(id)!
        return [x[i], x[i + 1], x[i + 2]]
      }),
  }))
}
