import { choleskyOf, solveCholesky } from './cholesky'

/** Some residuals over a few of the unknowns, each already divided by its deviation. */
export interface Term {
  /** The unknowns it depends on. */
  readonly over: readonly number[]
  residuals(x: Float64Array): readonly number[]
  /** Counts less the farther it is off (Cauchy), so that a wrong one does not spoil the rest. */
  readonly robust?: boolean
}

export interface Solution {
  readonly x: Float64Array
  /** Sum of squared residuals, robust ones as they count. */
  readonly cost: number
  /** n·n covariance of the unknowns, where the deviations of the terms are honest. */
  readonly covariance: Float64Array
  /** For each term, its squared residuals over their number: about 1 where they are as large as their deviations. */
  readonly misfit: readonly number[]
}

/** A robust term at this many deviations counts half. */
const CAUCHY = 2
const STEP = 1e-5

/**
 * The unknowns that make the sum of squared residuals least, by Levenberg and Marquardt's method with numeric
 * derivatives, terms re-weighted after each step (Nocedal and Wright 2006, "Numerical optimization", chapter 10;
 * Holland and Welsch 1977 for the weights).
 * @param start n first guesses, about 1 in size  @param terms at least as many residuals as unknowns, or damping decides
 */
export function leastSquares(start: ArrayLike<number>, terms: readonly Term[], rounds = 40): Solution {
  const n = start.length
  let x = Float64Array.from(start)
  let damping = 1e-3
  const weightOf = (r: readonly number[], term: Term): number =>
    term.robust ? 1 / (1 + r.reduce((s, v) => s + v * v, 0) / (CAUCHY * CAUCHY)) : 1
  const cost = (at: Float64Array): number => {
    let sum = 0
    for (const term of terms) {
      const square = term.residuals(at).reduce((s, v) => s + v * v, 0)
      sum += term.robust ? CAUCHY * CAUCHY * Math.log1p(square / (CAUCHY * CAUCHY)) : square
    }
    return sum
  }
  let now = cost(x)
  for (let round = 0; round < rounds; round++) {
    const { hessian, gradient } = normalEquations(x, terms, weightOf)
    let better = false
    for (let attempt = 0; attempt < 8 && !better; attempt++) {
      const damped = hessian.slice()
      for (let i = 0; i < n; i++) damped[i * n + i] += damping * (hessian[i * n + i] + 1e-9)
      const factor = choleskyOf(damped, n)
      if (!factor) {
        damping *= 8
        continue
      }
      const step = solveCholesky(factor, gradient, n)
      const next = x.map((v, i) => v - step[i])
      const then = cost(next)
      if (then < now) {
        better = now - then > 1e-7 * now
        x = next
        now = then
        damping = Math.max(1e-9, damping / 6)
        break
      }
      damping *= 6
    }
    if (!better) break
  }
  const { hessian } = normalEquations(x, terms, weightOf)
  for (let i = 0; i < n; i++) hessian[i * n + i] += 1e-9
  const factor = choleskyOf(hessian, n)
  const covariance = new Float64Array(n * n)
  if (factor)
    for (let i = 0; i < n; i++) {
      const unit = new Float64Array(n)
      unit[i] = 1
      covariance.set(solveCholesky(factor, unit, n), i * n)
    }
  return {
    x,
    cost: now,
    covariance,
    misfit: terms.map(t => {
      const r = t.residuals(x)
      return r.reduce((s, v) => s + v * v, 0) / Math.max(1, r.length)
    }),
  }
}

function normalEquations(
  x: Float64Array,
  terms: readonly Term[],
  weightOf: (r: readonly number[], term: Term) => number,
): { hessian: Float64Array; gradient: Float64Array } {
  const n = x.length
  const hessian = new Float64Array(n * n)
  const gradient = new Float64Array(n)
  for (const term of terms) {
    const r = term.residuals(x)
    const w = weightOf(r, term)
    const columns = term.over.map(i => {
      const kept = x[i]
      x[i] = kept + STEP
      const above = term.residuals(x)
      x[i] = kept - STEP
      const below = term.residuals(x)
      x[i] = kept
      return above.map((v, k) => (v - below[k]) / (2 * STEP))
    })
    term.over.forEach((i, a) => {
      for (let k = 0; k < r.length; k++) gradient[i] += w * columns[a][k] * r[k]
      term.over.forEach((j, b) => {
        let sum = 0
        for (let k = 0; k < r.length; k++) sum += columns[a][k] * columns[b][k]
        hessian[i * n + j] += w * sum
      })
    })
  }
  return { hessian, gradient }
}

/**
 * The matrix that undoes another in the least squares sense, (AᵀA + εI)⁻¹Aᵀ; alike rows share what they are given.
 * @param rows m rows of n numbers
 * @returns n rows of m numbers
 */
export function pseudoInverse(rows: readonly (readonly number[])[]): number[][] {
  const m = rows.length
  const n = rows[0]?.length ?? 0
  const gram = new Float64Array(n * n)
  let largest = 0
  for (let i = 0; i < n; i++)
    for (let j = 0; j < n; j++) {
      let sum = 0
      for (const row of rows) sum += row[i] * row[j]
      gram[i * n + j] = sum
      if (i === j) largest = Math.max(largest, sum)
    }
  for (let i = 0; i < n; i++) gram[i * n + i] += 1e-9 * largest + 1e-30
  const factor = choleskyOf(gram, n)
  const out = Array.from({ length: n }, () => new Array<number>(m).fill(0))
  if (!factor) return out
  for (let r = 0; r < m; r++) {
    const column = solveCholesky(factor, Float64Array.from(rows[r]), n)
    for (let i = 0; i < n; i++) out[i][r] = column[i]
  }
  return out
}
