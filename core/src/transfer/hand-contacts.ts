import { conjugate, distance, quatAt, rotate, sub, vec3At, type Vec3 } from '../math'
import { tracksOf, type Played } from '../ground'
import type { Take } from '../motion'
import { SIDES, createLimbSolver, limbOf, poseOf, waysTo, worldPose, worldPoseBuffer } from '../skeleton'

type Side = (typeof SIDES)[number]

/** Nearness in arm lengths, and stillness in arm lengths a second, of hands that hold on to each other or to the body. */
const TOGETHER = 0.75, ON_BODY = 0.42, STILL = 0.35
/** An elbow straighter than this lets its hand hang rather than hold, radians. */
const BENT = 0.6
/** Seconds a contact lasts at least, a gap that does not end it, and over which it eases in and out. */
const SHORTEST = 0.25, GAP = 0.4, EASE = 0.25

/** What a hand can rest on: a place of the body that carries it along. */
const PLACES = ['hips', 'chest', 'head', 'leftUpperLeg', 'rightUpperLeg', 'leftLowerLeg', 'rightLowerLeg'] as const

/** How firmly hands hold in each frame, 0..1: on each other, and each on a place of the body, by its number in PLACES. */
export interface HandContacts {
  readonly together: Float32Array
  readonly body: Readonly<Record<Side, { readonly weight: Float32Array; readonly place: Int16Array }>>
}

interface Hands { readonly wrist: Record<Side, Float32Array>; readonly bent: Record<Side, Uint8Array>; readonly local: Record<Side, readonly (Float32Array | undefined)[]>; readonly arm: number }

/**
 * Finds when the performer's hands hold on to each other (a pole, a rope, folded) or rest on the body (a hip, the chin, a
 * knee): near, and hardly moving against it, with a bent elbow.
 */
export function findHandContacts(performer: Played): HandContacts {
  const { take } = performer
  const n = take.frames
  const hands = anyBent(performer) ? follow(performer) : undefined
  const none = (): { weight: Float32Array; place: Int16Array } => ({ weight: new Float32Array(n), place: new Int16Array(n).fill(-1) })
  const body = { left: none(), right: none() }
  const together = new Float32Array(n)
  if (!hands) return { together, body }
  const { wrist, bent, local, arm } = hands
  const gap = new Float32Array(3 * n)
  for (let i = 0; i < 3 * n; i++) gap[i] = wrist.left[i] - wrist.right[i]
  for (let f = 0; f < n; f++) {
    const near = Math.hypot(gap[3 * f], gap[3 * f + 1], gap[3 * f + 2]) < TOGETHER * arm
    // told by how far apart, which a turning body does not change
    if (near && bent.left[f] && bent.right[f] && Math.abs(stretchOf(gap, f, take.fps)) < STILL * arm) together[f] = 1
  }
  tidy(together, take.fps)
  for (const side of SIDES) {
    const { weight, place } = body[side]
    for (let f = 0; f < n; f++) {
      if (!bent[side][f]) continue
      let least = ON_BODY * arm
      local[side].forEach((track, k) => {
        if (!track) return
        const d = Math.hypot(track[3 * f], track[3 * f + 1], track[3 * f + 2])
        if (d >= least || speedOf(track, f, take.fps) > STILL * arm) return
        least = d
        place[f] = k
      })
      if (place[f] >= 0) weight[f] = 1
    }
    tidy(weight, take.fps)
    spread(place, weight)
    // one stretch holds on to one place
    steady(place, weight)
  }
  return { together, body }
}

/** Whether an elbow is ever bent enough for its hand to hold on to something: most takes are done with here. */
function anyBent(performer: Played): boolean {
  const tracks = tracksOf(performer, SIDES.flatMap(s => [`${s}UpperArm`, `${s}LowerArm`, `${s}Hand`]))
  return SIDES.some(s => {
    const a = tracks[`${s}UpperArm`], b = tracks[`${s}LowerArm`], c = tracks[`${s}Hand`]
    if (!a || !b || !c) return false
    const straight = Math.cos(BENT)
    for (let i = 0; i < c.length; i += 3) {
      const ux = b[i] - a[i], uy = b[i + 1] - a[i + 1], uz = b[i + 2] - a[i + 2], lx = c[i] - b[i], ly = c[i + 1] - b[i + 1], lz = c[i + 2] - b[i + 2]
      if (ux * lx + uy * ly + uz * lz < straight * Math.sqrt((ux * ux + uy * uy + uz * uz) * (lx * lx + ly * ly + lz * lz))) return true
    }
    return false
  })
}

/**
 * Keeps the figure's hands where the performer's were: as far from each other, and at the same place of the body, scaled by
 * the ratio of arms and of the body's own measures.
 * @param share 0 leaves the hands, 1 keeps them wholly
 */
