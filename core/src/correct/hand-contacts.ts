import { distance, multiply, quatAt, rotateAt, rotateBackAt, vec3At } from '../math'
import { tracksOf, type Played, type Tracks } from '../motion'
import { forwardKinematics, waysTo, worldPose, worldPoseBuffer } from '../skeleton'
import { SIDES } from '../body'

type Side = (typeof SIDES)[number]

/** Nearness in arm lengths, and stillness in arm lengths a second, of hands that hold on to each other or to the body. */
const TOGETHER = 0.75,
  ON_BODY = 0.42,
  STILL = 0.35
/** An elbow straighter than this lets its hand hang rather than hold, radians. */
const BENT = 0.6
/** Seconds a contact lasts at least, a gap that does not end it, and over which it eases in and out. */
const SHORTEST = 0.25,
  GAP = 0.4,
  EASE = 0.25

/** What a hand can rest on: a place of the body that carries it along. */
export const PLACES = [
  'hips',
  'chest',
  'head',
  'leftUpperLeg',
  'rightUpperLeg',
  'leftLowerLeg',
  'rightLowerLeg',
] as const

/** How firmly hands hold in each frame, 0..1: on each other, and each on a place of the body, by its number in PLACES. */
export interface HandHolds {
  readonly together: Float32Array
  readonly body: Readonly<Record<Side, { readonly weight: Float32Array; readonly place: Int16Array }>>
}

/** The same with where the performer's hands were, which the figure's are brought to. */
export interface HandContacts extends HandHolds {
  readonly hands?: Hands
}

/** Where both wrists go: in the body's own frame, and against each place of the body; whether elbows are bent; length of an arm. */
interface Hands {
  readonly wrist: Record<Side, Float32Array>
  readonly bent: Record<Side, Uint8Array>
  readonly local: Record<Side, readonly (Float32Array | undefined)[]>
  readonly arm: number
}

/**
 * Finds when the performer's hands hold on to each other (a pole, a rope, folded) or rest on the body (a hip, the chin, a
 * knee): near, and hardly moving against it, with a bent elbow.
 */
export function findHandContacts(
  performer: Played,
  tracks: Tracks = tracksOf(
    performer,
    SIDES.flatMap(s => [`${s}UpperArm`, `${s}Hand`]),
  ),
): HandContacts {
  const { take } = performer
  const n = take.frames
  const hands = everBent(performer, tracks) ? follow(performer) : undefined
  const none = (): { weight: Float32Array; place: Int16Array } => ({
    weight: new Float32Array(n),
    place: new Int16Array(n).fill(-1),
  })
  const body = { left: none(), right: none() }
  const together = new Float32Array(n)
  if (!hands) return { together, body }
  const { wrist, bent, local, arm } = hands
  const gap = new Float32Array(3 * n)
  for (let i = 0; i < 3 * n; i++) gap[i] = wrist.left[i] - wrist.right[i]
  for (let f = 0; f < n; f++) {
    // told by how far apart, which a turning body does not change
    if (
      bent.left[f] &&
      bent.right[f] &&
      sizeAt(gap, f) < TOGETHER * arm &&
      Math.abs(stretchOf(gap, f, take.fps)) < STILL * arm
    )
      together[f] = 1
  }
  tidy(together, take.fps)
  for (const side of SIDES) {
    const { weight, place } = body[side]
    for (let f = 0; f < n; f++) {
      if (!bent[side][f]) continue
      let least = ON_BODY * arm
      for (let k = 0; k < PLACES.length; k++) {
        const track = local[side][k]
        if (!track) continue
        const d = sizeAt(track, f)
        if (d >= least || speedOf(track, f, take.fps) > STILL * arm) continue
        least = d
        place[f] = k
      }
      if (place[f] >= 0) weight[f] = 1
    }
    tidy(weight, take.fps)
    spread(place, weight)
    // one stretch holds on to one place
    steady(place, weight)
  }
  return { together, body, hands }
}

