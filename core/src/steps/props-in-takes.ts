import { IDENTITY, vec3At, type Quat } from '../math'
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
import { worldPose, type Skeleton } from '../skeleton'
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

/** Courses on a take whose travel was taken away: they go along with the hips. */
export function coursesOn(
  { take, figureSkeleton: skeleton, figure }: Pick<Performed, 'take' | 'figureSkeleton' | 'figure'>,
  before: Take,
  courses: readonly PropCourse[],
): readonly PropCourse[] {
  if (take === before) return courses
  const J = skeleton.names.length
  const hips = figure.joints.hips ?? 0
  const at = (t: Take, f: number): ReturnType<typeof vec3At> =>
    vec3At(worldPose(skeleton, t.translations, t.rotations, J * f).positions, hips)
  const shift = Array.from({ length: take.frames }, (_, f) => {
    const [a, b] = [at(before, f), at(take, f)]
    return [b[0] - a[0], b[1] - a[1], b[2] - a[2]]
  })
  return courses.map(c => ({ ...c, places: c.places.map((v, i) => v + shift[Math.floor(i / 3)][i % 3]) }))
}
