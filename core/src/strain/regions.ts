import { vec3At } from '../math'
import type { Mesh } from '../mesh'
import { bindPose, type Skeleton } from '../skeleton'

/** Parts of the body that are told apart: around which joints each lies. */
const REGIONS: readonly { readonly id: string; readonly label: string; readonly roles: RegExp }[] = [
  { id: 'head', label: 'Head and neck', roles: /^(neck|head|jaw|leftEye|rightEye)$/ },
  { id: 'trunk', label: 'Trunk', roles: /^(spine|chest|upperChest)$/ },
  { id: 'hips', label: 'Hips', roles: /^hips$/ },
  ...(['left', 'right'] as const).flatMap(side => {
    const word = side === 'left' ? 'Left' : 'Right'
    const of = (parts: string): RegExp => new RegExp(`^${side}(${parts})`)
    return [
      { id: `${side}Shoulder`, label: `${word} shoulder`, roles: of('Shoulder$|UpperArm$') },
      { id: `${side}Elbow`, label: `${word} elbow`, roles: of('LowerArm$') },
      { id: `${side}Hand`, label: `${word} wrist and hand`, roles: of('Hand$|Thumb|Index|Middle|Ring|Little') },
      { id: `${side}Hip`, label: `${word} hip`, roles: of('UpperLeg$') },
      { id: `${side}Knee`, label: `${word} knee`, roles: of('LowerLeg$') },
      { id: `${side}Foot`, label: `${word} ankle and foot`, roles: of('Foot$|Toes') },
    ]
  }),
]
const REST = { id: 'other', label: 'Elsewhere' }

export interface Regions {
  readonly list: readonly { readonly id: string; readonly label: string }[]
  /** V: which of the list each vertex lies in. */
  readonly of: Uint8Array
}

/**
 * Body regions by the joint each vertex lies nearest to when bound, whatever its weights are, so that two skins of
 * one figure are compared over the same parts.
 */
export function regionsOf(mesh: Pick<Mesh, 'positions'>, skeleton: Skeleton): Regions {
  const bound = bindPose(skeleton)
  const told = skeleton.roles.flatMap((role, j) => {
    const r = role ? REGIONS.findIndex(x => x.roles.test(role)) : -1
    return r < 0 ? [] : [{ r, place: vec3At(bound.positions, j) }]
  })
  const list = [...REGIONS, REST]
  const n = mesh.positions.length / 3
  const of = new Uint8Array(n).fill(REGIONS.length)
  for (let v = 0; v < n; v++) {
    let least = Infinity
    for (const { r, place } of told) {
      const d =
        (mesh.positions[3 * v] - place[0]) ** 2 +
        (mesh.positions[3 * v + 1] - place[1]) ** 2 +
        (mesh.positions[3 * v + 2] - place[2]) ** 2
      if (d < least) {
        least = d
        of[v] = r
      }
    }
  }
  return { list: list.map(({ id, label }) => ({ id, label })), of }
}
