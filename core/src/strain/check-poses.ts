import type { Vec3 } from '../math'
import type { PoseTurn } from '../skeleton'

export type TurnAxis = 'x' | 'y' | 'z' | 'hinge' | 'bone' | 'curl' | 'fan'

/**
 * One turn of a pose. Axes are the body's: x to its left, y up, z ahead; `hinge` is the joint's own bend
 * (positive bends the natural way), `bone` the line of the bone that carries it, `curl` towards the palm and `fan`
 * towards the thumb within it. What is told for the left is mirrored for the right. `toward` brings the bone of the joint into a direction, from wherever it rests.
 */
export type Turn =
  | { readonly part: string; readonly about: TurnAxis; readonly degrees: number }
  | { readonly part: string; readonly toward: Vec3 }
  /** One joint by its role or name, as far as it is told; nothing is mirrored. */
  | PoseTurn

export type PoseGroup = 'arms' | 'hands' | 'legs' | 'trunk' | 'head' | 'whole' | 'walk' | 'chains' | 'own'

/** A pose that drives joints to the end of their range. Parts without a side are turned on both sides. */
export interface CheckPose {
  readonly id: string
  readonly label: string
  readonly group: PoseGroup
  readonly turns: readonly Turn[]
}

const pose = (id: string, label: string, group: PoseGroup, ...turns: Turn[]): CheckPose => ({ id, label, group, turns })
const turn = (part: string, about: TurnAxis, degrees: number): Turn => ({ part, about, degrees })
const toward = (part: string, x: number, y: number, z: number): Turn => ({ part, toward: [x, y, z] })
/** A raised arm lifts the shoulder girdle one degree for every two of its own (Inman, Saunders and Abbott 1944). */
const GIRDLE = 30

/**
 * Ends of the usual ranges of motion in degrees, after the American Academy of Orthopaedic Surgeons 1965,
 * "Joint motion: method of measuring and recording": shoulder 180 up, 60 back; elbow 150; forearm 80 either way;
 * wrist 80 down, 70 up; finger joints 90, 100, 80; hip 120 ahead, 30 back, 45 out; knee 135; ankle 20 up, 50 down;
 * trunk 80 ahead, 30 back, 35 aside, 45 turned; neck 45 ahead and back, 60 turned, 45 aside.
 */
