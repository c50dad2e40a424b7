import { counted } from '../words'
import { vec3At } from '../math'
import { checkWeights, type WeightFaults } from '../skin'
import type { Finding, FindingContext, Rule } from './finding'

const known = new WeakMap<object, WeightFaults>()

/** The faults of a received skin, counted once. */
function faultsOf({ skin, source }: FindingContext): WeightFaults | undefined {
  if (!skin || source !== 'received') return undefined
  const faults = known.get(skin) ?? checkWeights(skin)
  known.set(skin, faults)
  return faults
}

const at = ({ mesh }: FindingContext, v: number): Pick<Finding, 'place'> =>
  mesh && v >= 0 ? { place: vec3At(mesh.positions, v) } : {}

/** Weights of a vertex that do not sum to one. */
export const weightsNotSumming: Rule = {
  id: 'weights-not-summing',
  detect: context => {
    const f = faultsOf(context)
    return !f || f.uneven === 0
      ? []
      : [
          {
            rule: 'weights-not-summing',
            severity: 'warning',
            value: f.uneven,
            unit: 'vertices',
            where: 'skin',
            message: `The weights of ${counted(f.uneven, 'vertex does', 'vertices do')} not sum to one; the skin there moves too little or too much.`,
            mendable: true,
            remedy: 'Scales them to sum to one; their shares stay.',
            ...at(context, f.unevenAt),
          },
        ]
  },
  mend: () => ({ rig: [{ kind: 'weights', fix: 'normalise' }] }),
}

/** Vertices that no joint moves. */
export const looseVertices: Rule = {
  id: 'loose-vertices',
  detect: context => {
    const f = faultsOf(context)
    return !f || f.loose === 0
      ? []
      : [
          {
            rule: 'loose-vertices',
            severity: 'error',
            value: f.loose,
            unit: 'vertices',
            where: 'skin',
            message: `${counted(f.loose, 'vertex follows', 'vertices follow')} no joint and will stay behind when the figure moves.`,
            mendable: true,
            remedy: 'Gives them the weights of their nearest neighbours on the surface.',
            ...at(context, f.looseAt),
          },
        ]
  },
  mend: () => ({ rig: [{ kind: 'weights', fix: 'fill' }] }),
}

/** More joints a vertex than the figure is to have. */
export const tooManyInfluences: Rule = {
  id: 'too-many-influences',
  detect: context => {
    const f = faultsOf(context)
    const most = context.influences ?? 4
    return !f || f.most <= most
      ? []
      : [
          {
            rule: 'too-many-influences',
            severity: 'warning',
            value: f.most,
            unit: 'joints',
            where: 'skin',
            message: `Up to ${f.most} joints move one vertex; at most ${most} are wanted.`,
            mendable: true,
            remedy: `Keeps the strongest ${most} of every vertex.`,
          },
        ]
  },
  mend: (_, { influences = 4 }) => ({ rig: [{ kind: 'weights', fix: 'limit', influences }] }),
}
