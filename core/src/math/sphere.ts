/** Directions spread evenly over a sphere (Fibonacci lattice), 3 numbers each. */
export const directionsOver = (count: number): Float64Array =>
  Float64Array.from(
    Array.from({ length: count }, (_, i) => {
      const y = 1 - (2 * i + 1) / count
      const r = Math.sqrt(1 - y * y)
      const angle = Math.PI * (3 - Math.sqrt(5)) * i
      return [r * Math.cos(angle), y, r * Math.sin(angle)]
    }).flat(),
  )
