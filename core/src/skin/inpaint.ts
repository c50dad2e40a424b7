import { breather, type WorkOptions } from '../math'
import { componentsOf, type Adjacency } from '../mesh'
import { gatherInto } from './gather'
import type { Skin } from './skin'

/**
 * Fills in the weights of vertices that nothing told about, as smoothly as the told ones around them allow: the
 * squared Laplacian of every joint's weight over the surface is least, told vertices stay.
 * Parts without any told vertex are left as they are.
 * Method: the inpainting of Abdrashitov and others 2023, with edge weights 1/length in place of cotangents, so that
 * unclean cloth needs no repair; solved by conjugate gradients.
 * @param skin of W welded vertices, changed in place  @param told W: 1 where weights are known
 */
export async function inpaint(
  skin: Skin,
  told: Uint8Array,
  positions: Float32Array,
  adjacency: Adjacency,
  joints: number,
  work: WorkOptions = {},
): Promise<void> {
  const pulse = breather(work)
  const n = told.length
  const { labels, count } = componentsOf(adjacency)
  const known = new Uint8Array(count)
  for (let w = 0; w < n; w++) if (told[w]) known[labels[w]] = 1
  const free: number[] = []
  for (let w = 0; w < n; w++) if (!told[w] && known[labels[w]]) free.push(w)
  if (free.length === 0) return
  const { starts, neighbours } = adjacency
  const strength = new Float64Array(neighbours.length)
  const degree = new Float64Array(n)
  for (let w = 0; w < n; w++)
    for (let e = starts[w]; e < starts[w + 1]; e++) {
      const o = neighbours[e]
      const d = Math.hypot(
        positions[3 * w] - positions[3 * o],
        positions[3 * w + 1] - positions[3 * o + 1],
        positions[3 * w + 2] - positions[3 * o + 2],
      )
      strength[e] = 1 / Math.max(d, 1e-6)
      degree[w] += strength[e]
    }
  const laplace = (x: Float64Array, out: Float64Array): void => {
    for (let w = 0; w < n; w++) {
      let s = 0
      for (let e = starts[w]; e < starts[w + 1]; e++) s += strength[e] * x[neighbours[e]]
      out[w] = degree[w] > 0 ? x[w] - s / degree[w] : 0
    }
  }
  /** The transpose of the above. */
  const laplaceBack = (x: Float64Array, out: Float64Array): void => {
    for (let w = 0; w < n; w++) {
      let s = 0
      for (let e = starts[w]; e < starts[w + 1]; e++) {
        const o = neighbours[e]
        if (degree[o] > 0) s += (strength[e] * x[o]) / degree[o]
      }
      out[w] = x[w] - s
    }
  }
  const k = skin.influences
  const present = [...new Set(skin.joints.filter((_, i) => skin.weights[i] > 0))].filter(j => j < joints)
  const columns = new Map<number, Float64Array>()
  const half = new Float64Array(n),
    full = new Float64Array(n)
  for (const [at, j] of present.entries()) {
    const x = new Float64Array(n)
    for (let i = 0; i < skin.joints.length; i++)
      if (skin.joints[i] === j && told[Math.floor(i / k)]) x[Math.floor(i / k)] += skin.weights[i]
    // the harmonic answer, nearly, is the first guess
    for (let round = 0; round < 60; round++)
      for (const w of free) {
        let s = 0
        for (let e = starts[w]; e < starts[w + 1]; e++) s += strength[e] * x[neighbours[e]]
        if (degree[w] > 0) x[w] = s / degree[w]
      }
    laplace(x, half)
    laplaceBack(half, full)
    const r = new Float64Array(n),
      p = new Float64Array(n)
    let rr = 0
    for (const w of free) {
      p[w] = r[w] = -full[w]
      rr += r[w] * r[w]
    }
    const enough = 1e-6 * free.length * 1e-2
    for (let round = 0; round < 120 && rr > enough; round++) {
      laplace(p, half)
      laplaceBack(half, full)
      let pap = 0
      for (const w of free) pap += p[w] * full[w]
      if (!(pap > 0)) break
      const alpha = rr / pap
      let next = 0
      for (const w of free) {
        x[w] += alpha * p[w]
        r[w] -= alpha * full[w]
        next += r[w] * r[w]
      }
      for (const w of free) p[w] = r[w] + (next / rr) * p[w]
      rr = next
    }
    columns.set(j, x)
    await pulse((at + 1) / present.length)
  }
  const gather = gatherInto(skin, joints, 0.001)
  for (const w of free) {
    for (const [j, x] of columns) if (x[w] > 0.001) gather.add(j, x[w])
    gather.settle(w)
  }
}
