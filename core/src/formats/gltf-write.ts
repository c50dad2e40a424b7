import {
  packGlb,
  writeFigure,
  freshDocument,
  type GltfDocument,
  type PropToWrite,
  type SourceFigure,
} from '../document'
import { settleNormalMaps, type ImageFile, type Material, type Mesh } from '../mesh'
import type { CorrectiveShape } from '../corrective'
import type { Binds } from '../face'
import type { Take, Thinning } from '../motion'
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
  /** Which shapes make which expression. */
  readonly expressions?: Binds
  /** How far keys of takes may stray when some are left out. */
  readonly thinning?: Thinning
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
  return packGlb(gltfOf(content))
}

/**
 * The same as a document, to be packed or laid out in several files.
 * @param asked what else the document is to hold, told before the figure is written into it
 */
export function gltfOf(content: GltfContent, asked: (source: SourceFigure) => SourceFigure = s => s): GltfDocument {
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
    thinning,
    expressions,
  } = content
  const source = asked(
    content.source ?? {
      ...freshDocument(name, mesh, settleNormalMaps(materials, normalMaps), images),
      joints: skeleton?.names.map(() => -1) ?? [],
    },
  )
  return writeFigure({ name, mesh, skeleton, skin, takes, normalMaps, source, shapes, props, thinning, expressions })
}