/** Whether an elbow is ever bent enough for its hand to hold on to something, told by how near the wrist comes to the shoulder: most takes are done with here. */
function everBent({ skeleton, joints }: Played, tracks: Tracks): boolean {
  const rest = worldPose(skeleton)
  return SIDES.some(s => {
    const upper = tracks[`${s}UpperArm`],
      hand = tracks[`${s}Hand`]
    const ends = ['UpperArm', 'LowerArm', 'Hand'].map(p => joints[s + p])
    if (!upper || !hand || ends.some(j => j === undefined)) return false
    const [p, q, r] = ends.map(j => vec3At(rest.positions, j))
    const a = distance(p, q),
      b = distance(q, r)
    const near = a * a + b * b + 2 * a * b * Math.cos(BENT)
    for (let i = 0; i < hand.length; i += 3) {
      const x = hand[i] - upper[i],
        y = hand[i + 1] - upper[i + 1],
        z = hand[i + 2] - upper[i + 2]
      if (x * x + y * y + z * z < near) return true
    }
    return false
  })
}

/** The joint of a place, as near as the skeleton has it. */
export const placeJoint = (joints: Readonly<Record<string, number>>, role: string): number | undefined =>
  joints[role] ?? (role === 'chest' ? (joints.upperChest ?? joints.spine) : undefined)

/** Upper arm and forearm, left; undefined where the skeleton lacks one. */
export function armLength({ joints }: Played, rest: { positions: ArrayLike<number> }): number | undefined {
  const ends = ['leftUpperArm', 'leftLowerArm', 'leftHand'].map(r => joints[r])
  if (ends.some(j => j === undefined)) return undefined
  const [a, b, c] = ends.map(j => vec3At(rest.positions, j))
  return distance(a, b) + distance(b, c)
}

/** Follows both wrists in the body's own frame, against each place of the body in that place's body-aligned axes. */
function follow({ skeleton, joints, take, frame }: Played): Hands | undefined {
  const rest = worldPose(skeleton)
  const arm = armLength({ skeleton, joints, take, frame }, rest)
  if (!arm) return undefined
  const J = skeleton.names.length
  const places = PLACES.map(r => placeJoint(joints, r))
  const pose = worldPoseBuffer(J)
  const ways = waysTo(skeleton, [joints.leftHand, joints.rightHand, ...places])
  const track = (): Float32Array => new Float32Array(3 * take.frames)
  const out = {
    arm,
    wrist: { left: track(), right: track() },
    bent: { left: new Uint8Array(take.frames), right: new Uint8Array(take.frames) },
    local: {
      left: places.map(p => (p === undefined ? undefined : track())),
      right: places.map(p => (p === undefined ? undefined : track())),
    },
  }
  // from each place's own axes to body-aligned ones
  const aligned = Float64Array.from(
    places.flatMap(p => (p === undefined ? [0, 0, 0, 1] : [...multiply(frame, quatAt(rest.rotations, p))])),
  )
  const turn = Float64Array.from(frame)
  const P = pose.positions,
    R = pose.rotations
  const straight = Math.cos(BENT)
  const v = new Float64Array(3)
  const arms = SIDES.map(side => ({
    bent: out.bent[side],
    to: out.wrist[side],
    local: out.local[side],
    w: 3 * joints[`${side}Hand`],
    e: 3 * joints[`${side}LowerArm`],
    s: 3 * joints[`${side}UpperArm`],
  }))
  for (let f = 0; f < take.frames; f++) {
    forwardKinematics(skeleton.parents, ways, take.translations, take.rotations, f * J, pose)
    for (let i = 0; i < 2; i++) {
      const { bent, to, local, w, e, s } = arms[i]
      const ux = P[e] - P[s],
        uy = P[e + 1] - P[s + 1],
        uz = P[e + 2] - P[s + 2],
        lx = P[w] - P[e],
        ly = P[w + 1] - P[e + 1],
        lz = P[w + 2] - P[e + 2]
      if (
        ux * lx + uy * ly + uz * lz <
        straight * Math.sqrt((ux * ux + uy * uy + uz * uz) * (lx * lx + ly * ly + lz * lz))
      )
        bent[f] = 1
      rotateAt(v, 0, turn, 0, P[w], P[w + 1], P[w + 2])
      write(to, f, v)
      for (let k = 0; k < places.length; k++) {
        const track = local[k],
          p = places[k]
        if (!track || p === undefined) continue
        rotateBackAt(v, 0, R, 4 * p, P[w] - P[3 * p], P[w + 1] - P[3 * p + 1], P[w + 2] - P[3 * p + 2])
        rotateAt(v, 0, aligned, 4 * k, v[0], v[1], v[2])
        write(track, f, v)
      }
    }
  }
  return out
}

