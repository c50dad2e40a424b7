declare module 'fft.js' {
  /** Radix-4 transform of a fixed power-of-two size; complex numbers as pairs in one array. */
  export default class FFT {
    constructor(size: number)
    createComplexArray(): number[]
    realTransform(out: number[] | Float64Array, input: ArrayLike<number>): void
    completeSpectrum(spectrum: number[] | Float64Array): void
    inverseTransform(out: number[] | Float64Array, input: ArrayLike<number>): void
  }
}
