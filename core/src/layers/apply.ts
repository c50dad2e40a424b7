import { conjugate, multiply, quatAt, rotate, rotateAt, setQuat, slerp } from '../math'
import { createLimbSolver, type Played, type Take } from '../motion'
import { forwardKinematics, rootAbove, waysTo, worldPoseBuffer } from '../skeleton'
import { curveOf, readCurve, type Curve } from './curve'
import { driveOf, layerParts, turnBy, type Drive } from './drive'
import { mirroredKey, readChannel, type ChannelKind, type Layer, type LayerKey } from './layer'

/** How the time and the sides of a take come from its recording's. */
export interface LayerClock {
  /** Seconds of the take at seconds of the recording. */
  readonly timeOf: (seconds: number) => number
  /** Left and right were exchanged after the recording. */
  readonly mirrored: boolean
}
export const SAME_CLOCK: LayerClock = { timeOf: s => s, mirrored: false }

/** A channel of which the figure has no such part, by the layer's name. */
export interface LostChannel {
  readonly layer: string
  readonly channel: string
}

/** Layers made ready for one take on one figure. */
export interface Layering {
  /**
   * One frame with all layers on it.
   * @param rotations 4·J and translations 3·J, local, receive it
   * @returns false where no layer changes the frame
   */
  frame(f: number, rotations: Float32Array, translations: Float32Array): boolean
  readonly lost: readonly LostChannel[]
}

interface Driven extends Drive {
  readonly curve: Curve
}

interface ReadyLayer {
  readonly mode: Layer['mode']
  readonly weight: number
  readonly weights?: Curve
  readonly driven: readonly Driven[]
}

/**
 * Makes layers ready for a take. Later layers go on top of earlier ones; in each, joints are turned first, then the hips moved
 * over feet that stay, then ends of limbs brought where they belong. What is muted or has no weight changes nothing.
 */
