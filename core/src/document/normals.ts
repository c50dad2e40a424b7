import { vertexNormals, type Mesh } from '../mesh'

/**
 * Unit normals as the format wants them: the body's own, else as its surface tells them.
 * @param of which vertices, -1 for one that is nowhere any more; left out, all
 */
export function unitNormals(mesh: Mesh, of?: Int32Array): Float32Array {
  const all = mesh.normals ?? vertexNormals(mesh.positions, mesh.indices)
  const count = of ? of.length : all.length / 3
  const out = new Float32Array(3 * count)
  for (let i = 0; i < count; i++) {
    const v = of ? of[i] : i
    const l = v < 0 ? 0 : Math.hypot(all[3 * v], all[3 * v + 1], all[3 * v + 2])
    if (l > 1e-8 && Number.isFinite(l)) for (let k = 0; k < 3; k++) out[3 * i + k] = all[3 * v + k] / l
    else out.set([0, 1, 0], 3 * i)
  }
  return out
}
