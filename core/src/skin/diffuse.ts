import { breather, type WorkOptions } from '../math'
import type { Voxels } from '../mesh'

/** The weight of one joint in the cells where it has any: parallel arrays. */
export interface JointField { readonly cells: Uint32Array; readonly values: Float32Array }

export interface DiffuseOptions extends WorkOptions { readonly firmness: number }

/**
 * Weights in equilibrium between diffusion and the pull of the nearest bone: (H − Δ) w = H p with
 * H = firmness / d², p one where the joint's bone is nearest. Each joint is solved by conjugate
 * gradients with a diagonal preconditioner in the cells its bone can reach, everything else at zero.
 * @param label S: nearest joint  @param reach S: way to its bone, metres
 */
export async function diffuse(voxels: Voxels, label: Int32Array, reach: Float32Array, joints: number, options: DiffuseOptions): Promise<JointField[]> {
  const pulse = breather(options)
  const { cells, slot, counts, size } = voxels
  const n = cells.length
  const offsets = [1, -1, counts[0], -counts[0], counts[0] * counts[1], -counts[0] * counts[1]]
  const pull = new Float32Array(n)
  for (let i = 0; i < n; i++) {
    const d = Math.max(reach[i] / size, 0.5)
    pull[i] = options.firmness / (d * d)
  }
  const own: number[][] = Array.from({ length: joints }, () => [])
  for (let i = 0; i < n; i++) if (label[i] >= 0) own[label[i]].push(i)
  const local = new Int32Array(n).fill(-1)
  const fields: JointField[] = []
  for (let j = 0; j < joints; j++) {
    if (own[j].length === 0) {
      fields.push({ cells: new Uint32Array(0), values: new Float32Array(0) })
      continue
    }
    // the weight falls by e every d / sqrt(firmness); three such steps leave what pruning drops
    const domain = [...own[j]]
    const budget: number[] = own[j].map(i => (3 * Math.max(1, reach[i] / size)) / Math.sqrt(options.firmness))
    domain.forEach((c, i) => { local[c] = i })
    for (let i = 0; i < domain.length; i++) {
      if (budget[i] < 1) continue
      for (const o of offsets) {
        const next = slot[cells[domain[i]] + o]
        if (next < 0 || local[next] >= 0) continue
        local[next] = domain.length
        domain.push(next)
        budget.push(budget[i] - 1)
      }
    }
    const m = domain.length
    const links = new Int32Array(6 * m).fill(-1)
    const diagonal = new Float32Array(m)
    const right = new Float32Array(m)
    for (let i = 0; i < m; i++) {
      let degree = 0
      for (let k = 0; k < 6; k++) {
        const next = slot[cells[domain[i]] + offsets[k]]
        if (next < 0) continue
        degree++
        links[6 * i + k] = local[next]
      }
      diagonal[i] = degree + pull[domain[i]]
      right[i] = label[domain[i]] === j ? pull[domain[i]] : 0
    }
    const w = new Float32Array(m)
    for (let i = 0; i < m; i++) w[i] = label[domain[i]] === j ? 1 : 0
    await conjugateGradients(w, right, diagonal, links, share => pulse((j + share) / joints))
    for (const c of domain) local[c] = -1
    fields.push({ cells: Uint32Array.from(domain), values: w })
    await pulse((j + 1) / joints)
  }
  return fields
}

async function conjugateGradients(
  x: Float32Array, b: Float32Array, diagonal: Float32Array, links: Int32Array, pulse: (share: number) => Promise<void> | undefined,
): Promise<void> {
  const n = x.length
  const r = new Float32Array(n), p = new Float32Array(n), ap = new Float32Array(n)
  const apply = (v: Float32Array, out: Float32Array): void => {
    for (let i = 0; i < n; i++) {
      let s = diagonal[i] * v[i]
      for (let k = 6 * i; k < 6 * i + 6; k++) if (links[k] >= 0) s -= v[links[k]]
      out[i] = s
    }
  }
  apply(x, ap)
  let rz = 0
  let norm = 0
  for (let i = 0; i < n; i++) {
    r[i] = b[i] - ap[i]
    p[i] = r[i] / diagonal[i]
    rz += r[i] * p[i]
    norm += b[i] * b[i] / diagonal[i]
  }
  const enough = 1e-5 * norm
  for (let round = 0; round < 120 && rz > enough; round++) {
    apply(p, ap)
    let pap = 0
    for (let i = 0; i < n; i++) pap += p[i] * ap[i]
    const alpha = rz / pap
    let next = 0
    for (let i = 0; i < n; i++) {
      x[i] += alpha * p[i]
      r[i] -= alpha * ap[i]
      next += (r[i] * r[i]) / diagonal[i]
    }
    const beta = next / rz
    for (let i = 0; i < n; i++) p[i] = r[i] / diagonal[i] + beta * p[i]
    rz = next
    await pulse(round / 120)
  }
}