export function createLayering(played: Played, layers: readonly Layer[], clock: LayerClock = SAME_CLOCK): Layering {
  const { skeleton, joints, take } = played
  const J = skeleton.names.length
  const parts = layerParts(played)
  const lost: LostChannel[] = []
  const ready = layers.flatMap((layer): ReadyLayer[] => {
    if (layer.muted || layer.weight <= 0) return []
    const driven: Driven[] = []
    let weights: Curve | undefined
    for (const [name, keys] of byChannel(layer.keys, clock.mirrored)) {
      const channel = readChannel(name)
      const curve = curveOf(keys, clock.timeOf)
      if (channel?.kind === 'weight') weights = curve
      else {
        const one = channel && driveOf(played, parts, channel.kind, channel.joint)
        if (one) driven.push({ ...one, curve })
        else lost.push({ layer: layer.name, channel: name })
      }
    }
    driven.sort((a, b) => ORDER[a.kind] - ORDER[b.kind])
    return driven.length > 0 ? [{ mode: layer.mode, weight: layer.weight, weights, driven }] : []
  })
  const root = rootAbove(skeleton, joints.hips ?? 0)
  const pose = worldPoseBuffer(J)
  const ways = waysTo(skeleton, [...[...parts.limbs.values()].map(l => l.limb.end), parts.trunk])
  const solver = createLimbSolver(skeleton)
  const value = new Float64Array(3)
  const shift = new Float64Array(3)
  const turnNow = new Float64Array(4)

  function turn({ joint, axes, bindLocal, curve }: Driven, mode: Layer['mode'], w: number, R: Float32Array): void {
    readCurve(curve, time, value)
    const by = turnBy(value, axes, mode === 'add' ? w : 1)
    const now = quatAt(R, joint)
    if (mode === 'add') {
      if (by) setQuat(R, joint, multiply(now, by))
    } else setQuat(R, joint, slerp(now, by ? multiply(bindLocal, by) : bindLocal, w))
  }
  /** A shift told in shares of a length, in the skeleton's own space. */
  function shiftOf({ curve, long, trunk, trunkBind }: Driven): void {
    readCurve(curve, time, value)
    const own = rotate(parts.back, [long * value[0], long * value[1], long * value[2]])
    if (trunk < 0) return void shift.set(own)
    for (let c = 0; c < 4; c++) turnNow[c] = pose.rotations[4 * trunk + c]
    const told = rotate(conjugate(trunkBind), own)
    rotateAt(shift, 0, turnNow, 0, told[0], told[1], told[2])
  }
  function move(driven: Driven, mode: Layer['mode'], w: number, R: Float32Array, T: Float32Array): void {
    forwardKinematics(skeleton.parents, undefined, T, R, 0, pose)
    shiftOf(driven)
    if (mode === 'replace') {
      // told from where the hips are as bound
      const h = 3 * driven.joint
      for (let k = 0; k < 3; k++) shift[k] += parts.bind.positions[h + k] - pose.positions[h + k]
    }
    const [x, y, z] = [w * shift[0], w * shift[1], w * shift[2]]
    if (x * x + y * y + z * z < 1e-14) return
    T[3 * root] += x
    T[3 * root + 1] += y
    T[3 * root + 2] += z
    forwardKinematics(skeleton.parents, undefined, T, R, 0, pose)
    for (const { limb } of parts.legs) solver.solve(limb, pose, R, 0, -x, -y, -z)
  }
  function reach(driven: Driven, mode: Layer['mode'], w: number, R: Float32Array, T: Float32Array): void {
    const limb = driven.limb!
    forwardKinematics(skeleton.parents, ways, T, R, 0, pose)
    shiftOf(driven)
    if (mode === 'replace') {
      // told from where the limb begins
      const u = 3 * limb.upper,
        e = 3 * limb.end
      for (let k = 0; k < 3; k++) shift[k] += pose.positions[u + k] - pose.positions[e + k]
    }
    const [x, y, z] = [w * shift[0], w * shift[1], w * shift[2]]
    if (x * x + y * y + z * z < 1e-14) return
    solver.solve(limb, pose, R, 0, x, y, z)
  }

  let time = 0
  function changes({ mode, driven }: ReadyLayer): boolean {
    if (mode === 'replace') return true
    return driven.some(({ curve }) => {
      readCurve(curve, time, value)
      return value[0] !== 0 || value[1] !== 0 || value[2] !== 0
    })
  }
  function layOn(f: number, R: Float32Array, T: Float32Array): boolean {
    R.set(take.rotations.subarray(4 * J * f, 4 * J * (f + 1)))
    T.set(take.translations.subarray(3 * J * f, 3 * J * (f + 1)))
    time = f / take.fps
    let changed = false
    for (const layer of ready) {
      if (!changes(layer)) continue
      let w = layer.weight
      if (layer.weights) {
        readCurve(layer.weights, time, value)
        w *= Math.min(1, Math.max(0, value[0]))
      }
      if (w <= 0) continue
      changed = true
      for (const one of layer.driven)
        if (one.kind === 'turn') turn(one, layer.mode, w, R)
        else if (one.kind === 'move') move(one, layer.mode, w, R, T)
        else reach(one, layer.mode, w, R, T)
    }
    return changed
  }
  return { frame: layOn, lost }
}

const ORDER: Readonly<Record<ChannelKind, number>> = { turn: 0, move: 1, reach: 2, weight: 3 }

function byChannel(keys: readonly LayerKey[], mirrored: boolean): Map<string, LayerKey[]> {
  const out = new Map<string, LayerKey[]>()
  for (const told of keys) {
    const key = mirrored ? mirroredKey(told) : told
    const list = out.get(key.channel)
    if (list) list.push(key)
    else out.set(key.channel, [key])
  }
  return out
}

/**
 * A take with layers on it. The take itself stays as it is; frames that no layer changes are the same, to the bit.
 * @returns the take itself where nothing is changed
 */
export function applyLayers(
  played: Played,
  layers: readonly Layer[],
  clock: LayerClock = SAME_CLOCK,
): { readonly take: Take; readonly lost: readonly LostChannel[] } {
  const { skeleton, take } = played
  const layering = createLayering(played, layers, clock)
  const J = skeleton.names.length
  let rotations: Float32Array | undefined, translations: Float32Array | undefined
  const R = new Float32Array(4 * J),
    T = new Float32Array(3 * J)
  for (let f = 0; f < take.frames; f++) {
    if (!layering.frame(f, R, T)) continue
    rotations ??= take.rotations.slice()
    translations ??= take.translations.slice()
    rotations.set(R, 4 * J * f)
    translations.set(T, 3 * J * f)
  }
  return {
    take: rotations && translations ? { ...take, rotations, translations } : take,
    lost: layering.lost,
  }
}
