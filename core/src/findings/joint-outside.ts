import { bodyPart, isMidline, roleLabel } from '../body'
import { addScaled, distance, normalize, rotate, quatAt, sub, vec3At, type Vec3 } from '../math'
import { landmarkKind } from '../landmarks'
import { cellCentre, nearestSolid, sectionOf } from '../mesh'
import { moveRecord } from '../rig'
import { atBind, boneDirection, findJoint, jointRef, worldPose } from '../skeleton'
import { isCentred } from './off-centre'
import { rounded, type Finding, type FindingContext, type Rule } from './finding'

/** What lies in flesh all around: trunk, head and limbs down to hands and feet, but no toes, fingers, ears or tails. */
const isInner = (role: string): boolean => {
  const part = bodyPart(role)
  return isMidline(role) || (part !== undefined && (part.limb === 'arm' || part.limb === 'leg') && part.part !== 'Toes')
}

/** Where a joint outside the body belongs: the middle of the cut across its bone, else the nearest flesh. */
function inside({ mesh, solid, skeleton }: FindingContext, j: number): Vec3 | undefined {
  if (!mesh || !solid || !skeleton) return undefined
  const bound = atBind(skeleton)
  const world = worldPose(bound)
  const p = vec3At(world.positions, j)
  const cell = nearestSolid(solid, p, 24)
  if (cell < 0) return undefined
  const near = cellCentre(solid, cell)
  const direction = boneDirection(bound, j) ?? rotate(quatAt(world.rotations, j), [0, 1, 0])
  const centre = sectionOf(
    mesh,
    addScaled(near, normalize(sub(near, p), [0, 0, 1]), 0.5 * solid.size),
    direction,
  ).centre
  return centre && distance(centre, near) < 14 * solid.size ? (centre as Vec3) : near
}

/** A joint of the trunk or a limb that lies outside the body. */
export const jointOutside: Rule = {
  id: 'joint-outside',
  detect: ({ skeleton, solid, straightened, landmarks = [] }) => {
    if (!skeleton || !solid || !straightened) return []
    const world = worldPose(atBind(skeleton))
    return skeleton.names.flatMap((_, j): Finding[] => {
      const role = skeleton.roles[j]
      if (!role || !isInner(role)) return []
      const p = vec3At(world.positions, j)
      // a joint that stands where its landmark was put is told and mended there
      const mark = landmarks.find(l => isCentred(l.id) && landmarkKind(l.id)?.role === role)
      if (mark && distance(mark.position, p) < 0.002 * straightened.height) return []
      const cell = nearestSolid(solid, p, 24)
      const off = cell < 0 ? 24 * solid.size : Math.max(0, distance(cellCentre(solid, cell), p) - 0.87 * solid.size)
      if (off < 0.006 * straightened.height) return []
      return [
        {
          rule: 'joint-outside',
          severity: 'warning',
          value: rounded(off * 100),
          unit: 'cm',
          where: roleLabel(role),
          message: `${roleLabel(role)} lies ${(off * 100).toFixed(1)} cm outside the body; the skin around it will shear.`,
          mendable: cell >= 0,
          remedy: 'Moves it to the middle of the limb, its children staying where they are.',
          target: jointRef(skeleton, j),
          place: p,
        },
      ]
    })
  },
  mend: (finding, context) => {
    const { skeleton, straightened } = context
    if (!skeleton || !straightened || !finding.target) return undefined
    const j = findJoint(skeleton, finding.target)
    const to = j < 0 ? undefined : inside(context, j)
    return to && { rig: [moveRecord(skeleton, j, to, straightened.height, { children: false, mirror: false })] }
  },
}
