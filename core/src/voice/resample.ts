import type { Sound } from './wav'

/** Zero crossings of the kernel on either side. */
const REACH = 12

/**
 * A sound at another rate, through a windowed sinc that keeps out what the lower rate cannot hold.
 * Source: Smith and Gossett, A flexible sampling-rate conversion method, 1984.
 */
export function resampleSound({ samples, rate }: Sound, to: number): Sound {
  if (rate === to) return { samples, rate }
  const ratio = rate / to
  const wide = Math.max(1, ratio)
  const half = REACH * wide
  const out = new Float32Array(Math.max(1, Math.floor(samples.length / ratio)))
  // the kernel, 64 steps between zero crossings
  const fine = 64
  const kernel = Float64Array.from({ length: REACH * fine + 2 }, (_, i) => {
    const x = i / fine
    const window = x < REACH ? 0.5 + 0.5 * Math.cos((Math.PI * x) / REACH) : 0
    return (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x)) * window
  })
  for (let i = 0; i < out.length; i++) {
    const at = i * ratio
    const from = Math.max(0, Math.ceil(at - half))
    const end = Math.min(samples.length - 1, Math.floor(at + half))
    let sum = 0
    let all = 0
    for (let k = from; k <= end; k++) {
      const w = kernel[Math.round((Math.abs(k - at) / wide) * fine)]
      sum += w * samples[k]
      all += w
    }
    out[i] = all === 0 ? 0 : sum / all
  }
  return { samples: out, rate: to }
}
