import { compose, invertAffine, multiplyMat4, type Rigid } from '../math'
import { Draft } from './draft'
import type { GltfDocument } from './gltf'
import { mergeDocuments } from './merge'
import { setLocal, worldsOf } from './place'
import { addTrack, frameTimes } from './samplers'

/** Something a figure carries, as a node of its own. */
export interface PropToWrite {
  readonly id: string
  readonly name: string
  /** The file it came in, and which of its scenes. */
  readonly document: GltfDocument
  readonly scene: number
  /** Metres a unit of its file is. */
  readonly unit: number
  /** The joint it hangs on; -1 where it moves by itself. */
  readonly joint: number
  /** Where it is while the figure rests. */
  readonly rest: Rigid
  /** Where it is in every frame of every take, where it hangs on no joint: 3·F and 4·F. */
  readonly courses?: readonly { readonly places: Float32Array; readonly turns: Float32Array; readonly fps: number }[]
}

/**
 * Hangs props into a document that holds their figure: a mount named like the prop, what its file shows below it, and keys in
 * every take where the mount moves by itself.
 * @param nodes the node of every joint  @param animations which animation each take is, -1 for none
 * @returns the document, and nodes of the props' files that show nothing
 */
export function writeProps(
  figure: GltfDocument,
  scene: number,
  props: readonly PropToWrite[],
  nodes: readonly number[],
  animations: readonly number[],
): { readonly document: GltfDocument; readonly unseen: readonly number[] } {
  let document = figure
  const unseen: number[] = []
  for (const prop of props) {
    const before = document.json.nodes?.length ?? 0
    const merged = mergeDocuments(document, scene, prop.document, prop.scene, {
      scale: 1,
      turn: [0, 0, 0, 1],
      at: [0, 0, 0],
    })
    const draft = new Draft(merged)
    const { json } = draft
    const mount = json.nodes!.length - 1
    const seen = new Set(json.nodes!.flatMap(n => n.children ?? []))
    for (let n = before; n < mount; n++) if (!seen.has(n)) unseen.push(n)
    const node = json.nodes![mount]
    node.name = prop.name
    node.extras = { prop: prop.id }
    const world = multiplyMat4(
      compose(prop.rest.at, prop.rest.turn),
      compose([0, 0, 0], [0, 0, 0, 1], [prop.unit, prop.unit, prop.unit]),
    )
    const outer = prop.joint >= 0 ? nodes[prop.joint] : -1
    if (outer >= 0) {
      const back = invertAffine(worldsOf(json)[outer])
      setLocal(node, back ? multiplyMat4(back, world) : world)
      const list = json.scenes![scene].nodes!
      list.splice(list.indexOf(mount), 1)
      ;(json.nodes![outer].children ??= []).push(mount)
    } else {
      setLocal(node, world)
      prop.courses?.forEach((course, i) => {
        const animation = json.animations?.[animations[i]]
        if (!animation) return
        const input = frameTimes(draft, course.places.length / 3, course.fps)
        addTrack(draft, animation, input, { node: mount, path: 'translation' }, course.places, 'VEC3')
        addTrack(draft, animation, input, { node: mount, path: 'rotation' }, course.turns, 'VEC4')
      })
    }
    document = draft.done()
  }
  return { document, unseen }
}
