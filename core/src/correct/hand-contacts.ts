import { distance, rotateAt, rotateBackAt, timesAt, vec3At } from '../math'
import type { Played, Tracks } from '../motion'
import { forwardKinematics, waysTo, worldPose, worldPoseBuffer } from '../skeleton'
import { clearOf, usualHeight, type BodyRadii, type LimbRadii } from '../surface'
import { SIDES } from '../body'
import { askedHands, withAsked } from './asked-hands'
import { armLength, palmOf, placeHands, PLACES, type HandContacts, type HandHolds } from './hand-places'
import type { PlacedContact } from './told-contacts'

type Side = (typeof SIDES)[number]

/** Hands are looked at this often a second. */
const LOOKS = 15
/** How near flesh must be to touch, share of height; stillness against what is touched, arm lengths a second. */
const TOUCH = 0.016,
  STILL = 0.35
/** An elbow straighter than this lets its hand hang beside the body rather than rest on it, radians. */
const BENT = 0.6
/** Seconds a contact lasts at least, a gap that does not end it, and over which it eases in and out. */
const SHORTEST = 0.1,
  GAP = 0.12,
  EASE = 0.12

/** A part of the body a hand can rest on: its table, and its number in PLACES. */
interface Part {
  readonly role: string
  readonly limb: LimbRadii
  readonly k: number
}

/**
 * Finds when the performer's hands touch each other or rest on the body, and where they are then.
 * @param radii of the performer's body
 * @param tracks of upper arms and hands, where they are at hand: most takes are done with them
 * @param told what a person said of them: hands that are to touch are told as if the performer's had
 */
export function findHandContacts(
  performer: Played,
  radii: BodyRadii,
  tracks?: Tracks,
  told: readonly PlacedContact[] = [],
): HandContacts {
  const found = findHandHolds(performer, radii, tracks)
  const asked = askedHands(told, found.together.length, EASE * performer.take.fps)
  return placeHands(performer, radii, asked ? withAsked(found, asked) : found, asked)
}

