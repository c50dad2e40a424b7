import { distance, rotate, rotateAt, rotateBackAt, timesAt, vec3At, type Vec3 } from '../math'
import type { Played } from '../motion'
import { forwardKinematics, waysTo, worldPose, worldPoseBuffer, type WorldPose } from '../skeleton'
import { clearOf, thicknessAt, type BodyRadii, type LimbRadii } from '../surface'
import { SIDES } from '../body'
import type { AskedHands } from './asked-hands'

type Side = (typeof SIDES)[number]

/** What a hand can rest on: parts of the body that carry it along. */
export const PLACES = [
  'hips',
  'spine',
  'chest',
  'upperChest',
  'head',
  ...SIDES.flatMap(s => ['UpperLeg', 'LowerLeg', 'UpperArm', 'LowerArm'].map(p => s + p)),
] as readonly string[]

/** How firmly hands hold in each frame, 0..1: on each other, and each on a part of the body, by its number in PLACES. */
export interface HandHolds {
  readonly together: Float32Array
  readonly body: Readonly<Record<Side, { readonly weight: Float32Array; readonly place: Int16Array }>>
}

/** The same with where the performer's hands were, which the figure's are brought to. */
export interface HandContacts extends HandHolds {
  readonly hands?: Hands
}

/** What the figure's hands are brought to. */
interface Hands {
  /** Both wrists in the body's own frame, 3·N. */
  readonly wrist: Readonly<Record<Side, Float32Array>>
  /** Where a hand is on the part it rests on, 4·N: how far along its bone, see {@link alongBone}, way out across and ahead, distance from its surface in lengths of an arm. */
  readonly on: Readonly<Record<Side, Float32Array>>
  /** Length of an arm. */
  readonly arm: number
}

/** The height along a bone that a hand's place on another body stands for: by the bone where it is beside it, by the arm beyond its ends. */
export const alongBone = (along: number, bone: number, arm: number): number =>
  along < 0 ? along * arm : along <= 1 ? along * bone : bone + (along - 1) * arm

/** Where the palm of a hand is seen from its joint, in the joint's own space, and how thick the hand is. */
export interface Palm {
  readonly joint: number
  readonly way: Vec3
  readonly thick: number
}

export function palmOf(radii: BodyRadii, side: Side): Palm | undefined {
  const limb: LimbRadii | undefined = radii[`${side}Hand`]
  return limb && { joint: limb.joint, way: rotate(limb.axes, [0, 0.6 * limb.bone, 0]), thick: thicknessAt(limb, 0.5) }
}

/** The place of a palm in a pose. */
export function palmAt(
  out: Float64Array,
  { positions, rotations }: { readonly positions: Float64Array; readonly rotations: Float64Array },
  { joint, way }: Palm,
): void {
  rotateAt(out, 0, rotations, 4 * joint, way[0], way[1], way[2])
  for (let e = 0; e < 3; e++) out[e] += positions[3 * joint + e]
}

/** Upper arm and forearm, left; undefined where the skeleton lacks one. */
export function armLength({ joints }: Played, rest: { positions: ArrayLike<number> }): number | undefined {
  const ends = ['leftUpperArm', 'leftLowerArm', 'leftHand'].map(r => joints[r])
  if (ends.some(j => j === undefined)) return undefined
  const [a, b, c] = ends.map(j => vec3At(rest.positions, j))
  return distance(a, b) + distance(b, c)
}

/** Where the performer's hands are while they hold. @param asked where they were told to touch, the gap is closed */
export function placeHands(
  performer: Played,
  radii: BodyRadii,
  holds: HandHolds,
  asked: AskedHands | undefined,
): HandContacts {
  const { together, body } = holds
  const used = together.some(w => w > 0) || SIDES.some(s => body[s].weight.some(w => w > 0))
  const { skeleton, joints, take, frame } = performer
  const arm = armLength(performer, worldPose(skeleton))
  const palms = SIDES.map(s => palmOf(radii, s))
  if (!used || !arm || palms.some(p => !p)) return holds
  const n = take.frames
  const J = skeleton.names.length
  const pose = worldPoseBuffer(J)
  const ways = waysTo(skeleton, [...SIDES.map(s => joints[`${s}Hand`]), ...PLACES.map(role => radii[role]?.joint)])
  const R = pose.rotations,
    P = pose.positions
  const table = new Float64Array(4),
    v = new Float64Array(3)
  const hands: Hands = {
    wrist: { left: new Float32Array(3 * n), right: new Float32Array(3 * n) },
    on: { left: new Float32Array(4 * n), right: new Float32Array(4 * n) },
    arm,
  }
  const turn = Float64Array.from(frame)
  for (let f = 0; f < n; f++) {
    if (together[f] === 0 && body.left.weight[f] === 0 && body.right.weight[f] === 0) continue
    forwardKinematics(skeleton.parents, ways, take.translations, take.rotations, f * J, pose)
    if (asked && asked.together[f] > 0) closeGap(P, pose, palms, asked.together[f])
    SIDES.forEach((side, s) => {
      const w = 3 * palms[s]!.joint
      rotateAt(v, 0, turn, 0, P[w], P[w + 1], P[w + 2])
      hands.wrist[side].set(v, 3 * f)
      if (body[side].weight[f] === 0) return
      const limb = radii[PLACES[body[side].place[f]]]
      palmAt(v, pose, palms[s]!)
      const j = 3 * limb.joint
      timesAt(table, 0, R, 4 * limb.joint, Float64Array.from(limb.axes), 0)
      rotateBackAt(v, 0, table, 0, v[0] - P[j], v[1] - P[j + 1], v[2] - P[j + 2])
      const across = Math.hypot(v[0], v[2]) || 1
      const on = hands.on[side]
      on[4 * f] =
        v[1] >= 0 && v[1] <= limb.bone ? v[1] / limb.bone : v[1] < 0 ? v[1] / arm : 1 + (v[1] - limb.bone) / arm
      on[4 * f + 1] = v[0] / across
      on[4 * f + 2] = v[2] / across
      on[4 * f + 3] = (clearOf(limb, v[0], v[1], v[2]) - palms[s]!.thick) / arm
      const firm = asked?.body[side].weight[f] ?? 0
      if (firm > 0) {
        // a hand that was told to rest there lies on the part itself, beside its bone
        on[4 * f] += firm * (Math.min(1, Math.max(0, on[4 * f])) - on[4 * f])
        on[4 * f + 3] *= 1 - firm
      }
    })
  }
  return { together, body, hands }
}

/** Moves both hands to each other until their palms meet. */
function closeGap(P: Float64Array, pose: WorldPose, palms: readonly (Palm | undefined)[], firm: number): void {
  const ends = palms.map(palm => {
    const at = new Float64Array(3)
    palmAt(at, pose, palm!)
    return at
  })
  const way = [0, 1, 2].map(k => ends[1][k] - ends[0][k])
  const far = Math.hypot(way[0], way[1], way[2])
  const gap = far - palms[0]!.thick - palms[1]!.thick
  if (gap <= 0) return
  for (let k = 0; k < 3; k++) {
    const by = (firm * gap * way[k]) / (2 * far)
    P[3 * palms[0]!.joint + k] += by
    P[3 * palms[1]!.joint + k] -= by
  }
}
