import {
  conjugate,
  fromAxisAngle,
  lerp,
  multiply,
  quatAt,
  rotate,
  setQuat,
  setVec3,
  slerp,
  sub,
  add,
  vec3At,
  type Quat,
  type Vec3,
} from '../math'
import { retime, type Beside, type Played, type Take } from '../motion'
import { rootAbove, worldPose } from '../skeleton'

/**
 * Leads the end of a take into its beginning: the last seconds are laid over the first ones, moved and turned over the ground to
 * meet them, and faded out. The result is shorter by the blend and runs on without a jump when it is played again from where
 * it arrived.
 * @param seconds at most a third of the take is used
 */
export function loopSeam({ skeleton, joints, take, frame }: Played, seconds: number): Take {
  const n = Math.min(Math.round(seconds * take.fps), Math.floor(take.frames / 3))
  if (n < 1) return take
  const J = skeleton.names.length
  const root = rootAbove(skeleton, joints.hips)
  const back = conjugate(frame)
  const frames = take.frames - n
  const rotations = take.rotations.slice(0, 4 * J * frames)
  const translations = take.translations.slice(0, 3 * J * frames)
  const place = (f: number): { hips: Vec3; yaw: number } => {
    const w = worldPose(skeleton, take.translations, take.rotations, f * J)
    const at = (role: string): Vec3 => rotate(frame, vec3At(w.positions, joints[role]))
    const across = sub(at('leftUpperLeg'), at('rightUpperLeg'))
    return { hips: at('hips'), yaw: Math.atan2(-across[2], across[0]) }
  }
  // both are brought together in the middle of the blend
  const here = place(Math.floor(n / 2)),
    there = place(frames + Math.floor(n / 2))
  const turn = fromAxisAngle([0, 1, 0], here.yaw - there.yaw)
  const arrive = (p: Vec3): Vec3 => {
    const moved = rotate(turn, sub(p, [there.hips[0], 0, there.hips[2]]))
    return add(moved, [here.hips[0], 0, here.hips[2]])
  }
  const inSpace = multiply(multiply(back, turn), frame)
  for (let f = 0; f < n; f++) {
    const t = (f + 1) / (n + 1)
    const w = t * t * (3 - 2 * t)
    const tail = frames + f
    for (let j = 0; j < J; j++) {
      let q: Quat = quatAt(take.rotations, tail * J + j)
      let p: Vec3 = vec3At(take.translations, tail * J + j)
      if (j === root) {
        q = multiply(inSpace, q)
        p = rotate(back, arrive(rotate(frame, p)))
      }
      setQuat(rotations, f * J + j, slerp(q, quatAt(take.rotations, f * J + j), w))
      setVec3(translations, f * J + j, lerp(p, vec3At(take.translations, f * J + j), w))
    }
  }
  return {
    ...take,
    ...besideBlended(
      take,
      frames,
      n,
      q => multiply(inSpace, q),
      p => rotate(back, arrive(rotate(frame, p))),
    ),
    frames,
    rotations,
    translations,
  }
}

/** What goes along with the take, its end laid over its beginning in the same way. */
function besideBlended(
  take: Take,
  frames: number,
  n: number,
  turned: (q: Quat) => Quat,
  arrived: (p: Vec3) => Vec3,
): Beside {
  const { root, scalars, ...rest } = retime(take, frames, take.fps)
  const weight = (f: number): number => {
    const t = (f + 1) / (n + 1)
    return t * t * (3 - 2 * t)
  }
  for (let f = 0; f < n; f++) {
    const w = weight(f)
    scalars?.forEach((s, i) => {
      const tail = take.scalars![i].values[frames + f]
      s.values[f] = tail + (s.values[f] - tail) * w
    })
    if (!root) continue
    const own = take.root!
    const q = slerp(turned(quatAt(own.rotations, frames + f)), quatAt(own.rotations, f), w)
    setQuat(root.rotations, f, q)
    setVec3(root.translations, f, lerp(arrived(vec3At(own.translations, frames + f)), vec3At(own.translations, f), w))
  }
  return { ...rest, ...(root && { root }), ...(scalars && { scalars }) }
}
