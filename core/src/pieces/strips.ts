import { breather, partOf, vec3At, type WorkOptions } from '../math'
import { closestOnSurface, componentsOfFaces, weldByPosition, weldedIndices, type Mesh } from '../mesh'

interface Weights {
  readonly influences: number
  readonly joints: Uint16Array
  readonly weights: Float32Array
}

/**
 * Loose strips of a piece, hair cards or tassels, follow what they hang on: each whole strip takes the weights of the place of
 * the body it is nearest to, so that it swings as one and is never torn.
 * @param body triangles of the body, over the mesh's own vertices
 * @param strips triangles of the piece
 */
export async function followWhatTheyHangOn(
  mesh: Mesh,
  skin: Weights,
  body: Uint32Array,
  strips: Uint32Array,
  work: WorkOptions = {},
): Promise<Weights> {
  const pulse = breather(work)
  const closest = closestOnSurface(mesh.positions, body)
  const weld = weldByPosition(mesh.positions)
  await pulse(0.3)
  const { labels } = await componentsOfFaces(weld.first.length, weldedIndices(strips, weld), partOf(work, 0.3, 0.5))
  const nearest = new Map<number, { distance: number; from: number }>()
  const seen = new Uint8Array(mesh.positions.length / 3)
  for (let i = 0; i < strips.length; i++) {
    const v = strips[i]
    if (seen[v]) continue
    seen[v] = 1
    if (i % 1024 === 0) await pulse(0.5 + (0.4 * i) / strips.length)
    const label = labels[weld.of[v]]
    const [x, y, z] = vec3At(mesh.positions, v)
    const near = closest.nearest(x, y, z)
    if (!near || near.distance >= (nearest.get(label)?.distance ?? Infinity)) continue
    const { triangle: f, a, b, c } = near
    const corner = a >= b && a >= c ? 0 : b >= c ? 1 : 2
    nearest.set(label, { distance: near.distance, from: body[3 * f + corner] })
  }
  const { influences: k } = skin
  const joints = skin.joints.slice()
  const weights = skin.weights.slice()
  for (const v of strips) {
    const source = nearest.get(labels[weld.of[v]])
    if (!source) continue
    joints.set(skin.joints.subarray(source.from * k, source.from * k + k), v * k)
    weights.set(skin.weights.subarray(source.from * k, source.from * k + k), v * k)
  }
  return { influences: k, joints, weights }
}
