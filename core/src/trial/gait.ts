import { angleOf, conjugate, fromAxisAngle, IDENTITY, multiply, quatAt, rotate, setQuat, setVec3, slerp, vec3At, type Quat, type Vec3 } from '../math' // prettier-ignore
import { rootPath, runsOf, sampleTake, takeSeconds, type Contacts, type MovingGround, type Played } from '../motion'
import { rootAbove, worldPose } from '../skeleton'
import { legsOf } from '../body'

/** One cycle of a take, in place and facing ahead, that runs on without a jump. */
export interface Gait {
  readonly name: string
  /** Metres a second it was performed at; 0 for one that stands. */
  readonly speed: number
  /** Seconds of the cycle: from one landing of the first leg to the next. */
  readonly seconds: number
  /** Poses at even shares of the cycle, the first as the first leg lands: 4·J·K and 3·J·K. */
  readonly samples: number
  readonly rotations: Float32Array
  readonly translations: Float32Array
  /** When each foot rests, K by leg. */
  readonly rests: Contacts
}

/** Cycles shorter or longer than the usual one by more than this are none. */
const LIKE = 0.25

/**
 * The cycle of a take that walks, runs or trots: of all from landing to landing of the first leg, the one whose ends are most alike.
 * Travel and turn are taken out at an even pace, so that the body keeps the sway it has over it; what is left between the ends is spread over the
 * cycle.
 * @param ground how it runs away under a take on the spot
 * @param unit metres a unit of the skeleton is
 * @returns undefined where no leg lands twice
 */
export function gaitOf(
  played: Played,
  contacts: Contacts,
  { ground, unit = 1 }: { readonly ground?: MovingGround; readonly unit?: number } = {},
): Gait | undefined {
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
export const standOf = (played: Played, unit = 1): Gait => {
  const all = Object.fromEntries(legsOf(played.joints).map(leg => [leg, new Uint8Array(played.take.frames).fill(1)]))
  const made = cycleOf(played, all, 0, played.take.frames - 1, undefined, unit)
  return { ...made, speed: 0 }
}

function poseDistance({ take }: Played, a: number, b: number): number {
  const J = take.rotations.length / (4 * take.frames)
  let sum = 0
  for (let j = 0; j < J; j++) sum += angleOf(quatAt(take.rotations, a * J + j), quatAt(take.rotations, b * J + j))
  return sum
}

function cycleOf(
  played: Played,
  contacts: Contacts,
  from: number,
  to: number,
  gone: readonly [number, number] | undefined,
  unit: number,
): Gait {
  const { skeleton, joints, take, frame } = played
  const J = skeleton.names.length
  const path = rootPath(played)
  const seconds = Math.max((to - from) / take.fps, 1 / take.fps)
  const [dx, dz] = gone ?? [path.across[to] - path.across[from], path.ahead[to] - path.ahead[from]]
  const far = Math.hypot(dx, dz)
  const turned = path.turn[to] - path.turn[from]
  const speed = (far * unit) / seconds
  // what goes somewhere faces where it goes; what stands faces as it does
  const facing = speed > 0.1 ? Math.atan2(dx, dz) - turned / 2 : path.turn[from]
  const stand = rotate(frame, vec3At(worldPose(skeleton).positions, joints.hips))
  const root = rootAbove(skeleton, joints.hips)
  const back = conjugate(frame)
  const samples = Math.max(2, Math.round(Math.max(seconds * 60, 2)))
  const rotations = new Float32Array(4 * J * samples)
  const translations = new Float32Array(3 * J * samples)
  const buffer = { rotations: new Float64Array(4 * J), translations: new Float64Array(3 * J) }
  const moves = gone === undefined
  const at = (share: number): { R: Float32Array; T: Float32Array } => {
    sampleTake(take, Math.min((from + share * (to - from)) / take.fps, takeSeconds(take)), buffer)
    const R = Float32Array.from(buffer.rotations)
    const T = Float32Array.from(buffer.translations)
    const origin: Vec3 = [
      stand[0] + path.across[from] + (moves ? share * dx : 0),
      0,
      stand[2] + path.ahead[from] + (moves ? share * dz : 0),
    ]
    const turn = fromAxisAngle([0, 1, 0], -(facing + share * turned))
    const p = rotate(frame, vec3At(T, root))
    setVec3(T, root, rotate(back, rotate(turn, [p[0] - origin[0], p[1], p[2] - origin[2]])))
    setQuat(R, root, multiply(multiply(multiply(back, turn), frame), quatAt(R, root)))
    return { R, T }
  }
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
  return { name: take.name, speed, seconds, samples, rotations, translations, rests }
}
