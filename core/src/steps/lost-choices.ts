import type { Mesh } from '../mesh'
import type { Received } from '../formats'
import type { Recipe } from '../recipe'
import { GROUND } from '../props'
import type { SurfaceEdit } from '../shape'
import { findJoint, type Skeleton } from '../skeleton'

const GONE: Readonly<Record<SurfaceEdit['kind'], string>> = {
  weld: 'Rims that were brought together are not there any more.',
  fill: 'A hole that was filled is not there any more.',
  'fill-small': 'The small holes that were filled are not there any more.',
  turned: 'Faces that were turned are not there any more, or look outwards now.',
  empty: 'A face without area that was removed is not there any more.',
  crowded: 'Faces that lay there twice and were removed are not there any more.',
}

/** What was chosen about pieces and materials that the body does not have, and joints that pieces were to ride on. */
export function lostChoices(
  recipe: Pick<Recipe, 'pieces' | 'normalMaps' | 'correctives' | 'props'>,
  received: Pick<Received, 'mesh' | 'materials'>,
  mesh: Pick<Mesh, 'parts'>,
  skeleton?: Skeleton,
  surface: readonly SurfaceEdit[] = [],
): { where: string; reason: string }[] {
  const out: { where: string; reason: string }[] = []
  const known = new Set([...(received.mesh?.parts ?? []), ...mesh.parts].flatMap(p => [p.name, ...(p.aka ?? [])]))
  for (const [name, { role, label, joint }] of Object.entries(recipe.pieces)) {
    // whether it is shown says nothing about how it moves
    if (role === undefined && label === undefined) continue
    if (!known.has(name))
      out.push({
        where: name,
        reason: `The body has no piece ${name} any more; what was chosen for it waits until it comes back.`,
      })
    else if (role === 'rigid' && joint && skeleton && findJoint(skeleton, joint) < 0)
      out.push({ where: name, reason: `${label ?? name} was to ride on ${joint}, which the skeleton does not have.` })
  }
  const materials = new Set(received.materials?.map(m => m.name))
  for (const name of recipe.normalMaps)
    if (!materials.has(name))
      out.push({
        where: name,
        reason: `The body has no material ${name} any more, whose image was to be a normal map.`,
      })
  for (const { label, turns } of recipe.correctives ?? []) {
    const gone = skeleton && turns.find(t => findJoint(skeleton, t.joint) < 0)
    if (gone)
      out.push({
        where: label,
        reason: `The corrective ${label} is driven by ${gone.joint}, which the skeleton does not have; it waits until it does.`,
      })
  }
  for (const { name, carry } of recipe.props ?? []) {
    const gone = [carry.by, ...(carry.second ? [carry.second.by] : [])].find(
      by => skeleton && by !== GROUND && findJoint(skeleton, by) < 0,
    )
    if (gone)
      out.push({
        where: name,
        reason: `${name} is carried by ${gone}, which the skeleton does not have; it waits until it does.`,
      })
  }
  for (const { kind } of surface)
    out.push({
      where: 'surface',
      reason: GONE[kind],
    })
  return out
}
