import { conjugate, multiply, quatAt, rotate, setQuat, setVec3, sub, vec3At, type Quat, type Vec3 } from '../math'
import { travelsOnParent, type Beside, type Played, type Take, type TakeEvent } from '../motion'
import { mirroredName, partnerJoint, worldPose, worldPoseBuffer } from '../skeleton'

/**
 * A take with left and right exchanged, on any skeleton whose rest pose is alike on both sides: every joint does what its partner
 * across the midline did, reflected in the body's own frame. Partners are told by role, else by name; joints without one
 * mirror themselves.
 */
export function mirrorTake({ skeleton, joints, take, frame }: Played): Take {
  const J = skeleton.names.length
  const partner = partners(skeleton, joints)
  const back = conjugate(frame)
  const rest = worldPose(skeleton)
  const restOffset = (j: number): Vec3 => {
    const p = skeleton.parents[j]
    return p < 0 ? vec3At(rest.positions, j) : sub(vec3At(rest.positions, j), vec3At(rest.positions, p))
  }
  const middle = rotate(frame, vec3At(rest.positions, joints.hips))[0]
  const flipVector = (v: Vec3): Vec3 => {
    const b = rotate(frame, v)
    return rotate(back, [-b[0], b[1], b[2]])
  }
  const flipPoint = (v: Vec3): Vec3 => {
    const b = rotate(frame, v)
    return rotate(back, [2 * middle - b[0], b[1], b[2]])
  }
  const flipTurn = (q: Quat): Quat => {
    const b = multiply(multiply(frame, q), back)
    return multiply(multiply(back, [b[0], -b[1], -b[2], b[3]]), frame)
  }
  const moves = skeleton.names.map((_, j) => travelsOnParent(take, skeleton.restTranslations, j, 1e-5))
  const rotations = new Float32Array(take.rotations.length)
  const translations = take.translations.slice()
  const pose = worldPoseBuffer(J)
  const world: Quat[] = new Array<Quat>(J)
  for (let f = 0; f < take.frames; f++) {
    worldPose(skeleton, take.translations, take.rotations, f * J, pose)
    for (let j = 0; j < J; j++) {
      const o = partner[j]
      const turn = multiply(quatAt(pose.rotations, o), conjugate(quatAt(rest.rotations, o)))
      world[j] = multiply(flipTurn(turn), quatAt(rest.rotations, j))
      const p = skeleton.parents[j]
      setQuat(rotations, f * J + j, p < 0 ? world[j] : multiply(conjugate(world[p]), world[j]))
      if (!moves[o] && !moves[j]) continue
      if (p < 0) setVec3(translations, f * J + j, flipPoint(vec3At(pose.positions, o)))
      else {
        // a joint that moves on its parent: what its partner's bone became, told from how long its own is
        const theirs = sub(
          vec3At(pose.positions, o),
          vec3At(pose.positions, skeleton.parents[o] < 0 ? o : skeleton.parents[o]),
        )
        const own = Math.hypot(...restOffset(j)),
          other = Math.hypot(...restOffset(o))
        const k = other > 1e-9 && own > 1e-9 ? own / other : 1
        setVec3(
          translations,
          f * J + j,
          rotate(conjugate(world[p]), flipVector([k * theirs[0], k * theirs[1], k * theirs[2]])),
        )
      }
    }
  }
  return { ...take, ...besideMirrored(take, flipTurn, flipPoint), rotations, translations }
}

/** A word of the other side: `left`, `leftHand`, `right-foot`; words that merely begin so are others. */
const otherSide = (word: string): string =>
  word.replace(/^(left|right)(?![a-z])/, side => (side === 'left' ? 'right' : 'left'))

/** A moment of the other side: sides in its name and in what goes along with it are exchanged. */
export const mirroredEvent = (event: TakeEvent): TakeEvent => ({
  ...event,
  name: otherSide(event.name),
  ...(event.data && {
    data: Object.fromEntries(
      Object.entries(event.data).map(([key, v]) => [key, typeof v === 'string' ? otherSide(v) : v]),
    ),
  }),
})

/** The root track mirrored; expressions and moments of one side become those of the other. */
function besideMirrored(take: Take, turn: (q: Quat) => Quat, point: (p: Vec3) => Vec3): Beside {
  const { root, scalars, events } = take
  const translations = new Float32Array(root?.translations.length ?? 0)
  const rotations = new Float32Array(root?.rotations.length ?? 0)
  if (root)
    for (let f = 0; f < take.frames; f++) {
      setVec3(translations, f, point(vec3At(root.translations, f)))
      setQuat(rotations, f, turn(quatAt(root.rotations, f)))
    }
  return {
    ...(root && { root: { translations, rotations } }),
    ...(scalars && { scalars: scalars.map(s => ({ ...s, name: mirroredName(s.name) })) }),
    ...(events && { events: events.map(mirroredEvent) }),
  }
}

function partners(skeleton: Played['skeleton'], joints: Readonly<Record<string, number>>): Int32Array {
  const out = Int32Array.from(skeleton.names, (_, j) => {
    const p = partnerJoint(skeleton, j)
    return p < 0 ? j : p
  })
  for (const [role, j] of Object.entries(joints)) {
    const other = mirroredName(role)
    out[j] = other === role ? j : (joints[other] ?? out[j])
  }
  // partners must agree, or each keeps to itself
  out.forEach((p, j) => {
    if (out[p] !== j) out[j] = j
  })
  return out
}
