import { partnerJoint } from '../skeleton'
import { closestOnSurface } from '../mesh'
import { emptySkin, gatherInto } from '../skin'
import type { Canvas } from './canvas'

/**
 * Gives one half of the body the weights of the other, mirrored about the midplane. Each vertex reads the mirrored
 * place on the surface, so the mesh itself need not be symmetric.
 * @param from the side that is kept
 */
export function mirrorWeights(canvas: Canvas, from: 'left' | 'right'): void {
  const { positions, indices, skin, skeleton, size } = canvas
  const k = skin.influences
  const kept = from === 'left' ? 1 : -1
  const partner = skeleton.names.map((_, j) => {
    const other = partnerJoint(skeleton, j)
    return other >= 0 ? other : j
  })
  const surface = closestOnSurface(positions, indices)
  const n = positions.length / 3
  const out = emptySkin(n, k)
  const gather = gatherInto(out, skeleton.names.length)
  const near = 0.002 * size
  for (let w = 0; w < n; w++) {
    const x = positions[3 * w] * kept
    if (x > near) {
      for (let i = w * k; i < w * k + k; i++) if (skin.weights[i] > 0) gather.add(skin.joints[i], skin.weights[i])
    } else {
      const q = surface.nearest(-positions[3 * w], positions[3 * w + 1], positions[3 * w + 2])
      const corners = q ? [0, 1, 2].map(c => indices[3 * q.triangle + c]) : [w]
      const shares = q ? [q.a, q.b, q.c] : [1]
      corners.forEach((c, s) => {
        for (let i = c * k; i < c * k + k; i++)
          if (skin.weights[i] > 0 && shares[s] > 0) gather.add(partner[skin.joints[i]], shares[s] * skin.weights[i])
      })
      // on the midline itself both halves count alike
      if (Math.abs(x) <= near)
        for (let i = w * k; i < w * k + k; i++) if (skin.weights[i] > 0) gather.add(skin.joints[i], skin.weights[i])
    }
    gather.settle(w)
  }
  skin.joints.set(out.joints)
  skin.weights.set(out.weights)
}
