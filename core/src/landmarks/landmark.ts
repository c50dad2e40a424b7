import { FINGERS, fingerJoints } from '../body'
import type { Vec3 } from '../math'

export type Side = 'left' | 'right' | 'middle'

/** What a landmark of the biped plan is: its words, its side, and the joint it places. */
export interface LandmarkKind {
  readonly id: string
  readonly label: string
  readonly group: string
  readonly side: Side
  /** The joint role placed here, by VRM name; none for points that only bound the body. */
  readonly role?: string
  /** One sentence for a newcomer. */
  readonly hint: string
}

/** A found or placed landmark, metres in the straightened body. */
export interface Landmark {
  readonly id: string
  readonly position: Vec3
  /** 0..1; under 0.6 is told as a guess. */
  readonly confidence: number
}

const middle = (id: string, label: string, group: string, role: string | undefined, hint: string): LandmarkKind => ({
  id,
  label,
  group,
  side: 'middle',
  role,
  hint,
})

const paired = (part: string, word: string, limb: string, role: string | undefined, hint: string): LandmarkKind[] =>
  (['left', 'right'] as const).map(side => ({
    id: side + part,
    label: `${side === 'left' ? 'Left' : 'Right'} ${word}`,
    group: `${side === 'left' ? 'Left' : 'Right'} ${limb}`,
    side,
    role: role && side + role,
    hint,
  }))

const bySide = (kinds: LandmarkKind[][]): LandmarkKind[] => [...kinds.map(k => k[0]), ...kinds.map(k => k[1])]

/** Landmarks of the biped plan, in the order of the ledger. */
export const BIPED_LANDMARKS: readonly LandmarkKind[] = [
  middle('crown', 'Crown', 'Head', undefined, 'The highest point of the head, hair and hats not counted.'),
  middle('chin', 'Chin', 'Head', undefined, 'The lowest point of the jaw, at the front.'),
  middle('skullBase', 'Skull base', 'Head', 'head', 'Where the skull sits on the neck, level with the ear lobes.'),
  middle(
    'neckBase',
    'Neck base',
    'Trunk',
    'neck',
    'Where the neck comes out of the shoulders, in the middle of the neck.',
  ),
  middle('chest', 'Chest', 'Trunk', 'chest', 'In the middle of the trunk, level with the lower ribs.'),
  middle('hips', 'Hips', 'Trunk', 'hips', 'In the middle of the pelvis, a hand above the fork of the legs.'),
  ...bySide([
    paired(
      'Shoulder',
      'shoulder',
      'arm',
      'UpperArm',
      'The ball of the shoulder, above the armpit, in the middle of the arm.',
    ),
    paired('Elbow', 'elbow', 'arm', 'LowerArm', 'Where the arm bends, in the middle of the limb.'),
    paired('Wrist', 'wrist', 'arm', 'Hand', 'Where the hand meets the forearm, at its thinnest.'),
    paired('HandTip', 'hand tip', 'arm', undefined, 'The end of the longest finger.'),
  ]),
  ...bySide([
    paired('Hip', 'hip', 'leg', 'UpperLeg', 'The ball of the hip: above the fork, in the middle of the upper thigh.'),
    paired('Knee', 'knee', 'leg', 'LowerLeg', 'Where the leg bends, in the middle of the limb.'),
    paired('Ankle', 'ankle', 'leg', 'Foot', 'Between the two ankle bones.'),
    paired('Toes', 'toes', 'leg', 'Toes', 'The ball of the foot, where the toes bend.'),
    paired('ToeTip', 'toe tip', 'leg', undefined, 'The foremost point of the foot, on the ground.'),
  ]),
]

