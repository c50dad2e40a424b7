import { z } from 'zod'
import { ChiraxisError } from '../math'
import type { Heard } from './listen'
import type { MouthCurves, MouthOptions } from './mouth'
import { MOUTH_DEFAULTS } from './mouth'

/** How strongly shapes of a face show over time, wherever it was made. */
export interface FaceSolution {
  readonly fps: number
  readonly frames: number
  readonly tracks: readonly { readonly name: string; readonly values: Float32Array }[]
  /** Points of a face that were recorded in place of weights, 3·P·N; the first frame shows it at rest. */
  readonly points?: { readonly names: readonly string[]; readonly positions: Float32Array }
}

/** Most shapes, and most values of one, that are read. */
const MOST = { tracks: 400, frames: 200_000 }
/** Beyond this a weight is no weight of a shape, but of something else (percents, for one). */
const WILDEST = 10

const fileShape = z.object({
  fps: z.number().min(1).max(1000),
  shapes: z.record(z.string().min(1).max(120), z.array(z.number())),
})

/** A number with no more digits than are seen. */
const told = (v: number, digits = 4): number => Number(v.toFixed(digits))

/** The file of mouth shapes over time, told in docs/formats.md. */
export function writeMouthShapes(
  heard: Heard,
  { fps, frames, shapes }: MouthCurves,
  options: MouthOptions = {},
): string {
  const document = {
    kind: 'mouth-shapes',
    version: 1,
    seconds: told(heard.seconds),
    fps,
    frames,
    lead: options.lead ?? MOUTH_DEFAULTS.lead,
    said: heard.said.map(s => ({ from: told(s.from), to: told(s.to), shape: s.shape, strength: told(s.strength, 3) })),
    shapes: Object.fromEntries(
      Object.entries(shapes).map(([name, values]) => [name, Array.from(values, v => told(v))]),
    ),
  }
  return `${JSON.stringify(document)}\n`
}

/**
 * Reads weights of a face over time: JSON `{ fps, shapes: { name: [weights] } }`, or CSV with a line of names, `time` in seconds
 * first, and a line for each moment.
 * @returns the solution, and what was put right, for a person
 * @throws ChiraxisError `empty-file`, `bad-syntax`, `not-finite`, `too-large`
 */
export function readFaceSolution(bytes: Uint8Array): {
  readonly solution: FaceSolution
  readonly told: readonly string[]
} {
  const text = new TextDecoder()
    .decode(bytes)
    .replace(/^\uFEFF/, '')
    .trim()
  if (text === '') throw new ChiraxisError('empty-file', 'The file of face shapes is empty.')
  const read = text.startsWith('{') ? fromJson(text) : pointsIn(fromCsv(text))
  if (read.points) return { solution: read, told: [] }
  if (read.tracks.length === 0) throw new ChiraxisError('bad-syntax', 'The file names no shapes of a face.')
  if (read.tracks.length > MOST.tracks || read.frames > MOST.frames)
    throw new ChiraxisError(
      'too-large',
      `A face of ${read.tracks.length} shapes over ${read.frames} moments is more than can be read.`,
    )
  const notes: string[] = []
  const tracks = read.tracks.map(({ name, values }) => {
    if (!values.every(Number.isFinite))
      throw new ChiraxisError('not-finite', `The shape ${name} holds values that are no numbers.`)
    const wild = values.some(v => Math.abs(v) > WILDEST)
    if (wild && values.some(v => Math.abs(v) > 100))
      throw new ChiraxisError(
        'bad-input',
        `The shape ${name} goes as far as ${range(values)[1]}; weights go from 0 to 1.`,
      )
    if (wild) notes.push(`${name} is told in percent.`)
    else if (values.some(v => v < -0.001 || v > 1.001)) notes.push(`${name} goes beyond 0 to 1 and is held there.`)
    return { name, values: values.map(v => Math.min(1, Math.max(0, wild ? v / 100 : v))) }
  })
  return { solution: { ...read, tracks }, told: notes }
}

