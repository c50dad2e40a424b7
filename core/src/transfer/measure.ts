import { distance, scale, sub, vec3At, rotate, type Quat, type Vec3 } from '../math'
import type { Take } from '../motion'
import { worldPose, worldPoseBuffer, type Skeleton } from '../skeleton'
import { footSkate, type Contacts } from '../ground/contacts'

/** How well a transferred take keeps what the performer did; lengths as shares of the figure's height over its feet. */
export interface TransferMeasures {
  readonly footSkateMetresPerSecond: number
  /** Mean distance of hands and feet from where the performer's are, told from the hips and scaled by limb reach. */
  readonly handError: number
  readonly footError: number
  /** Lowest height of a foot joint over the ground, metres as a share of height: negative is under the floor. */
  readonly clearance: number
}

/** Measures a transferred take against the performer's. */
export function measureTransfer(
  performer: Skeleton, pRoles: Readonly<Record<string, number>>, pTake: Take, pFrame: Quat,
  figure: Skeleton, fRoles: Readonly<Record<string, number>>, fTake: Take, fFrame: Quat, contacts: Contacts,
): TransferMeasures {
  const rest = (s: Skeleton, frame: Quat): Vec3[] => {
    const w = worldPose(s)
    return s.names.map((_, j) => rotate(frame, vec3At(w.positions, j)))
  }
  const pr = rest(performer, pFrame)
  const fr = rest(figure, fFrame)
  const reach = (p: readonly Vec3[], roles: Readonly<Record<string, number>>, chain: readonly string[]): number =>
    chain.slice(1).reduce((sum, r, i) => sum + distance(p[roles[r]], p[roles[chain[i]]]), 0)
  const limbs = [
    ...['left', 'right'].map(s => ({ end: 'Hand', chain: [`${s}UpperArm`, `${s}LowerArm`, `${s}Hand`] })),
    ...['left', 'right'].map(s => ({ end: 'Foot', chain: [`${s}UpperLeg`, `${s}LowerLeg`, `${s}Foot`] })),
  ].map(l => ({ ...l, ratio: reach(fr, fRoles, l.chain) / (reach(pr, pRoles, l.chain) || 1) }))
  const height = Math.max(...fr.map(p => p[1])) - Math.min(...fr.map(p => p[1])) || 1
  const pp = worldPoseBuffer(performer.names.length)
  const fp = worldPoseBuffer(figure.names.length)
  const sums = { Hand: 0, Foot: 0 }
  let lowest = Infinity
  const floor = Math.min(...['leftToes', 'rightToes', 'leftFoot', 'rightFoot'].flatMap(r => (fRoles[r] === undefined ? [] : [fr[fRoles[r]][1]])))
  for (let f = 0; f < fTake.frames; f++) {
    worldPose(performer, pTake.translations, pTake.rotations, f * performer.names.length, pp)
    worldPose(figure, fTake.translations, fTake.rotations, f * figure.names.length, fp)
    for (const limb of limbs) {
      const theirs = rotate(pFrame, sub(vec3At(pp.positions, pRoles[limb.chain[2]]), vec3At(pp.positions, pRoles[limb.chain[0]])))
      const own = rotate(fFrame, sub(vec3At(fp.positions, fRoles[limb.chain[2]]), vec3At(fp.positions, fRoles[limb.chain[0]])))
      sums[limb.end as 'Hand' | 'Foot'] += distance(own, scale(theirs, limb.ratio))
      if (limb.end === 'Foot') {
        const toes = fRoles[limb.chain[2].replace('Foot', 'Toes')] ?? fRoles[limb.chain[2]]
        lowest = Math.min(lowest, rotate(fFrame, vec3At(fp.positions, toes))[1] - floor)
      }
    }
  }
  const n = Math.max(1, 2 * fTake.frames)
  return {
    footSkateMetresPerSecond: footSkate(figure, fRoles, fTake, fFrame, contacts),
    handError: sums.Hand / n / height, footError: sums.Foot / n / height, clearance: lowest / height,
  }
}
