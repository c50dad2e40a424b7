import type { Take } from '../motion'
import { keptBack } from './kept-back'

/** Seconds a moment, and a share of its largest value a curve, may be off. */
const OFF = { moment: 1e-4, curve: 1e-5 }

/**
 * Holds the moments and curves of a take that was read back against those that were to be written.
 * @param shapes names of shapes, whose motion is held against the file itself
 * @throws ChiraxisError `unproven`
 */
export function proveMoments(take: Take, read: Take, shapes: ReadonlySet<string>): void {
  const lost = (what: string): never => {
    throw keptBack(`the take ${take.name} lost ${what}`)
  }
  const [told, found] = [take.events ?? [], read.events ?? []]
  if (told.length !== found.length) lost(`moments: ${found.length} of ${told.length} are there`)
  told.forEach((event, i) => {
    const other = found[i]
    const same =
      other.name === event.name &&
      Math.abs(other.time - event.time) <= OFF.moment &&
      JSON.stringify(other.data ?? {}) === JSON.stringify(event.data ?? {})
    if (!same) lost(`the moment ${event.name} at ${event.time.toFixed(2)} s`)
  })
  for (const { name, kind, values } of take.scalars ?? []) {
    if (kind === 'expression' && shapes.has(name)) continue
    const other = read.scalars?.find(s => s.name === name)
    if (!other) return lost(`the curve ${name}`)
    const most = values.reduce((m, v) => Math.max(m, Math.abs(v)), 1)
    values.forEach((v, f) => {
      if (!(Math.abs(v - other.values[f]) <= OFF.curve * most)) lost(`the shape of the curve ${name}`)
    })
  }
}
