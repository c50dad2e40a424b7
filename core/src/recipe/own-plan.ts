import { z } from 'zod'
import { ChiraxisError, scale, sub, vec3At, type Vec3 } from '../math'
import { rigEditSchema, type RigEdit } from '../rig'
import { bindPose, childrenOf, jointRef, type Skeleton } from '../skeleton'
import { PLAN_DEFAULTS, planSchema, type PlanChoice, type Recipe } from './recipe'

/** A skeleton layout to use on other bodies: the plan it grew from and what was made of it by hand. */
export const ownPlanSchema = z.object({
  chiraxisPlan: z.literal(1),
  name: z.string().min(1).max(120),
  plan: planSchema,
  edits: z.array(rigEditSchema).max(2000),
})
export type OwnPlan = z.infer<typeof ownPlanSchema>

/** The layout of a figure built by a plan. Landmark places stay with the body; all edits go along. */
export const planOfRecipe = (recipe: Recipe, name: string): OwnPlan => ({
  chiraxisPlan: 1,
  name,
  plan: recipe.bones.plan,
  edits: recipe.bones.edits,
})

/**
 * The layout of any skeleton whose roles are known: fingers and names as it has them, and every joint without
 * a role hung on where it is, as shares of the body's height.
 * @param height metres
 * @throws ChiraxisError `no-roles` where too few roles are known to reuse it
 */
export function planOfSkeleton(skeleton: Skeleton, height: number, name: string): OwnPlan {
  const has = (role: string): boolean => skeleton.roles.includes(role)
  const fourleg = has('leftHindUpperLeg')
  if (!fourleg && !['hips', 'leftUpperArm', 'rightUpperLeg'].every(has))
    throw new ChiraxisError(
      'no-roles',
      'Too few joints of this skeleton stand for parts of the body, so it cannot be laid on another.',
    )
  const count = (side: string): number =>
    ['Thumb', 'Index', 'Middle', 'Ring', 'Little'].filter(f => skeleton.roles.some(r => r?.startsWith(side + f))).length
  const plan: PlanChoice = {
    ...PLAN_DEFAULTS,
    kind: fourleg ? 'fourleg' : 'biped',
    fingers: { left: count('left'), right: count('right') },
  }
  const pose = bindPose(skeleton)
  const children = childrenOf(skeleton)
  const edits: RigEdit[] = []
  skeleton.names.forEach((own, j) => {
    const p = skeleton.parents[j]
    if (skeleton.roles[j] || p < 0) return
    const at = scale(sub(vec3At(pose.positions, j), vec3At(pose.positions, p)), 1 / height)
    const next = children[j][0]
    const along =
      next === undefined
        ? ([0, 0, 0] as Vec3)
        : scale(sub(vec3At(pose.positions, next), vec3At(pose.positions, j)), 1 / height)
    edits.push({ kind: 'add', parent: jointRef(skeleton, p), name: own, at, along, joints: 1, mirror: false })
  })
  const names = Object.fromEntries(
    skeleton.names.flatMap((n, j) => (skeleton.roles[j] && skeleton.roles[j] !== n ? [[skeleton.roles[j], n]] : [])),
  )
  if (Object.keys(names).length > 0) edits.push({ kind: 'rename', names })
  return { chiraxisPlan: 1, name, plan, edits }
}

/** A recipe laid out by a plan; joint edits made before give way to those of the plan. */
export const withPlan = (recipe: Recipe, own: OwnPlan): Recipe => ({
  ...recipe,
  bones: { source: 'plan', plan: own.plan, edits: own.edits },
})

/** @throws ChiraxisError `bad-syntax`, `bad-version` */
export function parseOwnPlan(data: unknown): OwnPlan {
  const version = (data as { chiraxisPlan?: unknown } | null)?.chiraxisPlan
  if (typeof version === 'number' && version > 1)
    throw new ChiraxisError('bad-version', 'This plan was saved by a newer Chiraxis and cannot be read by this one.')
  const parsed = ownPlanSchema.safeParse(data)
  if (!parsed.success) throw new ChiraxisError('bad-syntax', 'This file does not hold a skeleton plan.')
  return parsed.data
}
