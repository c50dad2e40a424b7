import { counted } from '../words'
import { z } from 'zod'
import { poseTurnSchema } from '../skeleton'

const vec3 = z.tuple([z.number(), z.number(), z.number()])
const quat = z.tuple([z.number(), z.number(), z.number(), z.number()])
const axis = z.enum(['+x', '-x', '+y', '-y', '+z', '-z'])
/** A joint by its role or, where it has none, its name. */
const ref = z.string().min(1).max(200)

/**
 * One change made to a skeleton by hand or by a remedy. Places are shares of the figure's height in the
 * joint's own space, and joints are told by role, so that an edit holds on another body and after the
 * landmarks changed.
 */
export const rigEditSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('move'), joint: ref, by: vec3, children: z.boolean(), mirror: z.boolean() }),
  z.object({ kind: z.literal('split'), joint: ref, parts: z.number().int().min(2).max(20), mirror: z.boolean() }),
  z.object({ kind: z.literal('insert'), joint: ref, name: ref, share: z.number().min(0).max(1), mirror: z.boolean() }),
  z.object({ kind: z.literal('remove'), joint: ref, mirror: z.boolean() }),
  z.object({ kind: z.literal('reparent'), joint: ref, parent: ref, mirror: z.boolean() }),
  z.object({
    kind: z.literal('add'),
    parent: ref,
    name: ref,
    at: vec3,
    joints: z.number().int().min(1).max(40),
    along: vec3,
    mirror: z.boolean(),
  }),
  /** A chain drawn through points, each a way from the joint it hangs on, in that joint's limb frame. */
  z.object({
    kind: z.literal('chain'),
    /** Left out, it stands on its own from the ground between the feet. */
    parent: ref.optional(),
    name: ref,
    points: z.array(vec3).min(1).max(400),
    /** Joints spread evenly along it; left out, one at each point, the last point being where the last bone ends. */
    joints: z.number().int().min(1).max(200).optional(),
    /** Parts of the body its joints stand for, from the first on. */
    roles: z.array(z.string().max(60)).max(200).optional(),
    mirror: z.boolean(),
  }),
  /** The skeleton of an appendage hung on a joint. */
  z.object({
    kind: z.literal('attach'),
    parent: ref,
    /** Hash of the file it came in. */
    file: z.string().max(80),
    joints: z
      .array(
        z.object({
          name: ref,
          /** What it is called in its own file. */
          from: z.string().max(300),
          parent: z.number().int().min(-1),
          /** Where it was bound, in the body's own space, and how it is turned there. */
          at: vec3,
          turn: quat,
          tip: vec3.optional(),
        }),
      )
      .min(1)
      .max(5000),
  }),
  z.object({ kind: z.literal('root'), name: ref, at: vec3 }),
  z.object({ kind: z.literal('rename'), names: z.record(z.string(), ref) }),
  z.object({ kind: z.literal('number') }),
  z.object({ kind: z.literal('roles'), roles: z.record(z.string(), z.string()) }),
  z.object({
    kind: z.literal('aim'),
    convention: z.object({ along: axis, hinge: axis, mirrored: z.boolean().optional() }),
    joints: z.array(ref).optional(),
  }),
  z.object({ kind: z.literal('hinge'), joint: ref, degrees: z.number().min(-180).max(180), mirror: z.boolean() }),
  /** A joint's own axes turned freely, told in those axes. */
  z.object({ kind: z.literal('turn'), joint: ref, by: quat, mirror: z.boolean() }),
  z.object({ kind: z.literal('align'), joints: z.array(ref).min(1), to: z.enum(['body', 'parent']) }),
  z.object({ kind: z.literal('bend'), joint: ref, degrees: z.number().min(0.5).max(30) }),
  z.object({ kind: z.literal('match'), from: z.enum(['left', 'right']) }),
  z.object({
    kind: z.literal('rest'),
    pose: z.enum(['arms-out', 'arms-down', 'given', 'posed']),
    degrees: z.number().min(0).max(90),
    /** `given`: local rotations by joint. */
    rotations: z.record(z.string(), quat).optional(),
    /** `posed`: turns in the axes of the body, away from where joints were bound. */
    turns: z.array(poseTurnSchema).max(20_000).optional(),
  }),
  z.object({
    kind: z.literal('weights'),
    fix: z.enum(['normalise', 'limit', 'fill', 'unbleed']),
    influences: z.number().int().min(1).max(8).optional(),
  }),
])
export type RigEdit = z.infer<typeof rigEditSchema>
export type EditOf<K extends RigEdit['kind']> = Extract<RigEdit, { kind: K }>

/** An edit in words, for the undo list and for findings. */
export function editLabel(edit: RigEdit): string {
  switch (edit.kind) {
    case 'move':
      return `Move ${edit.joint}`
    case 'split':
      return `Split ${edit.joint} into ${edit.parts}`
    case 'insert':
      return `Insert ${edit.name}`
    case 'remove':
      return `Remove ${edit.joint}`
    case 'reparent':
      return `${edit.parent} becomes the parent of ${edit.joint}`
    case 'add':
      return `Add ${edit.name}`
    case 'chain':
      return `Draw ${edit.name}`
    case 'attach':
      return `Attach ${counted(edit.joints.length, 'joint')} to ${edit.parent}`
    case 'root':
      return `Add the root ${edit.name}`
    case 'turn':
      return `Turn the axes of ${edit.joint}`
    case 'align':
      return edit.to === 'body' ? 'Turn axes as the body stands' : 'Turn axes as the parents are'
    case 'rename':
      return 'Rename joints'
    case 'number':
      return 'Number joints of one name'
    case 'roles':
      return 'Set roles'
    case 'aim':
      return 'Aim joints along their bones'
    case 'hinge':
      return `Turn the hinge of ${edit.joint}`
    case 'bend':
      return `Bend ${edit.joint} a little`
    case 'match':
      return `Copy to the other side from the ${edit.from}`
    case 'rest':
      return edit.pose === 'given' || edit.pose === 'posed'
        ? 'Make this the rest pose'
        : `Rest in ${edit.pose === 'arms-out' ? 'a T-pose' : 'an A-pose'}`
    case 'weights':
      return {
        normalise: 'Make weights sum to one',
        limit: 'Limit influences',
        fill: 'Give weight to loose vertices',
        unbleed: 'Remove influence across gaps',
      }[edit.fix]
  }
}
