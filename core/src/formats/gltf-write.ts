import { packGlb, writeFigure, freshDocument, type PropToWrite, type SourceFigure } from '../document'
import { settleNormalMaps, type ImageFile, type Material, type Mesh } from '../mesh'
import type { CorrectiveShape } from '../corrective'
import type { Take } from '../motion'
import type { Skeleton } from '../skeleton'
import type { Skin } from '../skin'

export interface GltfContent {
  readonly name: string
  readonly mesh?: Mesh
  /** What the parts of the body refer to by number; of a figure that came in a document, that document's own are written. */
  readonly materials?: readonly Material[]
  readonly images?: readonly ImageFile[]
  readonly skeleton?: Skeleton
  readonly skin?: Skin
  readonly takes?: readonly Take[]
  /** Shapes that turning joints bring on. */
  readonly shapes?: readonly CorrectiveShape[]
  /** What it carries, as nodes of their own. */
  readonly props?: readonly PropToWrite[]
  /** Materials whose colour image is a normal map by what it shows. */
  readonly normalMaps?: readonly string[]
  /** The document it came in, which is kept but for what changed. */
  readonly source?: SourceFigure
}

/**
 * Writes a GLB. A figure that came in a document is written into that, and everything nobody asked to change leaves as it
 * came; another one gets a document of its own: the body with its parts, the skeleton as a node tree (role and bone tip in
 * `extras`), skin with as many influence sets as needed, one animation per take. The same content gives the same bytes.
 */
export async function writeGlb(content: GltfContent): Promise<Uint8Array<ArrayBuffer>> {
  const {
    name,
    mesh,
    skeleton,
    skin,
    takes = [],
    normalMaps = [],
    materials = [],
    images = [],
    shapes = [],
    props,
  } = content
  const source = content.source ?? {
    ...freshDocument(name, mesh, settleNormalMaps(materials, normalMaps), images),
    joints: skeleton?.names.map(() => -1) ?? [],
  }
  return packGlb(writeFigure({ name, mesh, skeleton, skin, takes, normalMaps, source, shapes, props }))
}
