import type { Mesh, MeshPart } from '../mesh'

/** What the file calls a part: names told apart change when pieces come or go. */
const called = (p: MeshPart): string => p.aka?.[0] ?? p.name

/** The parts of a body that have triangles, each with the one that was read back for it: found by name, those of one name in their order. */
export function twinParts(
  { parts }: Pick<Mesh, 'parts'>,
  other: Pick<Mesh, 'parts'>,
): (readonly [MeshPart, MeshPart | undefined])[] {
  const byName = new Map<string, MeshPart[]>()
  for (const p of other.parts) byName.set(called(p), [...(byName.get(called(p)) ?? []), p])
  return parts.filter(p => p.count > 0).map(p => [p, byName.get(called(p))?.shift()])
}
