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

const middle = (id: string, label: string, group: string, role: string | undefined, hint: string): LandmarkKind =>
  ({ id, label, group, side: 'middle', role, hint })

const paired = (part: string, word: string, limb: string, role: string | undefined, hint: string): LandmarkKind[] =>
  (['left', 'right'] as const).map(side => ({
    id: side + part, label: `${side === 'left' ? 'Left' : 'Right'} ${word}`, group: `${side === 'left' ? 'Left' : 'Right'} ${limb}`,
    side, role: role && side + role, hint,
  }))

const bySide = (kinds: LandmarkKind[][]): LandmarkKind[] => [...kinds.map(k => k[0]), ...kinds.map(k => k[1])]

/** Landmarks of the biped plan, in the order of the ledger. */
export const BIPED_LANDMARKS: readonly LandmarkKind[] = [
  middle('crown', 'Crown', 'Head', undefined, 'The highest point of the head, hair and hats not counted.'),
  middle('chin', 'Chin', 'Head', undefined, 'The lowest point of the jaw, at the front.'),
  middle('skullBase', 'Skull base', 'Head', 'head', 'Where the skull sits on the neck, level with the ear lobes.'),
  middle('neckBase', 'Neck base', 'Trunk', 'neck', 'Where the neck comes out of the shoulders, in the middle of the neck.'),
  middle('chest', 'Chest', 'Trunk', 'chest', 'In the middle of the trunk, level with the lower ribs.'),
  middle('hips', 'Hips', 'Trunk', 'hips', 'In the middle of the pelvis, a hand above the fork of the legs.'),
  ...bySide([
    paired('Shoulder', 'shoulder', 'arm', 'UpperArm', 'The ball of the shoulder, above the armpit, in the middle of the arm.'),
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

const KINDS = new Map(BIPED_LANDMARKS.map(k => [k.id, k]))

export const landmarkKind = (id: string): LandmarkKind | undefined => KINDS.get(id)

/** The landmark across the midline; a middle one is its own partner. */
export function partnerOf(id: string): string {
  if (id.startsWith('left')) return 'right' + id.slice(4)
  if (id.startsWith('right')) return 'left' + id.slice(5)
  return id
}

/** The point across the midline plane x = 0. */
export const mirrored = (p: Vec3): Vec3 => [-p[0], p[1], p[2]]
