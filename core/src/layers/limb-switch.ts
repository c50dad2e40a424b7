import { conjugate, multiply, quatAt, rotate, rotationVector, sub, vec3At, type Vec3 } from '../math'
import type { Limb, Played } from '../motion'
import { forwardKinematics, jointRef, worldPoseBuffer } from '../skeleton'
import { createLayering } from './apply'
import { curveOf, readCurve } from './curve'
import { draggedShift, driveOf, layerParts, type LayerParts } from './drive'
import { channelName, withKey, type Layer, type LayerKey } from './layer'

const ROUNDS = 60
/** Radians a joint may be off. */
const NEAR = 1e-5
const FAR = 1e-3
const SHARES = [1, 0.8, 0.5, 0.2, 0]

/** The channels a limb is told by: its joints turned, from above, and its end brought somewhere. */
export function limbChannels(below: Omit<Played, 'take'>, end: string): readonly string[] {
  const { skeleton } = below
  const own = layerParts(below).limbs.get(end)
  if (!own) return []
  return [...chainOf(below, own.limb).map(j => channelName('turn', jointRef(skeleton, j))), channelName('reach', end)]
}

function chainOf({ skeleton }: Omit<Played, 'take'>, limb: Limb): number[] {
  const chain: number[] = []
  for (let j = limb.end; j >= 0; j = skeleton.parents[j]) {
    chain.unshift(j)
    if (j === limb.upper) break
  }
  return chain
}

/**
 * A layer that tells a limb joint by joint from a moment on, or by its end, the pose of that moment being the same: its end is
 * brought where it is by the one, or each of its joints is turned as it is by the other; what is left of twist and of the plane
 * it bends in stays with its joints.
 * @param layer lies on top of the take in full  @param below the frame it lies on, alone
 * @param end the limb, by the role of its end  @param at seconds of the recording
 * @returns undefined where it cannot be told so: there is no such limb, or a leg stands while its hips are moved
 */
export function limbTold(
  layer: Layer,
  below: Played,
  end: string,
  by: 'joints' | 'end',
  at: number,
): Layer | undefined {
  const { skeleton } = below
  const parts = layerParts(below)
  const own = parts.limbs.get(end)
  if (!own) return undefined
  const { limb } = own
  const J = skeleton.names.length
  const chain = chainOf(below, limb)
  const channels = limbChannels(below, end)
  const frame = (l: Layer): { R: Float32Array; T: Float32Array } => {
    const out = { R: new Float32Array(4 * J), T: new Float32Array(3 * J) }
    createLayering({ ...below, take: { ...below.take, fps: 1 } }, [still(l, at)]).frame(0, out.R, out.T)
    return out
  }
  const bare = below.take.rotations
  const wanted = frame(layer)
  // the limb as it is without this layer, carried along by all else the layer does
  const free = frame({ ...layer, keys: layer.keys.filter(k => !channels.includes(k.channel)) })
  const drives = new Map(chain.map(j => [j, driveOf(below, parts, 'turn', jointRef(skeleton, j))!]))
  /** The layer with the end brought so far, the joints turned by what that leaves. */
  function solved(reach: Vec3): Layer | undefined {
    /** Turns of the limb's joints before its end is brought anywhere, local. */
    const turned = new Map(chain.map(j => [j, quatAt(free.R, j)]))
    const told = (): Layer => {
      const keys = chain.map((j): LayerKey => {
        const own = rotationVector(multiply(conjugate(quatAt(bare, j)), turned.get(j)!))
        return { at, channel: channelName('turn', jointRef(skeleton, j)), value: rotate(drives.get(j)!.axes, own) }
      })
      const all: LayerKey[] = [...keys, { at, channel: channelName('reach', end), value: reach }]
      return all.reduce((next, key) => withKey(next, key), layer)
    }
    let left = Infinity
    for (let round = 0; round < ROUNDS; round++) {
      const { R } = frame(told())
      let most = 0
      for (const j of chain) {
        const miss = multiply(conjugate(quatAt(R, j)), quatAt(wanted.R, j))
        most = Math.max(most, Math.hypot(...rotationVector(miss)))
        // whatever comes after a joint's own turn goes before it: what is left goes behind
        turned.set(j, multiply(turned.get(j)!, miss))
      }
      if (most < NEAR) return told()
      left = most
    }
    return left < FAR ? told() : undefined
  }
  if (by === 'joints') return solved([0, 0, 0])
  const way = wayOf(below, parts, limb, end, free, wanted)
  // a limb that is nearly straight gives softly: its end is brought less far, and its joints do the rest
  for (const share of SHARES) {
    const made = solved(way.map(v => share * v) as Vec3)
    if (made) return made
  }
  return undefined
}

/** The shift of a limb's end from where it is without a layer to where it is with it, as a key tells it. */
function wayOf(
  below: Played,
  parts: LayerParts,
  limb: Limb,
  end: string,
  free: { readonly R: Float32Array; readonly T: Float32Array },
  wanted: { readonly R: Float32Array; readonly T: Float32Array },
): Vec3 {
  const { parents, names } = below.skeleton
  const [now, then] = [worldPoseBuffer(names.length), worldPoseBuffer(names.length)]
  forwardKinematics(parents, undefined, free.T, free.R, 0, now)
  forwardKinematics(parents, undefined, wanted.T, wanted.R, 0, then)
  const shift = sub(vec3At(then.positions, limb.end), vec3At(now.positions, limb.end))
  return draggedShift(parts, driveOf(below, parts, 'reach', end)!, [0, 0, 0], shift, now, 1)
}

/** A layer as it is at one moment, whatever comes before and after. */
function still(layer: Layer, at: number): Layer {
  let out: Layer = { ...layer, keys: [] }
  for (const channel of new Set(layer.keys.map(k => k.channel))) {
    const own = layer.keys.filter(k => k.channel === channel)
    const value = new Float64Array(3)
    readCurve(curveOf(own), at, value)
    out = withKey(out, { at: 0, channel, value: [...value.subarray(0, own[0].value.length)] })
  }
  return out
}
