import { LIGHT_LIMITS, lightFigure, makeLight } from '../light'
import { fleshOf } from '../skin'
import { atBind } from '../skeleton'
import { told, toldOf } from './pieces-told'
import type { Step } from './types'

/** What the surface made for moving is derived by. */
export const LIGHT_STEPS: { readonly [N in 'flesh' | 'light' | 'lightFigure']: Step<N> } = {
  flesh: {
    reads: [{ path: 'pieces', part: told }],
    from: ['shape', 'rig', 'pieces'],
    weight: 1,
    compute: async ({ recipe, work, get }) => {
      const { mesh } = await get('shape')
      const guesses = await get('pieces')
      const treatments = mesh.parts.map((p, i) => toldOf(recipe.pieces, p) ?? guesses[i])
      return fleshOf(mesh, (await get('rig')).skeleton, treatments, work)
    },
  },
  light: {
    reads: ['light.quads', 'light.density'],
    from: ['shape', 'rig', 'skin', 'flesh'],
    weight: 20,
    lasting: true,
    compute: async ({ recipe, work, get }) => {
      const { mesh, straightened } = await get('shape')
      const { flesh } = await get('flesh')
      const skin = await get('skin')
      const { skeleton } = await get('rig')
      const choices = recipe.light ?? { quads: LIGHT_LIMITS.usual }
      return makeLight(mesh.positions, flesh, atBind(skeleton), skin, straightened.height, choices, work)
    },
  },
  lightFigure: {
    reads: [{ path: 'pieces', part: told }],
    from: ['shape', 'rig', 'skin', 'flesh', 'pieces', 'light'],
    weight: 1,
    compute: async ({ recipe, work, get }) => {
      const { mesh } = await get('shape')
      const guesses = await get('pieces')
      // strips of hair are few and thin already
      const thin = (part: number): boolean =>
        (toldOf(recipe.pieces, mesh.parts[part]) ?? guesses[part])?.role !== 'strips'
      const joints = (await get('rig')).skeleton.names.length
      return lightFigure(mesh, await get('skin'), joints, await get('light'), (await get('flesh')).rest, thin, work)
    },
  },
}
