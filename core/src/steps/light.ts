import { bake, flatten, LIGHT_LIMITS, lightFigure, makeLight, shadeOf } from '../light'
import { ChiraxisError } from '../math'
import { plainMaterial, type ImageFile } from '../mesh'
import { fleshOf } from '../skin'
import { atBind } from '../skeleton'
import { told, toldOf } from './pieces-told'
import type { Step } from './types'

/** What the surface made for moving is derived by. */
export const LIGHT_STEPS: { readonly [N in 'flesh' | 'light' | 'lightMaps' | 'lightFigure']: Step<N> } = {
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
  lightMaps: {
    reads: ['light.bake'],
    from: ['shape', 'flesh', 'light'],
    weight: 12,
    compute: async ({ recipe, tangents, work, get }) => {
      const size = recipe.light?.bake
      if (!size) return undefined
      if (!tangents) throw new ChiraxisError('bad-settings', 'No images can be baked here.')
      const { mesh, received, straightened } = await get('shape')
      const { flesh } = await get('flesh')
      const surface = await get('light')
      const flat = flatten(surface, size)
      const shade = await shadeOf(mesh, received.materials ?? [], received.images ?? [])
      const sculpt = { positions: mesh.positions, indices: flesh, shade }
      const baked = await bake(sculpt, surface, flat, size, straightened.height, tangents, work)
      const { encode } = await import('fast-png')
      const png = (name: string, data: Uint8Array): ImageFile => ({
        name,
        mime: 'image/png',
        bytes: encode({ width: size, height: size, data, channels: 3, depth: 8 }),
      })
      return {
        flat,
        images: [png('light body colour', baked.colors!), png('light body normals', baked.normals)],
        material: { ...plainMaterial('light body', [1, 1, 1]), maps: { color: 0, normal: 1 } },
        angle: baked.angle,
        missed: baked.missed,
      }
    },
    sizeOf: maps => maps && [maps.flat, ...maps.images.map(i => i.bytes)],
  },
  lightFigure: {
    reads: [{ path: 'pieces', part: told }],
    from: ['shape', 'rig', 'skin', 'flesh', 'pieces', 'light', 'lightMaps'],
    weight: 1,
    compute: async ({ recipe, work, get }) => {
      const { mesh } = await get('shape')
      const guesses = await get('pieces')
      // strips of hair are few and thin already
      const thin = (part: number): boolean =>
        (toldOf(recipe.pieces, mesh.parts[part]) ?? guesses[part])?.role !== 'strips'
      const joints = (await get('rig')).skeleton.names.length
      const maps = await get('lightMaps')
      const material = (await get('shape')).received.materials?.length ?? 0
      const baked = maps && { flat: maps.flat, material }
      return lightFigure(
        mesh,
        await get('skin'),
        joints,
        await get('light'),
        (await get('flesh')).rest,
        thin,
        baked,
        work,
      )
    },
  },
}
