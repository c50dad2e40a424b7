import { angleOf, conjugate, fromAxisAngle, IDENTITY, multiply, quatAt, rotate, setQuat, setVec3, slerp, vec3At, type Quat, type Vec3 } from '../math' // prettier-ignore
import {
  rootPath,
  runsOf,
  sampleTake,
  takeSeconds,
  type Contacts,
  type MovingGround,
  type Played,
  type Take,
} from '../motion'
import { rootAbove, worldPose } from '../skeleton'
import { legsOf } from '../body'

/**
 * A take made ready to be played, in place and facing ahead: a cycle of steps, a stand that runs on without a jump, or
 * something done once.
 */
export interface Clip {
  readonly name: string
  /** A cycle of steps begins as the first leg lands, runs on and is blended with others in step. */
  readonly kind: 'steps' | 'stand' | 'once'
  /** Metres a second it was performed at; 0 for one that stands. */
  readonly speed: number
  /** Radians a second it turns to the left. */
  readonly turn: number
  /** Seconds of it: of steps from one landing of the first leg to the next. */
  readonly seconds: number
  /** Poses at even shares of it: 4·J·K and 3·J·K. What runs on comes back to the first, what is done once ends with the last. */
  readonly samples: number
  readonly rotations: Float32Array
  readonly translations: Float32Array
  /** When each foot rests, K by leg. */
  readonly rests: Contacts
  /** Where what is done once has taken the body: to the left, ahead (metres) and turned (radians), 3·K. */
  readonly way?: Float32Array
  /** Of what is done once: the metres a second it goes at as it begins, and as it ends, where it does so as the first leg lands. */
  readonly begins?: number
  readonly ends?: number
  /** Moments in it, at shares of it. */
  readonly cues?: readonly { readonly at: number; readonly name: string }[]
}

/** How a take is made ready. */
export interface ClipOptions {
  /** How the ground runs away under a take on the spot. */
  readonly ground?: MovingGround
  /** Metres a unit of the skeleton is. */
  readonly unit?: number
}

/** Poses a second of what is made ready. */
const RATE = 60
/** Seconds over which the sway of single steps is evened out of the way something done once goes. */
const EVEN = 0.4
/** Cycles shorter or longer than the usual one by more than this are none. */
const LIKE = 0.25

/**
 * The cycle of a take that walks, runs or trots: of all from landing to landing of the first leg, the one whose ends are most alike.
 * Travel and turn are taken out at an even pace, so that the body keeps the sway it has over it; what is left between the ends is spread over the
 * cycle.
 * @returns undefined where no leg lands twice
 */
export function gaitOf(played: Played, contacts: Contacts, { ground, unit = 1 }: ClipOptions = {}): Clip | undefined {
  const { take, joints } = played
  const [leg] = legsOf(joints).filter(l => contacts[l]?.includes(1))
  if (leg === undefined) return undefined
  const landings = runsOf(contacts[leg]).flatMap(([first]) => (first > 0 ? [first] : []))
  const cycles = landings.slice(1).map((end, i) => ({ from: landings[i], to: end }))
  if (cycles.length === 0) return undefined
  const lengths = cycles.map(c => c.to - c.from).sort((a, b) => a - b)
  const usual = lengths[lengths.length >> 1]
  const fit = cycles
    .filter(c => Math.abs(c.to - c.from - usual) <= Math.max(1, LIKE * usual))
    .map(c => ({ ...c, apart: poseDistance(played, c.from, c.to) }))
    .sort((a, b) => a.apart - b.apart)[0]
  const seconds = (fit.to - fit.from) / take.fps
  return cycleOf(played, contacts, fit.from, fit.to, ground && [-ground.x * seconds, -ground.z * seconds], unit)
}

/** A take that stands, as a cycle of its whole length. */
export const standOf = (played: Played, { unit = 1 }: ClipOptions = {}): Clip => {
  const all = Object.fromEntries(legsOf(played.joints).map(leg => [leg, new Uint8Array(played.take.frames).fill(1)]))
  const made = cycleOf(played, all, 0, played.take.frames - 1, undefined, unit)
  return { ...made, kind: 'stand', speed: 0, turn: 0 }
}

/** A take as it is, from its beginning to its end; where it goes is told apart from what it does. */
export function onceOf(played: Played, contacts: Contacts, { unit = 1 }: ClipOptions = {}): Clip {
  const { take } = played
  const path = rootPath(played, EVEN)
  const last = take.frames - 1
  const seconds = Math.max(takeSeconds(take), 1 / take.fps)
  const samples = Math.max(2, Math.round(seconds * RATE) + 1)
  const channel = (values: Float64Array, share: number): number => {
    const at = share * last
    const f = Math.min(last, Math.floor(at))
    return values[f] + (at - f) * (values[Math.min(last, f + 1)] - values[f])
  }
  const way = new Float32Array(3 * samples)
  const start: Vec3 = [path.across[0], path.turn[0], path.ahead[0]]
  // told from where it begins, facing ahead
  const ahead = fromAxisAngle([0, 1, 0], -start[1])
  const inPlace = placer(played, take)
  const rotations = new Float32Array(4 * inPlace.joints * samples)
  const translations = new Float32Array(3 * inPlace.joints * samples)
  for (let k = 0; k < samples; k++) {
    const share = k / (samples - 1)
    const [x, turn, z] = [channel(path.across, share), channel(path.turn, share), channel(path.ahead, share)]
    const gone = rotate(ahead, [x - start[0], 0, z - start[2]])
    way.set([gone[0] * unit, gone[2] * unit, turn - start[1]], 3 * k)
    const { R, T } = inPlace.at(share * takeSeconds(take), x, z, turn)
    rotations.set(R, 4 * inPlace.joints * k)
    translations.set(T, 3 * inPlace.joints * k)
  }
  const rests = Object.fromEntries(
    Object.entries(contacts).map(([leg, flags]) => [
      leg,
      Uint8Array.from({ length: samples }, (_, k) => flags[Math.round((k / (samples - 1)) * last)]),
    ]),
  )
  const [gx, gz, turned] = way.subarray(3 * (samples - 1))
  return {
    name: take.name,
    kind: 'once',
    speed: Math.hypot(gx, gz) / seconds,
    turn: turned / seconds,
    seconds,
    samples,
    rotations,
    translations,
    rests,
    way,
    cues: (take.events ?? []).map(e => ({ at: e.time / seconds, name: e.name })),
  }
}

