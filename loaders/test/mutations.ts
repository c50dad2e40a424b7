import { seededRandom } from '@chiraxis/core/math'

/** Numbers that files should not hold but do. */
const NUMBERS = [
  '0', '-1', '1', '255', '65536', '4294967295', '-2147483648', '1e9', '1e30', '-1e39', '1e308', '1e999', 'NaN', 'Infinity',
  '-inf', '1e-30', '1e-320', '0x7f', '', '1,5', '--2', '99999999999999999999', 'null', '{}', '[]', '"x"', 'true',
] // prettier-ignore
const BYTES = [0, 1, 0x7f, 0x80, 0xff]

const isText = (bytes: Uint8Array): boolean => !bytes.subarray(0, 512).some(b => b === 0 || b > 127)

/** A file changed somewhere, the same for the same seed: bytes, words, numbers, pieces cut out, doubled or moved. */
export function mutate(bytes: Uint8Array, seed: number): Uint8Array<ArrayBuffer> {
  const random = seededRandom(seed)
  const below = (n: number): number => Math.floor(n * random())
  let out = new Uint8Array(bytes)
  const rounds = 1 + below(4)
  for (let i = 0; i < rounds && out.length > 0; i++) out = one(out, random, below)
  return out
}

function one(
  bytes: Uint8Array<ArrayBuffer>,
  random: () => number,
  below: (n: number) => number,
): Uint8Array<ArrayBuffer> {
  const n = bytes.length
  const from = below(n),
    to = Math.min(n, from + 1 + below(random() < 0.5 ? 8 : Math.max(1, n >> 2)))
  const joined = (...parts: Uint8Array[]): Uint8Array<ArrayBuffer> => {
    const out = new Uint8Array(parts.reduce((s, p) => s + p.length, 0))
    let at = 0
    for (const p of parts) {
      out.set(p, at)
      at += p.length
    }
    return out
  }
  const kind = below(isText(bytes) ? 10 : 8)
  switch (kind) {
    case 0: {
      // a single bit
      const out = bytes.slice()
      out[from] ^= 1 << below(8)
      return out
    }
    case 1: {
      const out = bytes.slice()
      out[from] = BYTES[below(BYTES.length)]!
      return out
    }
    case 2:
      // cut short
      return bytes.slice(0, from)
    case 3:
      return joined(bytes.subarray(0, from), bytes.subarray(to))
    case 4:
      return joined(bytes.subarray(0, to), bytes.subarray(from))
    case 5: {
      // a whole number somewhere, as counts and offsets are told
      const out = bytes.slice()
      const view = new DataView(out.buffer)
      if (n >= 4) view.setUint32(below(n - 3), [0, 1, 0xffffffff, 0x7fffffff, below(2 ** 31), 0x10000][below(6)]!, true)
      return out
    }
    case 6: {
      const out = bytes.slice()
      const view = new DataView(out.buffer)
      if (n >= 4)
        view.setFloat32((below(n - 3) >> 2) << 2, [NaN, Infinity, -Infinity, 1e30, -1e38, 1e-38][below(6)]!, true)
      return out
    }
    case 7: {
      const out = bytes.slice()
      for (let i = from; i < to; i++) out[i] = below(256)
      return out
    }
    default: {
      // a number of a text becomes another
      const text = new TextDecoder('latin1').decode(bytes)
      const numbers = [...text.matchAll(/-?\d+(\.\d+)?([eE][-+]?\d+)?/g)]
      const chosen = numbers[below(numbers.length)]
      if (!chosen) return bytes
      const changed =
        text.slice(0, chosen.index) + NUMBERS[below(NUMBERS.length)]! + text.slice(chosen.index + chosen[0].length)
      return Uint8Array.from(changed, c => c.charCodeAt(0) & 255)
    }
  }
}
