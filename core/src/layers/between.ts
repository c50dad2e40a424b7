import {
  conjugate,
  multiply,
  quatAt,
  rotate,
  rotationVector,
  setQuat,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../math'
import { createLimbSolver, type Limb, type Played, type Take } from '../motion'
import { forwardKinematics, jointRef, rootAbove, worldPoseBuffer } from '../skeleton'
import { createLayering } from './apply'
import { draggedShift, driveOf, layerParts, type Drive } from './drive'
import { channelName, MOST_KEYS, readChannel, withKey, type Layer, type LayerKey } from './layer'

/** How far keys that are left out may let a value be off: radians, and shares of a limb. */
const TURN_OFF = 0.002,
  SHIFT_OFF = 0.0008

const LOOKS = 8

/**
 * The keys of a layer that makes one take of another, as it would have been done by hand: joints of the trunk and ends of limbs
 * turned, the hips moved, hands and feet brought to their places, so that it can be edited further. A limb bends in the plane it
 * has below. Keys that those around them tell as well are left out (Douglas and Peucker 1973).
 * @param below what it lies on  @param wanted what comes of it, on the same skeleton, frame by frame
 * @param recordingOf seconds of the recording at seconds of the takes
 */
export function keysBetween(
  below: Played,
  wanted: Take,
  recordingOf: (seconds: number) => number = s => s,
): readonly LayerKey[] {
  const { skeleton, joints, take, frame } = below
  const J = skeleton.names.length
  const frames = Math.min(take.frames, wanted.frames)
  const parts = layerParts(below)
  const limbs = [...parts.limbs]
  const inLimb = new Set<number>()
  for (const [, { limb }] of limbs)
    for (let j = skeleton.parents[limb.end]; j >= 0; j = skeleton.parents[j]) {
      inLimb.add(j)
      if (j === limb.upper) break
    }
  const ends = new Set(limbs.map(([, { limb }]) => limb.end))
  const root = rootAbove(skeleton, joints.hips ?? 0)
  const hips = joints.hips ?? root
  const solver = createLimbSolver(skeleton)
  const [now, then, tried] = [worldPoseBuffer(J), worldPoseBuffer(J), worldPoseBuffer(J)]
  const local = new Float32Array(4 * J)
  const R = new Float32Array(4 * J),
    T = new Float32Array(3 * J)
  const tracks = new Map<string, { values: Float64Array; off: number }>()
  const put = (channel: string, f: number, value: Vec3, off: number): void => {
    let track = tracks.get(channel)
    if (!track) tracks.set(channel, (track = { values: new Float64Array(3 * frames), off }))
    track.values.set(value, 3 * f)
  }
  const turns = skeleton.names.map((_, j): Drive | undefined =>
    inLimb.has(j) ? undefined : driveOf(below, parts, 'turn', jointRef(skeleton, j)),
  )
  const move = driveOf(below, parts, 'move', 'hips')
  const update = (): void => forwardKinematics(skeleton.parents, undefined, T, R, 0, now)
  for (let f = 0; f < frames; f++) {
    R.set(take.rotations.subarray(4 * J * f, 4 * J * (f + 1)))
    T.set(take.translations.subarray(3 * J * f, 3 * J * (f + 1)))
    forwardKinematics(skeleton.parents, undefined, wanted.translations, wanted.rotations, f * J, then)
    update()
    for (let j = 0; j < J; j++) {
      const drive = turns[j]
      const p = skeleton.parents[j]
      // what a parent was turned by is known to what hangs on it
      const turnOf = (local: Quat): Quat => (p < 0 ? local : multiply(quatAt(now.rotations, p), local))
      setQuat(now.rotations, j, turnOf(quatAt(R, j)))
      if (!drive) continue
      // an end keeps the turn it has in space while its limb is brought somewhere
      const turned: Quat =
        ends.has(j) && p >= 0
          ? multiply(conjugate(quatAt(now.rotations, p)), quatAt(then.rotations, j))
          : quatAt(wanted.rotations, f * J + j)
      const own = rotationVector(multiply(conjugate(quatAt(R, j)), turned))
      if (Math.hypot(...own) < 1e-6) continue
      put(channelName('turn', jointRef(skeleton, j)), f, rotate(drive.axes, own), TURN_OFF)
      setQuat(R, j, turned)
      setQuat(now.rotations, j, turnOf(turned))
    }
    update()
    if (move) {
      const by = sub(vec3At(then.positions, hips), vec3At(now.positions, hips))
      if (Math.hypot(...by) > 1e-6) {
        put(channelName('move', 'hips'), f, rotate(frame, by).map(v => v / move.long) as Vec3, SHIFT_OFF)
        for (let k = 0; k < 3; k++) T[3 * root + k] += by[k]
        update()
        for (const { limb } of parts.legs) solver.solve(limb, now, R, 0, -by[0], -by[1], -by[2])
        update()
      }
    }
  }
  const keysOf = (channels: readonly string[], looser: number): LayerKey[] =>
    channels.flatMap(channel => {
      const { values, off } = tracks.get(channel)!
      return needed(values, frames, looser * off).map((f): LayerKey => ({
        at: f / take.fps,
        channel,
        value: [...values.subarray(3 * f, 3 * f + 3)],
        ease: 'linear',
      }))
    })
  /** What brings a limb's end to where it is to be: more than the way there where the limb gives softly near its full length. */
  function asked(limb: Limb): Vec3 {
    const goal = vec3At(then.positions, limb.end)
    const by = sub(goal, vec3At(now.positions, limb.end))
    for (let look = 0; look < LOOKS; look++) {
      tried.positions.set(now.positions)
      tried.rotations.set(now.rotations)
      local.set(R)
      solver.solve(limb, tried, local, 0, by[0], by[1], by[2])
      const left = sub(goal, vec3At(tried.positions, limb.end))
      if (Math.hypot(...left) < 1e-5) break
      for (let k = 0; k < 3; k++) by[k] += left[k]
    }
    return by
  }
  const turning = [...tracks.keys()]
  for (let looser = 1; ; looser *= 2) {
    const first = keysOf(turning, looser)
    // ends are brought to their places from where the keys that were kept leave them
    const layering = createLayering(below, [{ id: 'first', name: 'first', mode: 'add', weight: 1, keys: first }])
    for (const [role] of limbs) tracks.delete(channelName('reach', role))
    for (let f = 0; f < frames; f++) {
      layering.frame(f, R, T)
      update()
      forwardKinematics(skeleton.parents, undefined, wanted.translations, wanted.rotations, f * J, then)
      for (const [role, { limb }] of limbs) {
        const by = asked(limb)
        if (Math.hypot(...by) < 1e-6) continue
        const drive = driveOf(below, parts, 'reach', role)!
        put(channelName('reach', role), f, draggedShift(parts, drive, [0, 0, 0], by, now, 1), SHIFT_OFF)
      }
    }
    const reached = [...tracks.keys()].filter(c => !turning.includes(c))
    const keys = [...first, ...keysOf(reached, looser)]
    if (keys.length <= MOST_KEYS) return keys.map(k => ({ ...k, at: Math.max(0, recordingOf(k.at)) }))
  }
}

/**
 * A layer that makes one frame of a take another pose: its keys of that moment, whatever it said before.
 * @param below the frame it lies on, alone  @param wanted the pose, 4·J and 3·J local  @param at seconds of the recording
 */
export function withPose(
  layer: Layer,
  below: Played,
  wanted: { readonly rotations: Float32Array; readonly translations: Float32Array },
  at: number,
): Layer {
  const keys = keysBetween(below, { ...below.take, ...wanted }).map(({ ease: _, ...k }) => ({ ...k, at }))
  const told = new Set(keys.map(k => k.channel))
  // what the layer did there otherwise counts for nothing
  const rest = [...new Set(layer.keys.map(k => k.channel))]
    .filter(c => !told.has(c) && readChannel(c)?.kind !== 'weight')
    .map((channel): LayerKey => ({ at, channel, value: [0, 0, 0] }))
  return [...keys, ...rest].reduce((next, key) => withKey(next, key), layer)
}

/** Frames whose values straight lines between them tell all others by; none where nothing is ever told. */
function needed(values: Float64Array, frames: number, off: number): number[] {
  const kept = new Uint8Array(frames)
  const spans: [number, number][] = [[0, frames - 1]]
  kept[0] = kept[frames - 1] = 1
  while (spans.length > 0) {
    const [a, b] = spans.pop()!
    let far = off,
      at = -1
    for (let f = a + 1; f < b; f++) {
      const t = (f - a) / (b - a)
      let square = 0
      for (let k = 0; k < 3; k++)
        square += (values[3 * f + k] - values[3 * a + k] * (1 - t) - values[3 * b + k] * t) ** 2
      if (Math.sqrt(square) <= far) continue
      far = Math.sqrt(square)
      at = f
    }
    if (at < 0) continue
    kept[at] = 1
    spans.push([a, at], [at, b])
  }
  const list: number[] = []
  for (let f = 0; f < frames; f++) if (kept[f]) list.push(f)
  const still = list.every(f => Math.hypot(values[3 * f], values[3 * f + 1], values[3 * f + 2]) <= off)
  return still ? [] : list
}
