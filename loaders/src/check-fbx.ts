import { unzlibSync } from 'fflate'
import { ChiraxisError } from '@chiraxis/core/math'

const LIMITS = {
  nodes: 2_000_000,
  depth: 64,
  /** Bytes of all lists once unpacked. */
  unpacked: 768 * 2 ** 20,
  /** Beyond this a curve turns or travels farther than anything could. */
  value: 1e7,
  /** Half turns of all curves together: the loader puts a key at each. */
  halfTurns: 500_000,
} as const

const SIZE: Readonly<Record<string, number>> = { f: 4, d: 8, l: 8, i: 4, b: 1, c: 1 }
const SCALAR: Readonly<Record<string, number>> = { C: 1, B: 1, Y: 2, I: 4, F: 4, D: 8, L: 8 }
/** Data packed by deflate grow at most about a thousandfold. */
const MOST_PACKED = 1040

const damaged = (why: string): ChiraxisError =>
  new ChiraxisError('bad-syntax', `The FBX could not be read: ${why}; the file is damaged.`)
const short = (): ChiraxisError =>
  new ChiraxisError('truncated-file', 'The FBX ends within its data; it is cut short or damaged.')

/**
 * Walks over the records of an FBX before the 3D library's loader does: offsets that stay inside and go on, lists that
 * can be held, and curves that do not make it count without end.
 * @throws ChiraxisError `bad-syntax`, `truncated-file`, `too-large`
 */
export function checkFbx(bytes: Uint8Array, version: number, binary: boolean): void {
  const curves = curveBudget()
  if (binary) walk(bytes, version, curves)
  else checkText(bytes, curves)
}

function walk(bytes: Uint8Array, version: number, curve: (values: ArrayLike<number>) => void): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const wide = version >= 7500
  const head = wide ? 25 : 13
  const whole = (at: number): number => (wide ? Number(view.getBigUint64(at, true)) : view.getUint32(at, true))
  let nodes = 0
  let unpacked = 0
  const record = (from: number, limit: number, depth: number): number => {
    if (from + head > limit) throw short()
    const [end, count, length] = wide
      ? [whole(from), whole(from + 8), whole(from + 16)]
      : [whole(from), whole(from + 4), whole(from + 8)]
    const nameLength = bytes[from + head - 1]
    if (end === 0) return 0
    if (++nodes > LIMITS.nodes || depth > LIMITS.depth)
      throw new ChiraxisError('too-large', 'The FBX holds more records than can be read.')
    const inside = from + head + nameLength
    if (!(end > from && end <= limit) || inside + length > end || count > length + 1) throw damaged('a record reaches past the end of what holds it') // prettier-ignore
    const name = String.fromCharCode(...bytes.subarray(from + head, inside))
    let at = inside
    for (let i = 0; i < count; i++) {
      if (at >= inside + length) throw damaged('a record promises more values than it holds')
      const kind = String.fromCharCode(bytes[at++])
      if (SCALAR[kind]) at += SCALAR[kind]
      else if (kind === 'S' || kind === 'R') {
        if (at + 4 > inside + length) throw short()
        at += 4 + view.getUint32(at, true)
      } else if (SIZE[kind]) {
        if (at + 12 > inside + length) throw short()
        const [n, packing, packed] = [0, 4, 8].map(o => view.getUint32(at + o, true))
        at += 12
        const size = n * SIZE[kind]
        unpacked += size
        if (unpacked > LIMITS.unpacked) throw new ChiraxisError('too-large', 'The lists of the FBX are larger than can be read.') // prettier-ignore
        if (packing === 0 ? size !== packed && at + size > inside + length : size > MOST_PACKED * packed + 64) throw damaged('a list promises more values than it holds') // prettier-ignore
        if (at + packed > inside + length) throw short()
        if (name === 'KeyValueFloat' && kind === 'f') curve(floats(bytes.subarray(at, at + (packing === 0 ? size : packed)), n, packing)) // prettier-ignore
        at += packing === 0 ? size : packed
      } else throw damaged('a value is of a kind nobody knows')
      if (at > inside + length) throw short()
    }
    // records inside of it, up to one of zeros
    for (let inner = inside + length; inner < end;) {
      const next = record(inner, end, depth + 1)
      if (next === 0) break
      inner = next
    }
    return end
  }
  for (let at = 27; at + head <= bytes.length;) {
    const next = record(at, bytes.length, 0)
    if (next === 0) break
    at = next
  }
}

function floats(data: Uint8Array, count: number, packing: number): Float32Array {
  const out = new Uint8Array(4 * count)
  if (packing === 0) out.set(data.subarray(0, out.length))
  else
    try {
      // never more than was promised: the room is given
      out.set(unzlibSync(data, { out: new Uint8Array(out.length) }).subarray(0, out.length))
    } catch {
      throw damaged('a packed list cannot be unpacked')
    }
  return new Float32Array(out.buffer)
}

function checkText(bytes: Uint8Array, curve: (values: ArrayLike<number>) => void): void {
  const text = new TextDecoder('latin1').decode(bytes)
  let depth = 0,
    deepest = 0
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i)
    if (c === 123) deepest = Math.max(deepest, ++depth)
    else if (c === 125) depth--
  }
  if (deepest > LIMITS.depth)
    throw new ChiraxisError('too-large', 'The records of the FBX hang deeper than can be read.')
  for (const match of text.matchAll(/KeyValueFloat:\s*\*\d+\s*\{\s*a:\s*([^}]*)\}/g))
    curve((match[1] ?? '').split(',').map(Number))
}

/** Told the values of every curve; refuses those that turn farther than anything could. */
function curveBudget(): (values: ArrayLike<number>) => void {
  let halfTurns = 0
  return values => {
    for (let i = 0; i < values.length; i++) {
      if (!(Math.abs(values[i]) <= LIMITS.value))
        throw new ChiraxisError(
          'not-finite',
          'A motion curve of the FBX holds a value that is not a number or farther than anything could go; the file is damaged.',
        )
      if (i > 0) halfTurns += Math.floor(Math.abs(values[i] - values[i - 1]) / 180)
    }
    if (halfTurns > LIMITS.halfTurns)
      throw new ChiraxisError('too-large', 'The motion curves of the FBX turn more often than can be read.')
  }
}