export function keepHands(performer: Played, figure: Played, contacts: HandContacts, share: number): Take {
  const n = figure.take.frames
  const used = contacts.together.some(w => w > 0) || SIDES.some(s => contacts.body[s].weight.some(w => w > 0))
  const theirs = used && share > 0 ? follow(performer) : undefined
  const rest = worldPose(figure.skeleton)
  const own = theirs && armLength(figure, rest)
  if (!theirs || !own) return figure.take
  const { skeleton, joints, frame } = figure
  const ratio = own / theirs.arm
  const wide = widthOf(figure) / (widthOf(performer) || 1)
  const behind = rotate(conjugate(frame), [0, 0, -1])
  const limbs = Object.fromEntries(SIDES.map(s => [s, limbOf(rest, joints[`${s}UpperArm`], joints[`${s}LowerArm`], joints[`${s}Hand`], behind)]))
  const J = skeleton.names.length
  const rotations = figure.take.rotations.slice()
  const pose = worldPoseBuffer(J)
  const places = PLACES.map(r => placeJoint(joints, r))
  const ways = waysTo(skeleton, [...SIDES.map(s => limbs[s].end), ...places])
  const solver = createLimbSolver(skeleton)
  const back = conjugate(frame)
  const restTurns = places.map(j => (j === undefined ? undefined : conjugate(quatAt(rest.rotations, j))))
  for (let f = 0; f < n; f++) {
    const both = contacts.together[f] * share
    const each = SIDES.map(s => contacts.body[s].weight[f] * share)
    if (both <= 0 && each[0] <= 0 && each[1] <= 0) continue
    poseOf(ways, skeleton.parents, figure.take.translations, rotations, f * J, pose)
    SIDES.forEach((side, i) => {
      const k = contacts.body[side].place[f]
      const joint = places[k]
      const track = theirs.local[side][k]
      if (each[i] <= 0 || joint === undefined || !track || !restTurns[k]) return
      // from the place's own body-aligned axes: across by the width of hips, up and ahead by the reach of arms
      const goal: Vec3 = [wide * track[3 * f], ratio * track[3 * f + 1], wide * track[3 * f + 2]]
      const turn = quatAt(pose.rotations, joint)
      const world = rotate(turn, rotate(restTurns[k]!, rotate(back, goal)))
      const wrist = vec3At(pose.positions, limbs[side].end)
      const shift = [0, 1, 2].map(c => each[i] * (pose.positions[3 * joint + c] + world[c] - wrist[c]))
      solver.solve(limbs[side], pose, rotations, f * J, shift[0], shift[1], shift[2])
    })
    if (both > 0) {
      const gap = rotate(back, [0, 1, 2].map(c => ratio * (theirs.wrist.left[3 * f + c] - theirs.wrist.right[3 * f + c])) as Vec3)
      const l = vec3At(pose.positions, limbs.left.end), r = vec3At(pose.positions, limbs.right.end)
      const off = gap.map((g, c) => (both * (g - (l[c] - r[c]))) / 2)
      solver.solve(limbs.left, pose, rotations, f * J, off[0], off[1], off[2])
      solver.solve(limbs.right, pose, rotations, f * J, -off[0], -off[1], -off[2])
    }
  }
  return { ...figure.take, rotations }
}

const placeJoint = (joints: Readonly<Record<string, number>>, role: string): number | undefined => joints[role] ?? (role === 'chest' ? joints.upperChest ?? joints.spine : undefined)

function armLength({ joints }: Played, rest: { positions: ArrayLike<number> }): number | undefined {
  const ends = ['leftUpperArm', 'leftLowerArm', 'leftHand'].map(r => joints[r])
  if (ends.some(j => j === undefined)) return undefined
  const [a, b, c] = ends.map(j => vec3At(rest.positions, j))
  return distance(a, b) + distance(b, c)
}

/** Distance between both hip joints. */
function widthOf({ skeleton, joints }: Played): number {
  const rest = worldPose(skeleton)
  return distance(vec3At(rest.positions, joints.leftUpperLeg), vec3At(rest.positions, joints.rightUpperLeg))
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
    arm, wrist: { left: track(), right: track() }, bent: { left: new Uint8Array(take.frames), right: new Uint8Array(take.frames) },
    local: { left: places.map(p => (p === undefined ? undefined : track())), right: places.map(p => (p === undefined ? undefined : track())) },
  }
  for (let f = 0; f < take.frames; f++) {
    poseOf(ways, skeleton.parents, take.translations, take.rotations, f * J, pose)
    for (const side of SIDES) {
      const wrist = vec3At(pose.positions, joints[`${side}Hand`]), elbow = vec3At(pose.positions, joints[`${side}LowerArm`]), shoulder = vec3At(pose.positions, joints[`${side}UpperArm`])
      out.wrist[side].set(rotate(frame, wrist), 3 * f)
      const upper = sub(elbow, shoulder), lower = sub(wrist, elbow)
      const cos = (upper[0] * lower[0] + upper[1] * lower[1] + upper[2] * lower[2]) / (Math.hypot(...upper) * Math.hypot(...lower) || 1)
      if (Math.acos(Math.max(-1, Math.min(1, cos))) > BENT) out.bent[side][f] = 1
      places.forEach((p, k) => {
        if (p === undefined) return
        const turned = rotate(quatAt(rest.rotations, p), rotate(conjugate(quatAt(pose.rotations, p)), sub(wrist, vec3At(pose.positions, p))))
        out.local[side][k]!.set(rotate(frame, turned), 3 * f)
      })
    }
  }
  return out
}

const LOOK = 1 / 20
function speedOf(track: Float32Array, f: number, fps: number): number {
  const n = track.length / 3, reach = Math.max(1, Math.round(LOOK * fps))
  const a = Math.max(0, f - reach), b = Math.min(n - 1, f + reach)
  return (Math.hypot(track[3 * b] - track[3 * a], track[3 * b + 1] - track[3 * a + 1], track[3 * b + 2] - track[3 * a + 2]) * fps) / Math.max(1, b - a)
}
function stretchOf(gap: Float32Array, f: number, fps: number): number {
  const n = gap.length / 3, reach = Math.max(1, Math.round(LOOK * fps))
  const a = Math.max(0, f - reach), b = Math.min(n - 1, f + reach)
  const size = (i: number): number => Math.hypot(gap[3 * i], gap[3 * i + 1], gap[3 * i + 2])
  return ((size(b) - size(a)) * fps) / Math.max(1, b - a)
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
