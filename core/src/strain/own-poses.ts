import { z } from 'zod'
import { poseTurnSchema, type Skeleton } from '../skeleton'
import { chainPoses } from './chain-poses'
import { ALL_POSES, type CheckPose } from './check-poses'
import { canTakePose } from './take-pose'

/** A pose that somebody kept to check the skin in. */
export const ownPoseSchema = z.object({
  id: z.string().min(1).max(80),
  label: z.string().min(1).max(120),
  turns: z.array(poseTurnSchema).max(20_000),
  /** How far the hips are shifted, see `figurePoseSchema`; a skin is checked without it. */
  shift: z.tuple([z.number(), z.number(), z.number()]).optional(),
})
export type OwnPose = z.infer<typeof ownPoseSchema>

/** Every pose a figure is checked in, in the order they are played: those of bodies, those of its chains, those kept by hand. */
export const posesOf = (skeleton: Skeleton, own: readonly OwnPose[] = []): CheckPose[] =>
  [...ALL_POSES, ...chainPoses(skeleton), ...own.map((p): CheckPose => ({ ...p, group: 'own' }))].filter(p =>
    canTakePose(skeleton, p),
  )