/** When hands touch: flesh that meets flesh, on a body as people with such bones have it, and hardly moves against it. */
function findHandHolds(performer: Played, radii: BodyRadii, tracks: Tracks | undefined): HandHolds {
  const { skeleton, joints, take } = performer
  const n = take.frames
  const none = (): { weight: Float32Array; place: Int16Array } => ({
    weight: new Float32Array(n),
    place: new Int16Array(n).fill(-1),
  })
  const body = { left: none(), right: none() }
  const together = new Float32Array(n)
  const rest = worldPose(skeleton)
  const arm = armLength(performer, rest)
  const palms = SIDES.map(s => palmOf(radii, s))
  if (!arm || palms.some(p => !p)) return { together, body }
  const touch = TOUCH * usualHeight(skeleton, joints)
  if (tracks && !everNear(performer, tracks, rest, 0.5 * arm)) return { together, body }
  const parts = PLACES.flatMap((role, k): Part[] => (radii[role] ? [{ role, limb: radii[role], k }] : []))
  const step = Math.max(1, Math.round(take.fps / LOOKS))
  const looks = Math.ceil((n - 1) / step) + 1
  const J = skeleton.names.length
  const pose = worldPoseBuffer(J)
  const ways = waysTo(skeleton, [
    ...SIDES.flatMap(s => ['UpperArm', 'LowerArm', 'Hand'].map(p => joints[s + p])),
    ...parts.map(p => p.limb.joint),
  ])
  const P = pose.positions,
    R = pose.rotations
  const gap = new Float32Array(looks)
  const near = SIDES.map(() => ({
    part: new Int16Array(looks).fill(-1),
    clear: new Float32Array(looks),
    local: new Float32Array(3 * looks * parts.length).fill(NaN),
  }))
  const table = new Float64Array(4),
    v = new Float64Array(3),
    reaches = SIDES.map(() => new Float64Array(9))
  const axes = Float64Array.from(parts.flatMap(p => [...p.limb.axes]))
  for (let i = 0; i < looks; i++) {
    const f = Math.min(n - 1, i * step)
    forwardKinematics(skeleton.parents, ways, take.translations, take.rotations, f * J, pose)
    palms.forEach((palm, s) => {
      // wrist, palm and the root of the fingers
      for (let c = 0; c < 3; c++) {
        const share = c / 2
        const j = palm!.joint
        rotateAt(v, 0, R, 4 * j, palm!.way[0] * 2 * share, palm!.way[1] * 2 * share, palm!.way[2] * 2 * share)
        for (let e = 0; e < 3; e++) reaches[s][3 * c + e] = P[3 * j + e] + v[e]
      }
    })
    let least = Infinity
    for (let a = 0; a < 9; a += 3)
      for (let b = 0; b < 9; b += 3) {
        const x = reaches[0][a] - reaches[1][b],
          y = reaches[0][a + 1] - reaches[1][b + 1],
          z = reaches[0][a + 2] - reaches[1][b + 2]
        least = Math.min(least, x * x + y * y + z * z)
      }
    gap[i] = Math.sqrt(least) - palms[0]!.thick - palms[1]!.thick
    SIDES.forEach((side, s) => {
      if (!bentAt(P, joints, side)) return
      let nearest = 2 * touch
      const { part, local } = near[s]
      for (let k = 0; k < parts.length; k++) {
        const { limb, role } = parts[k]
        // the own arm goes along with its hand, and hands that touch lie beside the other's wrist
        if (role.endsWith('Arm') && (role.startsWith(side) || gap[i] < 2 * touch)) continue
        const j = 3 * limb.joint
        const x = reaches[s][3] - P[j],
          y = reaches[s][4] - P[j + 1],
          z = reaches[s][5] - P[j + 2]
        const far = limb.reach + Math.max(Math.abs(limb.low), Math.abs(limb.high)) + 2 * touch + palms[s]!.thick
        if (x * x + y * y + z * z > far * far) continue
        timesAt(table, 0, R, 4 * limb.joint, axes, 4 * k)
        rotateBackAt(v, 0, table, 0, x, y, z)
        const o = 3 * (i * parts.length + k)
        local[o] = v[0]
        local[o + 1] = v[1]
        local[o + 2] = v[2]
        const clear = clearOf(limb, v[0], v[1], v[2]) - palms[s]!.thick
        if (clear >= nearest) continue
        nearest = clear
        near[s].clear[i] = clear
        part[i] = k
      }
    })
  }
  const perLook = step / take.fps
  const still = STILL * arm
  for (let i = 0; i < looks; i++) {
    const a = Math.max(0, i - 1),
      b = Math.min(looks - 1, i + 1)
    const span = Math.max(1, b - a) * perLook
    const first = i * step,
      end = Math.min(n, first + step)
    // what held before goes on holding more easily than it began
    const firm = i > 0 && together[first - 1] > 0 ? 2 : 1
    if (gap[i] < firm * touch && Math.abs(gap[b] - gap[a]) < firm * still * span) together.fill(1, first, end)
    SIDES.forEach((side, s) => {
      const { part, local } = near[s]
      const k = part[i]
      if (k < 0) return
      const p = 3 * (a * parts.length + k),
        q = 3 * (b * parts.length + k)
      const moved = Math.hypot(local[q] - local[p], local[q + 1] - local[p + 1], local[q + 2] - local[p + 2])
      const goesOn = i > 0 && body[side].weight[first - 1] > 0 && body[side].place[first - 1] === parts[k].k
      if (!goesOn && near[s].clear[i] > touch) return
      // where it was not near before or after, that is not a number
      if (!(moved < (goesOn ? 2 : 1) * still * span)) return
      body[side].weight.fill(1, first, end)
      body[side].place.fill(parts[k].k, first, end)
    })
  }
  tidy(together, take.fps)
  for (const side of SIDES) {
    const { weight, place } = body[side]
    tidy(weight, take.fps)
    spread(place, weight)
    // one stretch holds on to one place
    steady(place, weight)
  }
  return { together, body }
}

/** Whether an elbow is ever bent enough for its hand to rest on something, told by how near the wrist comes to the shoulder, or hands ever come near each other. */
function everNear({ joints }: Played, tracks: Tracks, rest: { positions: ArrayLike<number> }, near: number): boolean {
  const bent = SIDES.some(s => {
    const upper = tracks[`${s}UpperArm`],
      hand = tracks[`${s}Hand`]
    if (!upper || !hand) return true
    const [p, q, r] = ['UpperArm', 'LowerArm', 'Hand'].map(part => vec3At(rest.positions, joints[s + part]))
    const a = distance(p, q),
      b = distance(q, r)
    return closer(upper, hand, Math.sqrt(a * a + b * b + 2 * a * b * Math.cos(BENT)))
  })
  return bent || closer(tracks.leftHand!, tracks.rightHand!, near)
}

function closer(a: Float32Array, b: Float32Array, near: number): boolean {
  for (let i = 0; i < a.length; i += 3) {
    const x = a[i] - b[i],
      y = a[i + 1] - b[i + 1],
      z = a[i + 2] - b[i + 2]
    if (x * x + y * y + z * z < near * near) return true
  }
  return false
}

function bentAt(P: Float64Array, joints: Readonly<Record<string, number>>, side: Side): boolean {
  const w = 3 * joints[`${side}Hand`],
    e = 3 * joints[`${side}LowerArm`],
    s = 3 * joints[`${side}UpperArm`]
  const ux = P[e] - P[s],
    uy = P[e + 1] - P[s + 1],
    uz = P[e + 2] - P[s + 2],
    lx = P[w] - P[e],
    ly = P[w + 1] - P[e + 1],
    lz = P[w + 2] - P[e + 2]
  return (
    ux * lx + uy * ly + uz * lz <
    Math.cos(BENT) * Math.sqrt((ux * ux + uy * uy + uz * uz) * (lx * lx + ly * ly + lz * lz))
  )
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
