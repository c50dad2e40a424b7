import { seededRandom } from '@chiraxis/core/math'

/** Everything that shapes a made body. Lengths are shares of `height` unless said otherwise, angles degrees. */
export interface Proportions {
  /** Metres. */
  readonly height: number
  readonly headHeight: number
  readonly neckLength: number
  /** Half the distance between the shoulder joints. */
  readonly shoulders: number
  /** Half the distance between the hip joints. */
  readonly hipSpread: number
  /** Height of the hip joints above the ground. */
  readonly legLength: number
  /** Where the knee sits on the way from hip to ankle. */
  readonly kneeShare: number
  readonly ankleHeight: number
  readonly footLength: number
  readonly upperArm: number
  readonly forearm: number
  readonly hand: number
  /** Thickness factors, 1 for a lean adult. */
  readonly torsoGirth: number
  readonly armGirth: number
  readonly legGirth: number
  /** 0: straight out to the sides; 90: hanging. */
  readonly armsDown: number
  readonly armsForward: number
  readonly elbowBend: number
  readonly kneeBend: number
  readonly legsApart: number
  /** Fingers beside the thumb when modelled; 0 makes a mitten with a thumb. */
  readonly fingers: 0 | 3 | 4
  readonly jacket: number
  readonly boots: number
  readonly cap: boolean
}

/** Oda Marl, pilot of the Night Ferry: adult, arms a little down, five fingers. */
export const ODA: Proportions = {
  height: 1.72,
  headHeight: 0.137,
  neckLength: 0.038,
  shoulders: 0.098,
  hipSpread: 0.052,
  legLength: 0.517,
  kneeShare: 0.492,
  ankleHeight: 0.046,
  footLength: 0.15,
  upperArm: 0.165,
  forearm: 0.145,
  hand: 0.108,
  torsoGirth: 1,
  armGirth: 1,
  legGirth: 1,
  armsDown: 22,
  armsForward: 2,
  elbowBend: 7,
  kneeBend: 3,
  legsApart: 4,
  fingers: 4,
  jacket: 1,
  boots: 1,
  cap: true,
}

/** Pim, deckhand: big head, short limbs, mittens, arms straight out. */
export const PIM: Proportions = {
  height: 1.12,
  headHeight: 0.33,
  neckLength: 0.012,
  shoulders: 0.108,
  hipSpread: 0.062,
  legLength: 0.335,
  kneeShare: 0.5,
  ankleHeight: 0.055,
  footLength: 0.17,
  upperArm: 0.125,
  forearm: 0.112,
  hand: 0.095,
  torsoGirth: 1.18,
  armGirth: 1.25,
  legGirth: 1.12,
  armsDown: 0,
  armsForward: 0,
  elbowBend: 4,
  kneeBend: 2,
  legsApart: 3,
  fingers: 0,
  jacket: 0.6,
  boots: 1,
  cap: false,
}

/** A body nobody tuned on: the same seed gives the same body. */
export function variedProportions(seed: number): Proportions {
  const random = seededRandom(seed * 7919 + 17)
  const between = (a: number, b: number): number => a + (b - a) * random()
  const stylised = random() < 0.35 ? between(0.3, 1) : between(0, 0.15)
  const mix = (a: number, b: number): number => a + (b - a) * stylised
  const pick = random()
  return {
    height: between(0.9, 2.1),
    headHeight: mix(0.137, 0.31) * between(0.94, 1.08),
    neckLength: mix(0.042, 0.014) * between(0.75, 1.25),
    shoulders: mix(0.1, 0.107) * between(0.9, 1.12),
    hipSpread: mix(0.052, 0.06) * between(0.88, 1.15),
    legLength: mix(0.517, 0.35) * between(0.96, 1.04),
    kneeShare: between(0.46, 0.54),
    ankleHeight: mix(0.046, 0.055) * between(0.85, 1.15),
    footLength: mix(0.148, 0.165) * between(0.9, 1.1),
    upperArm: mix(0.167, 0.13) * between(0.92, 1.08),
    forearm: mix(0.146, 0.115) * between(0.92, 1.08),
    hand: mix(0.107, 0.095) * between(0.9, 1.12),
    torsoGirth: mix(1, 1.15) * between(0.85, 1.3),
    armGirth: mix(1, 1.22) * between(0.85, 1.3),
    legGirth: mix(1, 1.1) * between(0.85, 1.2),
    armsDown: between(0, 50),
    armsForward: between(-6, 10),
    elbowBend: between(1, 16),
    kneeBend: between(0, 6),
    legsApart: between(3, 9),
    fingers: pick < 0.35 ? 0 : pick < 0.6 ? 3 : 4,
    jacket: between(0, 1.2),
    boots: random() < 0.6 ? between(0.5, 1.2) : 0,
    cap: random() < 0.4,
  }
}
