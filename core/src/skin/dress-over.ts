import { breather, partOf, vec3At, type WorkOptions } from '../math'
import { boundsOf, closestOnSurface, type ClosestOnSurface, groupsAround, usedVertices } from '../mesh'
import { sampleSurface } from '../shape'
import { atBind, boneSegments, type Skeleton } from '../skeleton'
import { carryWeights } from './carry-weights'
import { addPoint, emptySkin, gatherInto } from './gather'
import { withRows, type Skin } from './skin'

/** Places of the flesh that cloth standing off it listens to. */
const PLACES = 1500
/** Cloth up to the first share of height off the flesh follows what lies right beneath; from the second on, all about it. */
const OFF = [0.015, 0.06] as const

/**
 * Cloth takes its weights from the flesh it is worn on: where it lies close, from what is right beneath; where it hangs
 * free, from all that lies about it, nearer places more, so that it passes from limb to limb the more softly the farther
 * off it hangs and nothing jumps between the legs of a robe. A hand that hangs beside a skirt moves nothing of it: only
 * bones that the cloth surrounds do, with what carries them; cloth that surrounds none and hangs from the trunk, a cape,
 * goes with the trunk alone.
 * Method: inverse distance weighting after Shepard 1968 with the fifth power, so that cloth hears what lies about as far off as it stands off itself; close by, inpainting (see `carryWeights`).
 * @param flesh triangles of what it is worn on, over all vertices  @param cloth its own triangles  @param skin told at the flesh
 */
export async function dressOver(
  positions: Float32Array,
  flesh: Uint32Array,
  cloth: Uint32Array,
  skeleton: Skeleton,
  skin: Skin,
  work: WorkOptions = {},
): Promise<Skin> {
  const pulse = breather(work)
  const joints = skeleton.names.length
  const own = usedVertices(positions, cloth)
  const about = await movedBy(positions, cloth, skeleton, pulse)
  const source = fleshOf(flesh, skin, about ?? trunkOf(skeleton))
  const { min, max } = boundsOf(positions)
  const height = max[1] - min[1]
  let beneath = source.length > 0 ? source : flesh
  let closest = closestOnSurface(positions, beneath)
  if (!about && beneath !== flesh) {
    const all = closestOnSurface(positions, flesh)
    if (!touches(all, closest, own.positions, 0.025 * height)) {
      beneath = flesh
      closest = all
    }
  }
  const surface = { positions, indices: beneath }
  const carried = await carryWeights(surface, skin, own, joints, { ...partOf(work, 0, 0.6), closest })
  const places = sampleSurface(positions, beneath, PLACES)
  const rows = emptySkin(PLACES, skin.influences)
  const gather = gatherInto(rows, joints)
  for (let i = 0; i < PLACES; i++) {
    if (i % 512 === 0) await pulse(0.6 + (0.1 * i) / PLACES)
    const [x, y, z] = vec3At(places, i)
    addPoint(gather, skin, beneath, closest.nearest(x, y, z)!)
    gather.settle(i)
  }
  const mixed = emptySkin(own.from.length, carried.skin.influences)
  const out = gatherInto(mixed, joints)
  const k = rows.influences,
    c = carried.skin.influences
  const heard = new Float64Array(PLACES)
  const blur = (0.01 * height) ** 2
  for (let v = 0; v < own.from.length; v++) {
    if (v % 256 === 0) await pulse(0.7 + (0.3 * v) / own.from.length)
    const [x, y, z] = vec3At(own.positions, v)
    const off = closest.nearest(x, y, z)!.distance / height
    const free = Math.min(1, Math.max(0, (off - OFF[0]) / (OFF[1] - OFF[0])))
    for (let i = v * c; i < v * c + c; i++)
      if (carried.skin.weights[i] > 0) out.add(carried.skin.joints[i], (1 - free) * carried.skin.weights[i])
    if (free > 0) {
      let sum = 0
      for (let i = 0; i < PLACES; i++) {
        const dx = places[3 * i] - x,
          dy = places[3 * i + 1] - y,
          dz = places[3 * i + 2] - z
        const d = dx * dx + dy * dy + dz * dz + blur
        heard[i] = 1 / (d * d * Math.sqrt(d))
        sum += heard[i]
      }
      for (let i = 0; i < PLACES; i++) {
        const share = (free * heard[i]) / sum
        if (share < 1e-5) continue
        for (let e = i * k; e < i * k + k; e++)
          if (rows.weights[e] > 0) out.add(rows.joints[e], share * rows.weights[e])
      }
    }
    out.settle(v)
  }
  return withRows(skin, mixed, own.from)
}

/** The joints whose bones cloth lies about, and all that carry them; undefined where it lies about none. */
async function movedBy(
  positions: Float32Array,
  cloth: Uint32Array,
  skeleton: Skeleton,
  pulse: () => Promise<void> | undefined,
): Promise<Set<number> | undefined> {
  const bones = boneSegments(atBind(skeleton))
  const points = bones.flatMap(({ from, to }) =>
    [0.25, 0.5, 0.75].map(t => [0, 1, 2].map(k => from[k] + t * (to[k] - from[k])) as [number, number, number]),
  )
  const { about } = await groupsAround(positions, cloth, () => 0, points, pulse)
  const out = new Set<number>()
  bones.forEach(({ joint }, b) => {
    if (![0, 1, 2].some(i => about[3 * b + i].has(0))) return
    for (let j = joint; j >= 0; j = skeleton.parents[j]) out.add(j)
  })
  return out.size > 0 ? out : undefined
}

const TRUNK = /^(hips|spine|chest|upperChest|neck|head|leftShoulder|rightShoulder)$/
const trunkOf = (skeleton: Skeleton): Set<number> =>
  new Set(skeleton.roles.flatMap((role, j) => (role && TRUNK.test(role) ? [j] : [])))

/** Whether cloth comes as near to a part of the flesh as to all of it, up to some metres. */
function touches(all: ClosestOnSurface, part: ClosestOnSurface, cloth: Float32Array, slack: number): boolean {
  let nearest = Infinity,
    theirs = Infinity
  for (let i = 0; i < cloth.length; i += 3) {
    const [x, y, z] = [cloth[i], cloth[i + 1], cloth[i + 2]]
    nearest = Math.min(nearest, all.nearest(x, y, z)!.distance)
    theirs = Math.min(theirs, part.nearest(x, y, z)!.distance)
  }
  return theirs < nearest + slack
}

/** The triangles of flesh that chosen joints move most. */
function fleshOf(flesh: Uint32Array, skin: Skin, joints: ReadonlySet<number>): Uint32Array {
  const k = skin.influences
  // rows come in falling order
  const theirs = (v: number): boolean => joints.has(skin.joints[v * k])
  const out: number[] = []
  for (let f = 0; f < flesh.length; f += 3)
    if ([0, 1, 2].filter(c => theirs(flesh[f + c])).length >= 2) out.push(flesh[f], flesh[f + 1], flesh[f + 2])
  return Uint32Array.from(out)
}
