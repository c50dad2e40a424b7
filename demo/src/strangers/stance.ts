/** How a figure stands; angles in degrees. */
export interface Stance {
  readonly kind: StanceKind
  /** 0: straight out; 90: hanging; below 0: raised. */
  readonly armDown: readonly [left: number, right: number]
  readonly armForward: readonly [number, number]
  readonly elbow: readonly [number, number]
  /** Which way the forearm goes at the elbow: 0 ahead, 90 up, -90 down. */
  readonly elbowTurn: number
  readonly legsApart: readonly [number, number]
  /** Thigh forward. */
  readonly thigh: readonly [number, number]
  readonly knee: readonly [number, number]
  readonly toesOut: number
  /** Trunk forward over all of the spine, and its tilt to the left. */
  readonly lean: number
  readonly pelvisTilt: number
  readonly shoulderTilt: number
  readonly headDown: number
}

export const STANCE_KINDS = [
  't-pose',
  'a-pose',
  'arms down',
  'arms raised',
  'elbows bent',
  'contrapposto',
  'wide',
  'crouch',
] as const
export type StanceKind = (typeof STANCE_KINDS)[number]

export function drawStance(kind: StanceKind, random: () => number): Stance {
  const within = (a: number, b: number): number => a + (b - a) * random()
  const plain = {
    kind,
    armForward: [within(-4, 8), within(-4, 8)] as const,
    elbow: [within(0, 14), within(0, 14)] as const,
    elbowTurn: within(-15, 15),
    legsApart: [within(1, 6), within(1, 6)] as const,
    thigh: [within(-1, 3), within(-1, 3)] as const,
    knee: [within(1, 6), within(1, 6)] as const,
    toesOut: within(0, 14),
    lean: within(-2, 3),
    pelvisTilt: 0,
    shoulderTilt: 0,
    headDown: within(-4, 6),
  }
  const even = (a: number, b: number): readonly [number, number] => {
    const v = within(a, b)
    return [v + within(-2, 2), v + within(-2, 2)]
  }
  const alike = { ...plain, armDown: even(25, 55) }
  if (kind === 't-pose') return { ...alike, armDown: even(-4, 10), elbow: [within(0, 6), within(0, 6)] }
  if (kind === 'a-pose') return alike
  if (kind === 'arms down') return { ...alike, armDown: even(72, 86), elbow: [within(3, 20), within(3, 20)] }
  if (kind === 'arms raised') return { ...alike, armDown: even(-65, -25) }
  if (kind === 'elbows bent')
    return {
      ...alike,
      armDown: [within(20, 75), within(20, 75)],
      elbow: [within(50, 95), within(50, 95)],
      elbowTurn: within(-30, 60),
    }
  if (kind === 'contrapposto') {
    const s = random() < 0.5 ? 1 : -1
    return {
      ...alike,
      armDown: [within(50, 78), within(50, 78)],
      elbow: [within(5, 40), within(5, 40)],
      pelvisTilt: s * within(3, 7),
      shoulderTilt: -s * within(2, 6),
      legsApart: [within(3, 9), within(3, 9)],
      thigh: s > 0 ? [within(8, 16), 0] : [0, within(8, 16)],
    }
  }
  if (kind === 'wide')
    return { ...alike, armDown: even(0, 60), legsApart: even(14, 26), knee: [within(2, 18), within(2, 18)] }
  return {
    ...alike,
    armDown: even(20, 60),
    elbow: [within(20, 70), within(20, 70)],
    legsApart: even(6, 18),
    thigh: even(25, 50),
    knee: even(45, 85),
    lean: within(10, 30),
    headDown: within(-15, 0),
  }
}
