import type { Vec3 } from '@chiraxis/core/math'
import { boundsOf, joinMeshes } from '@chiraxis/core/mesh'
import { bodyPlan, type Palette } from './body'
import type { MadeFigure } from './figure'
import { shellOf } from './outfit'
import { ODA, type Proportions } from './proportions'

/** Tolly, tide-gauge automaton: wide shoulders, elbows that hinge off the bend of the arm, every limb a shell of its own. */
export const TOLLY: Proportions = {
  ...ODA,
  height: 1.86,
  headHeight: 0.12,
  shoulders: 0.128,
  hipSpread: 0.06,
  armsDown: 12,
  armsForward: 6,
  elbowBend: 11,
  torsoGirth: 1.12,
  armGirth: 1.1,
  legGirth: 1.05,
  fingers: 0,
  jacket: 0,
  boots: 0,
  cap: false,
}

const BRASS: Vec3 = [0.42, 0.27, 0.07],
  IRON: Vec3 = [0.12, 0.13, 0.14],
  GLASS: Vec3 = [0.05, 0.16, 0.15]
export const TOLLY_COLORS: Palette = {
  skin: BRASS,
  hair: IRON,
  jacket: IRON,
  shirt: GLASS,
  trousers: BRASS,
  boots: IRON,
  trim: GLASS,
}

const WORDS: Readonly<Record<string, string>> = {
  hips: 'hip shell',
  spine: 'waist shell',
  upperChest: 'chest shell',
  neck: 'neck collar',
  head: 'head shell',
}

/** A body of rigid shells, one closed piece for the volumes of each joint; they overlap where they hinge. */
export function makeAutomaton(p: Proportions, palette: Palette, vertices: number): MadeFigure {
  const plan = bodyPlan(p, palette)
  const roles = [...new Set(plan.groups.flatMap(g => g.blobs.map(b => b.role)))]
  const labels: string[] = []
  const parts = roles.map(role => {
    const blobs = plan.groups.flatMap(g => g.blobs).filter(b => b.role === role)
    const name = WORDS[role] ?? `${role.replace(/([A-Z])/g, c => ` ${c.toLowerCase()}`)} shell`
    const piece = shellOf(name, blobs, Math.round(vertices / roles.length), p.height)
    for (let v = 0; v < piece.positions.length / 3; v++) labels.push(role)
    return piece
  })
  const whole = joinMeshes(parts)
  const ground = boundsOf(whole.positions).min[1]
  const positions = whole.positions.slice()
  for (let i = 1; i < positions.length; i += 3) positions[i] -= ground
  const joints = Object.fromEntries(
    Object.entries(plan.joints).map(([role, q]) => [role, [q[0], q[1] - ground, q[2]] as Vec3]),
  )
  return {
    mesh: { ...whole, positions },
    joints,
    labels,
    near: () => labels.map(role => [{ role, depth: 0, radius: 1 }]),
    height: boundsOf(positions).max[1],
  }
}
