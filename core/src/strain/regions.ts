import { bodyPart, SIDES, type BodyPart } from '../body'
import { breather, vec3At, type WorkOptions } from '../math'
import type { Mesh } from '../mesh'
import { bindPose, type Skeleton } from '../skeleton'
import { freeChains } from './chain-poses'

interface Region {
  readonly id: string
  readonly label: string
  readonly holds: (part: BodyPart) => boolean
}
/** Parts of the body that are told apart: around which joints each lies. */
const REGIONS: readonly Region[] = [
  { id: 'head', label: 'Head and neck', holds: p => p.limb === 'head' || p.limb === 'face' },
  { id: 'trunk', label: 'Trunk', holds: p => p.limb === 'trunk' && p.role !== 'hips' },
  { id: 'hips', label: 'Hips', holds: p => p.role === 'hips' },
  ...SIDES.flatMap(side => {
    const word = side === 'left' ? 'Left' : 'Right'
    const region = (name: string, label: string, holds: (part: BodyPart) => boolean): Region => ({
      id: side + name,
      label: `${word} ${label}`,
      holds: p => p.side === side && holds(p),
    })
    const ofArm = (p: BodyPart, ...parts: string[]): boolean => p.limb === 'arm' && parts.includes(p.part)
    const ofLeg = (p: BodyPart, ...parts: string[]): boolean => p.limb === 'leg' && parts.includes(p.part)
    return [
      region('Shoulder', 'shoulder', p => ofArm(p, 'Shoulder', 'UpperArm')),
      region('Elbow', 'elbow', p => ofArm(p, 'LowerArm')),
      region('Hand', 'wrist and hand', p => ofArm(p, 'Hand') || p.limb === 'hand'),
      region('Hip', 'hip', p => ofLeg(p, 'UpperLeg')),
      region('Knee', 'knee', p => ofLeg(p, 'LowerLeg')),
      region('Foot', 'ankle and foot', p => ofLeg(p, 'Foot', 'Toes')),
    ]
  }),
]
const REST = { id: 'other', label: 'Elsewhere' }
/** More chains than this are told together. */
const MOST_CHAINS = 120
const MOST_PLACES = 400

/** What a chain is called without the number of its joint. */
const chainName = (name: string): string => {
  const bare = name.replace(/[\s_.-]*\d+$/, '') || name
  return bare[0].toUpperCase() + bare.slice(1)
}

export interface Regions {
  readonly list: readonly { readonly id: string; readonly label: string }[]
  /** V: which of the list each vertex lies in. */
  readonly of: Uint8Array
}

/**
 * Body regions by the joint each vertex lies nearest to when bound, whatever its weights are, so that two skins of
 * one figure are compared over the same parts.
 */
export async function regionsOf(
  mesh: Pick<Mesh, 'positions'>,
  skeleton: Skeleton,
  { signal }: WorkOptions = {},
): Promise<Regions> {
  const pulse = breather({ signal })
  const bound = bindPose(skeleton)
  const told = skeleton.roles.flatMap((role, j) => {
    const part = bodyPart(role)
    const r = part ? REGIONS.findIndex(x => x.holds(part)) : -1
    return r < 0 ? [] : [{ r, place: vec3At(bound.positions, j) }]
  })
  const chains = freeChains(skeleton).slice(0, MOST_CHAINS)
  const labels = [...new Set(chains.map(c => chainName(skeleton.names[c[0]])))]
  const step = Math.ceil(chains.reduce((n, c) => n + c.length, 0) / MOST_PLACES)
  for (const chain of chains) {
    const r = REGIONS.length + labels.indexOf(chainName(skeleton.names[chain[0]]))
    chain.forEach((j, i) => {
      if (i % step === 0) told.push({ r, place: vec3At(bound.positions, j) })
    })
  }
  const list = [...REGIONS, ...labels.map(label => ({ id: `chain ${label}`, label })), REST]
  const n = mesh.positions.length / 3
  const of = new Uint8Array(n).fill(list.length - 1)
  for (let v = 0; v < n; v++) {
    if ((v & 8191) === 0) await pulse()
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
