import type { Accessor } from '@gltf-transform/core'

/** An accessor as plain floats, `size` an element; missing parts are 1. Shared where it already is so. */
export function floats(accessor: Accessor, size: number): Float32Array {
  const raw = accessor.getArray()
  if (raw instanceof Float32Array && accessor.getElementSize() === size && !accessor.getSparse()) return raw
  const out = new Float32Array(accessor.getCount() * size)
  const element: number[] = []
  for (let i = 0; i < accessor.getCount(); i++) {
    accessor.getElement(i, element)
    for (let k = 0; k < size; k++) out[i * size + k] = element[k] ?? 1
  }
  return out
}
