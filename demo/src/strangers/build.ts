/**
 * How people and made-up figures are built. Lengths are shares of the bare height (ground to the top of the skull).
 *
 * Means of adults: stature shares of Drillis and Contini 1966 as in Winter, "Biomechanics and motor control of human
 * movement", table 4.1 and figure 4.1; joint centres after de Leva 1996, "Adjustments to Zatsiorsky-Seluyanov's
 * segment inertia parameters"; hip centres inside the pelvis after Bell, Pedersen and Brand 1990 (about 0.36 of the
 * width between the iliac spines from the midline, well above the fork); children after the canon of five to seven
 * heads, others drawn freely.
 */
export interface Build {
  readonly kind: BuildKind
  /** Metres. */
  readonly height: number
  /** Chin to the top of the skull. */
  readonly head: number
  /** Chin above the shoulder joints. */
  readonly neck: number
  readonly shoulderSpread: number
  readonly hipSpread: number
  /** Hip joints above the ground, standing. */
  readonly hip: number
  /** From the hip joint down to the fork. */
  readonly fork: number
  readonly thighShare: number
  readonly ankle: number
  readonly foot: number
  readonly upperArm: number
  readonly forearm: number
  readonly hand: number
  readonly girth: number
  readonly armGirth: number
  readonly legGirth: number
  readonly belly: number
  /** How far the back is bent forward, degrees over the whole spine. */
  readonly hunch: number
  readonly hands: 'five' | 'four' | 'mitten' | 'block'
}

export const BUILD_KINDS = ['man', 'woman', 'heavy', 'child', 'toddler', 'chibi', 'ogre', 'lanky', 'elder'] as const
export type BuildKind = (typeof BUILD_KINDS)[number]

type Range = readonly [number, number]
interface Ranges {
  readonly height: Range
  readonly head: Range
  readonly neck: Range
  readonly shoulders: Range
  readonly hips: Range
  readonly hip: Range
  readonly arm: Range
  readonly hand: Range
  readonly foot: Range
  readonly girth: Range
  readonly arms: Range
  readonly legs: Range
  readonly belly: Range
  readonly hunch: Range
}

const MAN: Ranges = {
  height: [1.62, 1.95],
  head: [0.122, 0.138],
  neck: [0.042, 0.062],
  shoulders: [0.096, 0.112],
  hips: [0.046, 0.053],
  hip: [0.508, 0.54],
  arm: [0.305, 0.335],
  hand: [0.102, 0.114],
  foot: [0.142, 0.158],
  girth: [0.92, 1.12],
  arms: [0.9, 1.3],
  legs: [0.9, 1.15],
  belly: [0, 0.15],
  hunch: [0, 6],
}
const RANGES: Readonly<Record<BuildKind, Ranges>> = {
  man: MAN,
  woman: {
    ...MAN,
    height: [1.5, 1.8],
    shoulders: [0.09, 0.1],
    hips: [0.049, 0.057],
    hip: [0.498, 0.532],
    arm: [0.295, 0.325],
    girth: [0.84, 1],
    arms: [0.78, 1],
    legs: [0.9, 1.12],
    hand: [0.098, 0.108],
  },
  heavy: { ...MAN, girth: [1.2, 1.55], arms: [1.15, 1.6], legs: [1.1, 1.4], belly: [0.4, 1], neck: [0.03, 0.05] },
  child: {
    ...MAN,
    height: [1, 1.4],
    head: [0.155, 0.2],
    neck: [0.03, 0.045],
    shoulders: [0.088, 0.1],
    hip: [0.46, 0.5],
    arm: [0.285, 0.315],
    girth: [0.95, 1.15],
    arms: [0.9, 1.15],
    legs: [0.9, 1.15],
    hand: [0.095, 0.11],
  },
  toddler: {
    ...MAN,
    height: [0.75, 0.98],
    head: [0.21, 0.26],
    neck: [0.016, 0.03],
    shoulders: [0.09, 0.105],
    hips: [0.05, 0.058],
    hip: [0.39, 0.44],
    arm: [0.25, 0.29],
    girth: [1.1, 1.3],
    arms: [1, 1.3],
    legs: [1, 1.25],
    belly: [0.2, 0.5],
    hand: [0.085, 0.1],
  },
  chibi: {
    ...MAN,
    height: [0.6, 1.2],
    head: [0.33, 0.46],
    neck: [0.008, 0.02],
    shoulders: [0.085, 0.115],
    hips: [0.05, 0.065],
    hip: [0.25, 0.34],
    arm: [0.19, 0.25],
    girth: [1, 1.3],
    arms: [1, 1.5],
    legs: [1, 1.4],
    hand: [0.07, 0.11],
    foot: [0.12, 0.18],
  },
  ogre: {
    ...MAN,
    height: [2.2, 3.6],
    head: [0.1, 0.14],
    neck: [0.0, 0.02],
    shoulders: [0.14, 0.19],
    hips: [0.06, 0.08],
    hip: [0.4, 0.47],
    arm: [0.38, 0.5],
    girth: [1.3, 1.8],
    arms: [1.6, 2.3],
    legs: [1.3, 1.8],
    belly: [0.1, 0.8],
    hunch: [14, 42],
    hand: [0.12, 0.16],
    foot: [0.15, 0.2],
  },
  lanky: {
    ...MAN,
    height: [1.7, 2.4],
    head: [0.11, 0.16],
    neck: [0.06, 0.1],
    shoulders: [0.075, 0.1],
    hips: [0.038, 0.05],
    hip: [0.52, 0.57],
    arm: [0.34, 0.42],
    girth: [0.6, 0.85],
    arms: [0.5, 0.75],
    legs: [0.5, 0.75],
    hand: [0.11, 0.15],
  },
  elder: { ...MAN, height: [1.45, 1.75], hunch: [12, 35], girth: [0.85, 1.15], neck: [0.035, 0.05] },
}

/** Draws a build of a kind. */
export function drawBuild(kind: BuildKind, random: () => number): Build {
  const r = RANGES[kind]
  const within = ([a, b]: Range): number => a + (b - a) * random()
  const hip = within(r.hip)
  const arm = within(r.arm)
  const upper = 0.5 + 0.05 * random()
  const grown = kind !== 'chibi' && kind !== 'toddler'
  const fingers = random()
  return {
    kind,
    height: within(r.height),
    head: within(r.head),
    neck: within(r.neck),
    shoulderSpread: within(r.shoulders),
    hipSpread: within(r.hips),
    hip,
    fork: (0.072 + 0.036 * random()) * hip,
    thighShare: 0.475 + 0.055 * random(),
    ankle: (grown ? 0.036 : 0.04) + 0.012 * random(),
    foot: within(r.foot),
    upperArm: arm * upper,
    forearm: arm * (1 - upper),
    hand: within(r.hand),
    girth: within(r.girth),
    armGirth: within(r.arms),
    legGirth: within(r.legs),
    belly: within(r.belly),
    hunch: within(r.hunch),
    hands: grown
      ? fingers < 0.62
        ? 'five'
        : fingers < 0.76
          ? 'four'
          : fingers < 0.9
            ? 'mitten'
            : 'block'
      : fingers < 0.3
        ? 'five'
        : fingers < 0.5
          ? 'four'
          : fingers < 0.8
            ? 'mitten'
            : 'block',
  }
}