/** Landmarks of the four-legged plan. Front legs take the names of the foreleg's own joints. */
export const FOURLEG_LANDMARKS: readonly LandmarkKind[] = [
  middle('nose', 'Nose', 'Head', undefined, 'The foremost point of the muzzle.'),
  middle('crown', 'Crown', 'Head', undefined, 'The highest point of the skull, between the ears.'),
  middle('skullBase', 'Skull base', 'Head', 'head', 'Where the skull sits on the neck.'),
  middle('neckBase', 'Neck base', 'Trunk', 'neck', 'Where the neck comes out of the shoulders.'),
  middle('chest', 'Chest', 'Trunk', 'chest', 'In the middle of the rib cage, above the forelegs.'),
  middle('loin', 'Loin', 'Trunk', 'spine', 'In the middle of the waist, between ribs and pelvis.'),
  middle('hips', 'Hips', 'Trunk', 'hips', 'In the middle of the pelvis, above the hind legs.'),
  middle('tailBase', 'Tail base', 'Tail', 'tail1', 'Where the tail leaves the back.'),
  middle('tailMiddle', 'Tail middle', 'Tail', undefined, 'Half way along the tail; the tail bows through it.'),
  middle('tailTip', 'Tail tip', 'Tail', undefined, 'The end of the tail.'),
  ...bySide([
    paired(
      'FrontShoulder',
      'shoulder blade',
      'foreleg',
      'FrontShoulder',
      'The upper end of the shoulder blade, near the withers.',
    ),
    paired('FrontHip', 'point of shoulder', 'foreleg', 'FrontUpperLeg', 'Where the foreleg meets the chest.'),
    paired('FrontElbow', 'elbow', 'foreleg', 'FrontLowerLeg', 'Where the foreleg bends, close to the chest.'),
    paired('FrontWrist', 'wrist', 'foreleg', 'FrontFoot', 'The joint above the forepaw.'),
    paired('FrontToes', 'foretoes', 'foreleg', 'FrontToes', 'Where the toes of the forepaw bend.'),
    paired('FrontTip', 'forepaw tip', 'foreleg', undefined, 'The foremost point of the forepaw, on the ground.'),
  ]),
  ...bySide([
    paired('HindHip', 'hip', 'hind leg', 'HindUpperLeg', 'The ball of the hip, in the middle of the haunch.'),
    paired('HindKnee', 'stifle', 'hind leg', 'HindLowerLeg', 'The knee, close to the belly.'),
    paired('HindHock', 'hock', 'hind leg', 'HindFoot', 'The joint that points backwards, above the hind paw.'),
    paired('HindToes', 'hind toes', 'hind leg', 'HindToes', 'Where the toes of the hind paw bend.'),
    paired('HindTip', 'hind paw tip', 'hind leg', undefined, 'The foremost point of the hind paw, on the ground.'),
  ]),
  ...bySide([
    paired('EarBase', 'ear base', 'ear', 'Ear', 'Where the ear leaves the skull.'),
    paired('EarTip', 'ear tip', 'ear', undefined, 'The end of the ear.'),
  ]),
]

const FINGER_HINTS: Readonly<Record<string, string>> = {
  Metacarpal: 'Where the thumb grows out of the wrist.',
  Proximal: 'The knuckle, in the middle of the finger, a little below the fold of the web.',
  Intermediate: 'The middle joint of the finger.',
  Distal: 'The joint next to the nail.',
  Tip: 'The end of the finger.',
}

/** Landmarks of both hands; each joint's id is its VRM role. */
export const HAND_LANDMARKS: readonly LandmarkKind[] = (['left', 'right'] as const).flatMap(side =>
  FINGERS.flatMap(finger =>
    [...fingerJoints(finger), 'Tip'].map(part => ({
      id: side + finger + part,
      label: `${side === 'left' ? 'Left' : 'Right'} ${finger.toLowerCase()} ${part.toLowerCase()}`,
      group: `${side === 'left' ? 'Left' : 'Right'} hand`,
      side,
      role: part === 'Tip' ? undefined : side + finger + part,
      hint: finger === 'Thumb' && part === 'Proximal' ? 'The knuckle of the thumb.' : FINGER_HINTS[part],
    })),
  ),
)

const KINDS = new Map([...BIPED_LANDMARKS, ...HAND_LANDMARKS, ...FOURLEG_LANDMARKS].map(k => [k.id, k]))

export const landmarkKind = (id: string): LandmarkKind | undefined => KINDS.get(id)

/** Landmarks of a plan, in the order of the ledger, hands last. */
export const landmarksOf = (plan: 'biped' | 'fourleg' | 'drawn'): readonly LandmarkKind[] =>
  plan === 'drawn' ? [] : plan === 'fourleg' ? FOURLEG_LANDMARKS : [...BIPED_LANDMARKS, ...HAND_LANDMARKS]

/** The point across the midline plane x = 0. */
export const mirrored = (p: Vec3): Vec3 => [-p[0], p[1], p[2]]
