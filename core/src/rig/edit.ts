import { z } from 'zod'

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
  z.object({ kind: z.literal('rename'), names: z.record(z.string(), ref) }),
  z.object({ kind: z.literal('number') }),
  z.object({ kind: z.literal('roles'), roles: z.record(z.string(), z.string()) }),
  z.object({
    kind: z.literal('aim'),
    convention: z.object({ along: axis, hinge: axis }),
    joints: z.array(ref).optional(),
  }),
  z.object({ kind: z.literal('hinge'), joint: ref, degrees: z.number().min(-180).max(180), mirror: z.boolean() }),
  z.object({ kind: z.literal('bend'), joint: ref, degrees: z.number().min(0.5).max(30) }),
  z.object({ kind: z.literal('match'), from: z.enum(['left', 'right']) }),
  z.object({
    kind: z.literal('rest'),
    pose: z.enum(['arms-out', 'arms-down', 'given']),
    degrees: z.number().min(0).max(90),
    rotations: z.record(z.string(), quat).optional(),
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
      return `Hang ${edit.joint} on ${edit.parent}`
    case 'add':
      return `Add ${edit.name}`
    case 'rename':
      return 'Rename joints'
    case 'number':
      return 'Number joints of one name'
    case 'roles':
      return 'Settle roles'
    case 'aim':
      return 'Aim joints along their bones'
    case 'hinge':
      return `Turn the hinge of ${edit.joint}`
    case 'bend':
      return `Bend ${edit.joint} a little`
    case 'match':
      return `Match the other side to the ${edit.from}`
    case 'rest':
      return edit.pose === 'given'
        ? 'Make this the rest pose'
        : `Rest with ${edit.pose === 'arms-out' ? 'arms out' : 'arms down'}`
    case 'weights':
      return {
        normalise: 'Make weights sum to one',
        limit: 'Limit influences',
        fill: 'Give weight to loose vertices',
        unbleed: 'Take away influence across gaps',
      }[edit.fix]
  }
}
