import { ChiraxisError } from '@chiraxis/core/math'
import type { GoodFile } from './good-files'

export interface Verdict {
  readonly kind: 'refused' | 'accepted' | 'not finite' | 'unclear' | 'slow'
  readonly told: string
  readonly milliseconds: number
}

/** Words, other than those quoted from the file, that tell a programmer something and an artist nothing. */
const UNCLEAR =
  /undefined|null\b|NaN|\[object|TypeError|RangeError|is not a function|Cannot read|Unexpected token|Invalid (typed )?array|at position|ZodError|"code":/i

/** Reads a file that may be anything and says how that went. */
export async function judge(file: GoodFile, bytes: Uint8Array, most = 10_000): Promise<Verdict> {
  const from = performance.now()
  const verdict = (kind: Verdict['kind'], told: string): Verdict => {
    const milliseconds = performance.now() - from
    return milliseconds > most ? { kind: 'slow', told, milliseconds } : { kind, told, milliseconds }
  }
  let value: unknown
  try {
    value = await file.read(bytes)
  } catch (error) {
    if (!(error instanceof ChiraxisError)) return verdict('unclear', `raw ${String(error).slice(0, 300)}`)
    const clear =
      error.message.length > 8 &&
      error.message.length < 700 &&
      !UNCLEAR.test(error.message.replace(/\([^)]*\)|“[^”]*”/g, ''))
    return verdict(clear ? 'refused' : 'unclear', error.message)
  }
  const wrong = notFinite(value)
  return wrong ? verdict('not finite', wrong) : verdict('accepted', '')
}

/** Where something holds a number that is none; undefined where nothing does. */
export function notFinite(value: unknown, path = '', seen = new Set<unknown>()): string | undefined {
  if (typeof value === 'number') return Number.isFinite(value) ? undefined : path
  if (typeof value !== 'object' || value === null || seen.has(value)) return undefined
  seen.add(value)
  if (ArrayBuffer.isView(value)) {
    const list = value as unknown as ArrayLike<number>
    for (let i = 0; i < list.length; i++) if (!Number.isFinite(list[i])) return `${path}[${i}]`
    return undefined
  }
  const entries = value instanceof Map ? [...value.entries()] : Object.entries(value)
  for (const [key, inner] of entries) {
    const found = notFinite(inner, `${path}.${String(key)}`, seen)
    if (found) return found
  }
  return undefined
}
