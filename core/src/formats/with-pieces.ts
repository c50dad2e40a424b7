import { freshDocument, mergeDocuments, packGlb, type GltfDocument, type Placing } from '../document'
import { checkReceived } from './check-received'
import { readGltf } from './gltf-read'
import type { Received } from './received'

/** A body with others added to it as pieces, each where it lies in its own file or where it is put. */
export async function withPieces(
  body: Received,
  pieces: readonly Received[],
  places: readonly (Placing | undefined)[] = [],
): Promise<Received> {
  if (pieces.length === 0) return body
  const documentOf = (r: Received, name: string): { document: GltfDocument; scene: number } =>
    r.document && r.way
      ? { document: r.document, scene: r.way.scene }
      : { document: freshDocument(name, r.mesh, r.materials ?? [], r.images ?? []).document, scene: 0 }
  const { document, scene } = documentOf(body, 'body')
  const whole = pieces.reduce((all, piece, i) => {
    const other = documentOf(piece, 'piece')
    return mergeDocuments(all, scene, other.document, other.scene, places[i])
  }, document)
  const read = checkReceived(await readGltf(packGlb(whole)))
  const dropped = [body, ...pieces].flatMap(r => r.dropped)
  return { ...read, format: body.format, dropped: [...new Set([...dropped, ...read.dropped])] }
}
