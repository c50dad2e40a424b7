import { compose, decompose, multiplyMat4, type Mat4, type Quat, type Vec3 } from '../math'
import type { GltfJson, GltfNode } from './gltf'

/** Where a node stands to its parent. */
export function localOf(node: GltfNode): Float64Array {
  if (node.matrix?.length === 16) return Float64Array.from(node.matrix)
  return compose(
    (node.translation ?? [0, 0, 0]) as Vec3,
    (node.rotation ?? [0, 0, 0, 1]) as Quat,
    (node.scale ?? [1, 1, 1]) as Vec3,
  )
}

/** The parent of every node, -1 for none. */
export function parentsOf(json: GltfJson): Int32Array {
  const parents = new Int32Array(json.nodes?.length ?? 0).fill(-1)
  json.nodes?.forEach((n, i) => n.children?.forEach(c => (parents[c] = i)))
  return parents
}

/** Where every node stands in the world. */
export function worldsOf(json: GltfJson, parents = parentsOf(json)): readonly Float64Array[] {
  const worlds: Float64Array[] = new Array(parents.length)
  // from the top down, without recursion: files may hang nodes a thousand deep
  for (let i = 0; i < parents.length; i++) {
    const way: number[] = []
    for (let n = i; n >= 0 && !worlds[n]; n = parents[n]) way.push(n)
    while (way.length > 0) {
      const n = way.pop()!
      const own = localOf(json.nodes![n])
      worlds[n] = parents[n] >= 0 ? multiplyMat4(worlds[parents[n]], own) : own
    }
  }
  return worlds
}

/** Puts a node where a matrix says, by turn, shift and scale; parts that are none are left out. */
export function setLocal(node: GltfNode, m: Mat4): void {
  const { translation, rotation, scale } = decompose(m)
  delete node.matrix
  setPart(node, 'translation', translation, [0, 0, 0])
  setPart(node, 'rotation', rotation, [0, 0, 0, 1])
  setPart(node, 'scale', scale, [1, 1, 1])
}

function setPart(
  node: GltfNode,
  part: 'translation' | 'rotation' | 'scale',
  values: readonly number[],
  plain: readonly number[],
): void {
  // what single precision cannot tell from nothing is nothing
  const clean = values.map((v, i) => (Math.abs(v - plain[i]) < 1e-7 ? plain[i] : v))
  if (clean.every((v, i) => v === plain[i])) delete node[part]
  else node[part] = clean
}

/** The matrix that changes nothing. */
export const PLAIN: Mat4 = Float64Array.from({ length: 16 }, (_, i) => (i % 5 === 0 ? 1 : 0))

export const isIdentity = (m: Mat4, within = 1e-9): boolean => {
  for (let i = 0; i < 16; i++) if (Math.abs(m[i] - (i % 5 === 0 ? 1 : 0)) > within) return false
  return true
}