function poseDistance({ take }: Played, a: number, b: number): number {
  const J = take.rotations.length / (4 * take.frames)
  let sum = 0
  for (let j = 0; j < J; j++) sum += angleOf(quatAt(take.rotations, a * J + j), quatAt(take.rotations, b * J + j))
  return sum
}

/** Takes moments of a take back to where it stands at rest, facing ahead. */
function placer({ skeleton, joints, frame }: Played, take: Take) {
  const J = skeleton.names.length
  const stand = rotate(frame, vec3At(worldPose(skeleton).positions, joints.hips))
  const root = rootAbove(skeleton, joints.hips)
  const back = conjugate(frame)
  const buffer = { rotations: new Float64Array(4 * J), translations: new Float64Array(3 * J) }
  return {
    joints: J,
    /** @param across @param ahead where the body is then, away from its rest @param turned and how it is turned */
    at(seconds: number, across: number, ahead: number, turned: number): { R: Float32Array; T: Float32Array } {
      sampleTake(take, Math.min(seconds, takeSeconds(take)), buffer)
      const R = Float32Array.from(buffer.rotations)
      const T = Float32Array.from(buffer.translations)
      const turn = fromAxisAngle([0, 1, 0], -turned)
      const p = rotate(frame, vec3At(T, root))
      setVec3(T, root, rotate(back, rotate(turn, [p[0] - stand[0] - across, p[1], p[2] - stand[2] - ahead])))
      setQuat(R, root, multiply(multiply(multiply(back, turn), frame), quatAt(R, root)))
      return { R, T }
    },
  }
}

function cycleOf(
  played: Played,
  contacts: Contacts,
  from: number,
  to: number,
  gone: readonly [number, number] | undefined,
  unit: number,
): Clip {
  const { take } = played
  const path = rootPath(played)
  const seconds = Math.max((to - from) / take.fps, 1 / take.fps)
  const [dx, dz] = gone ?? [path.across[to] - path.across[from], path.ahead[to] - path.ahead[from]]
  const turned = path.turn[to] - path.turn[from]
  const speed = (Math.hypot(dx, dz) * unit) / seconds
  // what goes somewhere faces where it goes; what stands faces as it does
  const facing = speed > 0.1 ? Math.atan2(dx, dz) - turned / 2 : path.turn[from]
  const inPlace = placer(played, take)
  const J = inPlace.joints
  const samples = Math.max(2, Math.round(seconds * RATE))
  const rotations = new Float32Array(4 * J * samples)
  const translations = new Float32Array(3 * J * samples)
  const moves = gone === undefined ? 1 : 0
  const at = (share: number): { R: Float32Array; T: Float32Array } =>
    inPlace.at(
      (from + share * (to - from)) / take.fps,
      path.across[from] + moves * share * dx,
      path.ahead[from] + moves * share * dz,
      facing + share * turned,
    )
  const first = at(0)
  const last = at(1)
  const gaps: Quat[] = Array.from({ length: J }, (_, j) => multiply(conjugate(quatAt(last.R, j)), quatAt(first.R, j)))
  for (let k = 0; k < samples; k++) {
    const share = k / samples
    const { R, T } = at(share)
    for (let j = 0; j < J; j++) {
      setQuat(rotations, k * J + j, multiply(quatAt(R, j), slerp(IDENTITY, gaps[j], share)))
      const t = vec3At(T, j)
      const [a, b] = [vec3At(first.T, j), vec3At(last.T, j)]
      setVec3(translations, k * J + j, [0, 1, 2].map(i => t[i] + share * (a[i] - b[i])) as Vec3)
    }
  }
  const rests = Object.fromEntries(
    Object.entries(contacts).map(([leg, flags]) => [
      leg,
      Uint8Array.from({ length: samples }, (_, k) => flags[Math.round(from + (k / samples) * (to - from))]),
    ]),
  )
  const cues = (take.events ?? [])
    .map(e => ({ at: (e.time * take.fps - from) / (to - from), name: e.name }))
    .filter(c => c.at >= 0 && c.at < 1)
  return { name: take.name, kind: 'steps', speed, turn: turned / seconds, seconds, samples, rotations, translations, rests, cues } // prettier-ignore
}
