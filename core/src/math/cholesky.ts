/**
 * Lower triangle L of a symmetric matrix with L·Lᵀ equal to it; undefined where it is not positive definite.
 * @param a n·n, of which the lower triangle is read  @param l n·n, receives it
 */
export function choleskyOf(a: Float64Array, n: number, l = new Float64Array(n * n)): Float64Array | undefined {
  for (let i = 0; i < n; i++)
    for (let j = 0; j <= i; j++) {
      let sum = a[i * n + j]
      for (let k = 0; k < j; k++) sum -= l[i * n + k] * l[j * n + k]
      if (i === j) {
        if (!(sum > 0)) return undefined
        l[i * n + i] = Math.sqrt(sum)
      } else l[i * n + j] = sum / l[j * n + j]
    }
  return l
}

/** Solves L·Lᵀ·x = b. @param y receives x, n */
export function solveCholesky(l: Float64Array, b: Float64Array, n: number, y = new Float64Array(n)): Float64Array {
  for (let i = 0; i < n; i++) {
    let sum = b[i]
    for (let k = 0; k < i; k++) sum -= l[i * n + k] * y[k]
    y[i] = sum / l[i * n + i]
  }
  for (let i = n - 1; i >= 0; i--) {
    let sum = y[i]
    for (let k = i + 1; k < n; k++) sum -= l[k * n + i] * y[k]
    y[i] = sum / l[i * n + i]
  }
  return y
}
