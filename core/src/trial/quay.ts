import { patchFloor, type Floor, type Patch } from './floor'

/** What the ground may be made of, as a word in the name of a mesh tells it; the first is what is not told. */
export const SURFACES = ['planks', 'mud', 'shingle', 'stone'] as const
export type Surface = (typeof SURFACES)[number]

/**
 * The quay of the night ferry, metres: the figure begins on planks; to its left mud and shingle, ahead a step up to the
 * stone landing, and a ramp from it down to the shingle.
 */
export const QUAY: readonly Patch[] = [
  { surface: 'stone', x: [-12, 12], z: [-9, 12], height: 0 },
  { surface: 'planks', x: [-3, 3], z: [-4, 4], height: 0 },
  { surface: 'mud', x: [3, 7], z: [-4, 1], height: 0 },
  { surface: 'shingle', x: [3, 7], z: [1, 9], height: 0 },
  // two steps up to the landing
  { surface: 'stone', x: [-3, 3], z: [4, 4.6], height: 0.14 },
  { surface: 'stone', x: [-3, 3], z: [4.6, 9], height: 0.28 },
  // and a ramp down from it, of planks laid across
  { surface: 'planks', x: [-6.5, -3], z: [5.2, 8], height: 0, rises: { along: 'x', to: 0.28 } },
]

export const quayFloor = (): Floor => patchFloor(QUAY, { surface: 'stone', height: 0 })

/** What a part of a floor is made of, told by its name; planks where nothing is. */
export const surfaceByName = (name: string): Surface =>
  SURFACES.find(s => name.toLowerCase().includes(s)) ??
  (/gravel|pebble/i.test(name)
    ? 'shingle'
    : /rock|concrete|tile|brick/i.test(name)
      ? 'stone'
      : /dirt|soil|earth|wet/i.test(name)
        ? 'mud'
        : 'planks')