/** Columns that come in threes, `name.x`, `name.y`, `name.z`, are points and no weights. */
function pointsIn(read: FaceSolution): FaceSolution {
  const { tracks, frames, fps } = read
  const parts = tracks.map(t => /^(.+?)[._ ]([xyz])$/i.exec(t.name))
  if (tracks.length === 0 || tracks.length % 3 !== 0 || parts.some(p => !p)) return read
  const names = [...new Set(parts.map(p => p![1]))]
  const column = new Map(parts.map((p, i) => [`${p![1]} ${p![2].toLowerCase()}`, tracks[i].values]))
  if (names.some(n => ['x', 'y', 'z'].some(k => !column.has(`${n} ${k}`)))) return read
  const positions = new Float32Array(3 * names.length * frames)
  for (let f = 0; f < frames; f++)
    names.forEach((n, p) => {
      ;['x', 'y', 'z'].forEach((k, c) => (positions[3 * (f * names.length + p) + c] = column.get(`${n} ${k}`)![f]))
    })
  return { fps, frames, tracks: [], points: { names, positions } }
}

const range = (values: Float32Array): [number, number] => {
  let [low, high] = [Infinity, -Infinity]
  for (const v of values) {
    low = Math.min(low, v)
    high = Math.max(high, v)
  }
  return [low, high]
}

function fromJson(text: string): FaceSolution {
  let raw: unknown
  try {
    raw = JSON.parse(text)
  } catch {
    throw new ChiraxisError('bad-syntax', 'The file of face shapes is no valid JSON.')
  }
  const parsed = fileShape.safeParse(raw)
  if (!parsed.success)
    throw new ChiraxisError('bad-syntax', 'Face shapes are told as { fps, shapes: { name: [weights from 0 to 1] } }.')
  const { fps, shapes } = parsed.data
  const lists = Object.entries(shapes)
  const frames = lists.reduce((n, [, v]) => Math.max(n, v.length), 0)
  return {
    fps,
    frames,
    // a shape that ends early stays as it is
    tracks: lists.map(([name, v]) => ({
      name,
      values: Float32Array.from({ length: frames }, (_, f) => v[Math.min(f, v.length - 1)] ?? 0),
    })),
  }
}

function fromCsv(text: string): FaceSolution {
  const lines = text.split(/\r?\n/).filter(l => l.trim() !== '')
  const by = lines[0].includes('\t') ? '\t' : lines[0].includes(';') ? ';' : ','
  const cells = (line: string): string[] => line.split(by).map(c => c.trim().replace(/^"(.*)"$/, '$1'))
  const names = cells(lines[0])
  if (!/^time|^seconds?$/i.test(names[0]))
    throw new ChiraxisError('bad-syntax', 'A table of face shapes begins with a line of names, the first of them time.')
  const rows = lines.slice(1).map((line, i) => {
    const row = cells(line).map(Number)
    if (row.length !== names.length || row.some(Number.isNaN))
      throw new ChiraxisError('bad-syntax', `Line ${i + 2} of the face shapes does not have ${names.length} numbers.`)
    return row
  })
  if (rows.length === 0) throw new ChiraxisError('bad-syntax', 'The table of face shapes has names and no moments.')
  for (let i = 1; i < rows.length; i++)
    if (rows[i][0] <= rows[i - 1][0])
      throw new ChiraxisError('bad-syntax', `Line ${i + 2} of the face shapes is not later than the one before.`)
  const start = rows[0][0]
  const seconds = rows[rows.length - 1][0] - start
  const fps = rows.length < 2 ? 30 : Math.min(1000, Math.max(1, Math.round((100 * (rows.length - 1)) / seconds) / 100))
  const frames = Math.min(MOST.frames + 1, Math.round(seconds * fps) + 1)
  let r = 0
  const places = Array.from({ length: frames }, (_, f) => {
    const t = start + f / fps
    while (r < rows.length - 2 && rows[r + 1][0] <= t) r++
    const next = rows[Math.min(rows.length - 1, r + 1)]
    const share = next === rows[r] ? 0 : (t - rows[r][0]) / (next[0] - rows[r][0])
    return { row: rows[r], next, share: Math.min(1, Math.max(0, share)) }
  })
  return {
    fps,
    frames,
    tracks: names.slice(1).map((name, c) => ({
      name,
      values: Float32Array.from(places, ({ row, next, share }) => row[c + 1] + share * (next[c + 1] - row[c + 1])),
    })),
  }
}