function write(track: Float32Array, f: number, v: Float64Array): void {
  track[3 * f] = v[0]
  track[3 * f + 1] = v[1]
  track[3 * f + 2] = v[2]
}

const sizeAt = (track: Float32Array, f: number): number =>
  Math.sqrt(track[3 * f] * track[3 * f] + track[3 * f + 1] * track[3 * f + 1] + track[3 * f + 2] * track[3 * f + 2])

const LOOK = 1 / 20
function speedOf(track: Float32Array, f: number, fps: number): number {
  const n = track.length / 3,
    reach = Math.max(1, Math.round(LOOK * fps))
  const a = Math.max(0, f - reach),
    b = Math.min(n - 1, f + reach)
  const x = track[3 * b] - track[3 * a],
    y = track[3 * b + 1] - track[3 * a + 1],
    z = track[3 * b + 2] - track[3 * a + 2]
  return (Math.sqrt(x * x + y * y + z * z) * fps) / Math.max(1, b - a)
}
function stretchOf(gap: Float32Array, f: number, fps: number): number {
  const n = gap.length / 3,
    reach = Math.max(1, Math.round(LOOK * fps))
  const a = Math.max(0, f - reach),
    b = Math.min(n - 1, f + reach)
  return ((sizeAt(gap, b) - sizeAt(gap, a)) * fps) / Math.max(1, b - a)
}

/** Each unbroken stretch takes the place it has most often. */
function steady(place: Int16Array, weight: Float32Array): void {
  for (let f = 0; f < place.length; f++) {
    if (weight[f] === 0) continue
    let end = f
    while (end + 1 < place.length && weight[end + 1] > 0) end++
    const votes = new Map<number, number>()
    for (let i = f; i <= end; i++) votes.set(place[i], (votes.get(place[i]) ?? 0) + 1)
    place.fill([...votes].sort((a, b) => b[1] - a[1] || a[0] - b[0])[0][0], f, end + 1)
    f = end
  }
}

/** Frames into which a contact eases go on at its place. */
function spread(place: Int16Array, weight: Float32Array): void {
  for (let f = 1; f < place.length; f++) if (weight[f] > 0 && place[f] < 0) place[f] = place[f - 1]
  for (let f = place.length - 2; f >= 0; f--) if (weight[f] > 0 && place[f] < 0) place[f] = place[f + 1]
}

/** Drops short contacts and eases the rest in and out around them. */
function tidy(weight: Float32Array, fps: number): void {
  const n = weight.length
  const held = weight.slice()
  let last = -1
  for (let f = 0; f < n; f++) {
    if (!held[f]) continue
    if (last >= 0 && f - last > 1 && f - last <= GAP * fps) held.fill(1, last, f)
    last = f
  }
  for (let f = 0; f < n; f++) {
    if (!held[f]) continue
    let end = f
    while (end + 1 < n && held[end + 1]) end++
    if (end - f + 1 < SHORTEST * fps) held.fill(0, f, end + 1)
    f = end
  }
  const reach = Math.max(1, Math.round(EASE * fps))
  weight.fill(0)
  for (let f = 0; f < n; f++) {
    if (!held[f]) continue
    for (let g = Math.max(0, f - reach); g <= Math.min(n - 1, f + reach); g++) {
      const t = 1 - Math.abs(g - f) / (reach + 1)
      weight[g] = Math.max(weight[g], t * t * (3 - 2 * t))
    }
  }
}