export const CHECK_POSES: readonly CheckPose[] = [
  pose('arms-out', 'Arms out', 'arms', toward('UpperArm', 1, 0, 0)),
  pose('arms-down', 'Arms down', 'arms', turn('Shoulder', 'z', -6), toward('UpperArm', 0.12, -1, 0)),
  pose('arms-up', 'Arms up', 'arms', turn('Shoulder', 'z', GIRDLE), toward('UpperArm', 0.72, 0.7, 0)),
  pose('arms-ahead', 'Arms ahead', 'arms', turn('Shoulder', 'y', -15), toward('UpperArm', 0.2, 0, 1)),
  pose('arms-back', 'Arms back', 'arms', turn('Shoulder', 'y', 10), toward('UpperArm', 0.3, -0.7, -0.75)),
  pose(
    'arms-crossed',
    'Arms crossed',
    'arms',
    turn('Shoulder', 'y', -15),
    toward('UpperArm', 0.05, -0.35, 1),
    turn('LowerArm', 'hinge', 100),
  ),
  pose('elbows-bent', 'Elbows bent', 'arms', turn('LowerArm', 'hinge', 140)),
  pose('palms-down', 'Forearms turned in', 'arms', turn('Hand', 'bone', 75)),
  pose('palms-up', 'Forearms turned out', 'arms', turn('Hand', 'bone', -75)),
  pose('wrists-down', 'Wrists down', 'hands', turn('Hand', 'curl', 75)),
  pose('wrists-up', 'Wrists up', 'hands', turn('Hand', 'curl', -65)),
  pose(
    'fists',
    'Fists',
    'hands',
    turn('Proximal', 'curl', 85),
    turn('Intermediate', 'curl', 95),
    turn('Distal', 'curl', 65),
    turn('ThumbMetacarpal', 'curl', 20),
    turn('ThumbProximal', 'fan', -40),
    turn('ThumbDistal', 'fan', -45),
  ),
  pose(
    'fingers-spread',
    'Fingers spread',
    'hands',
    turn('IndexProximal', 'fan', 14),
    turn('RingProximal', 'fan', -10),
    turn('LittleProximal', 'fan', -18),
    turn('ThumbMetacarpal', 'fan', 15),
  ),
  pose(
    'squat',
    'Squat',
    'legs',
    turn('UpperLeg', 'x', -115),
    turn('LowerLeg', 'hinge', 130),
    turn('Foot', 'x', -18),
    turn('trunk', 'x', 25),
    toward('UpperArm', 0.25, -0.2, 1),
  ),
  pose('sitting', 'Sitting', 'legs', turn('UpperLeg', 'x', -90), turn('LowerLeg', 'hinge', 90)),
  pose(
    'leg-ahead',
    'Leg ahead',
    'legs',
    turn('leftUpperLeg', 'x', -110),
    turn('rightUpperLeg', 'x', 25),
    turn('rightLowerLeg', 'hinge', 20),
  ),
  pose(
    'leg-back',
    'Leg back',
    'legs',
    turn('leftUpperLeg', 'x', 28),
    turn('leftLowerLeg', 'hinge', 100),
    turn('rightUpperLeg', 'x', -20),
  ),
  pose('legs-apart', 'Legs apart', 'legs', turn('UpperLeg', 'z', 42)),
  pose(
    'legs-crossed',
    'Legs crossed',
    'legs',
    turn('leftUpperLeg', 'z', -18),
    turn('leftUpperLeg', 'x', -35),
    turn('rightUpperLeg', 'z', -12),
  ),
  pose('thighs-turned', 'Thighs turned out', 'legs', turn('UpperLeg', 'bone', -35), turn('UpperLeg', 'x', -30)),
  pose('knees-bent', 'Knees bent', 'legs', turn('LowerLeg', 'hinge', 130)),
  pose('toes-up', 'Feet up', 'legs', turn('Foot', 'x', -18), turn('Toes', 'x', -45)),
  pose('toes-down', 'Feet down', 'legs', turn('Foot', 'x', 45), turn('Toes', 'x', 20)),
  pose('bend-ahead', 'Bent ahead', 'trunk', turn('trunk', 'x', 75)),
  pose('bend-back', 'Bent back', 'trunk', turn('trunk', 'x', -30)),
  pose('bend-aside', 'Bent aside', 'trunk', turn('trunk', 'z', -34)),
  pose('turned', 'Trunk turned', 'trunk', turn('trunk', 'y', 42)),
  pose('head-down', 'Head down', 'head', turn('nape', 'x', 42)),
  pose('head-back', 'Head back', 'head', turn('nape', 'x', -42)),
  pose('head-turned', 'Head turned', 'head', turn('nape', 'y', 60)),
  pose('head-aside', 'Head aside', 'head', turn('nape', 'z', 38)),
]

/**
 * Eight moments of a step, in degrees at even shares of the gait cycle, read off the normative curves of natural
 * walking in Winter 1991, "The biomechanics and motor control of human gait": hip, knee, ankle of one leg.
 */
const HIP = [22, 18, 7, -4, -11, -2, 17, 24]
const KNEE = [4, 16, 11, 5, 10, 40, 60, 28]
const ANKLE = [0, -3, 5, 9, 4, -16, -4, 1]

export const WALK_POSES: readonly CheckPose[] = HIP.map((_, i) => {
  const other = (i + 4) % 8
  const swing = (18 * (HIP[other] - HIP[i])) / 35
  return pose(
    `walk-${i + 1}`,
    `Walk ${i + 1} of 8`,
    'walk',
    ...(['left', 'right'] as const).flatMap((side, s) => {
      const at = s === 0 ? i : other
      return [
        turn(`${side}UpperLeg`, 'x', -HIP[at]),
        turn(`${side}LowerLeg`, 'hinge', KNEE[at]),
        turn(`${side}Foot`, 'x', -ANKLE[at]),
        toward(`${side}UpperArm`, 0.14, -1, ((s === 0 ? 1 : -1) * swing) / 57),
        turn(`${side}LowerArm`, 'hinge', 18),
      ]
    }),
    turn('trunk', 'y', -0.25 * swing),
  )
})

/** Every pose of the check, in the order they are played. */
export const ALL_POSES: readonly CheckPose[] = [...CHECK_POSES, ...WALK_POSES]
