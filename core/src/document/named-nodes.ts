import type { Mat4 } from '../math'
import type { GltfDocument } from './gltf'
import { worldsOf } from './place'

/** Every node of a document that has a name, with its place in the scene. */
export function namedNodes({ json }: GltfDocument): { name: string; world: Mat4; extras?: unknown }[] {
  const worlds = worldsOf(json)
  return (json.nodes ?? []).flatMap((n, i) => (n.name ? [{ name: n.name, world: worlds[i], extras: n.extras }] : []))
}
