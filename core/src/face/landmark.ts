import { partnerOf } from '../body'
import type { Vec3 } from '../math'
import { capital } from '../words'

/** A place of a face. */
export interface FaceLandmark {
  readonly id: FaceLandmarkId
  /** Metres, in the straightened body. */
  readonly position: Vec3
  /** 0..1; under 0.6 somebody should look. */
  readonly confidence: number
}

const MIDDLE = ['noseTip', 'noseBase', 'upperLip', 'lowerLip', 'chin'] as const
const PAIRED = [
  'EyeInner',
  'EyeOuter',
  'UpperLid',
  'LowerLid',
  'BrowInner',
  'BrowOuter',
  'MouthCorner',
  'Ear',
  'JawHinge',
] as const
export type FaceLandmarkId = (typeof MIDDLE)[number] | `${'left' | 'right'}${(typeof PAIRED)[number]}`

/** Places of a face in the order of the ledger. */
export const FACE_LANDMARKS: readonly FaceLandmarkId[] = [
  ...MIDDLE,
  ...(['left', 'right'] as const).flatMap(side => PAIRED.map((p): FaceLandmarkId => `${side}${p}`)),
]

/** The same place of the other half of a face; itself on the midline. */
export const facePartner = (id: FaceLandmarkId): FaceLandmarkId => partnerOf(id) as FaceLandmarkId

/** What a place is called. */
export const faceLabel = (id: FaceLandmarkId): string => capital(id.replace(/([A-Z])/g, ' $1').toLowerCase())

/** A ball that looks: part of the body, or a piece. */
export interface Eyeball {
  readonly centre: Vec3
  readonly radius: number
  /** Whether lids lie before it. */
  readonly lidded: boolean
  /** What of it is seen between the lids: how high it begins and ends at each place across, metres. */
  readonly rim: readonly { readonly x: number; readonly top: number; readonly bottom: number }[]
}
