import { IDENTITY, quatAt, setQuat, setVec3, vec3At, within, type Quat } from '../math'
import type { LayerClock } from '../layers'
import type { Take } from '../motion'
import type { Performed } from '../perform'
import {
  propsOnFigure,
  propsThroughTake,
  type KnownProp,
  type PropCourse,
  type PropKey,
  type PropsOnFigure,
} from '../props'
import type { Recipe } from '../recipe'
import type { Skeleton } from '../skeleton'
import type { Carrying, StepContext } from './types'

/** The figure's props with what their files come to, on its skeleton. */
export async function propsOf(
  { recipe, get }: Pick<StepContext<'held'>, 'get'> & { readonly recipe: Recipe },
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
): Promise<PropsOnFigure> {
  const list: KnownProp[] = []
  for (const prop of recipe.props ?? []) list.push({ prop, thing: await get('prop', prop.id) })
  return propsOnFigure(skeleton, joints, [...IDENTITY] as Quat, await get('holding'), list)
}

/** A take with its props: hands that hold them, and where each is. */
export async function carryProps(
  context: Parameters<typeof propsOf>[0],
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  take: Take,
  keys: readonly PropKey[] | undefined,
  clock?: LayerClock,
): Promise<Carrying & { readonly take: Take }> {
  const on = await propsOf(context, skeleton, joints)
  return propsThroughTake(on, { skeleton, take }, keys, clock)
}

/** Courses on a take that was moved as a whole: they go along. */
export function coursesOn(moved: Performed['moved'], courses: readonly PropCourse[]): readonly PropCourse[] {
  if (!moved) return courses
  return courses.map(course => {
    const places = course.places.slice()
    const turns = course.turns.slice()
    for (let f = 0; f < turns.length / 4; f++) {
      const { at, turn } = within(moved(f), { at: vec3At(course.places, f), turn: quatAt(course.turns, f) })
      setVec3(places, f, at)
      setQuat(turns, f, turn)
    }
    return { ...course, places, turns }
  })
}
