import { strToU8, Zip, ZipDeflate, ZipPassThrough } from 'fflate'
import type { GltfContent } from '../formats'
import { ChiraxisError } from '../math'
import { takeSeconds } from '../motion'
import type { ArchivedFile } from './archive'
import type { Profile } from './profile'

/** What a bundle tells of its files, readable by anybody: JSON. */
export interface Manifest {
  readonly manifest: 1
  readonly figure: string
  readonly profile: Profile
  readonly licence?: string
  readonly joints: readonly string[]
  readonly files: readonly {
    readonly name: string
    readonly bytes: number
    readonly beside: readonly string[]
    readonly takes: readonly string[]
    readonly proof: unknown
    readonly notes: readonly string[]
  }[]
  readonly takes: readonly {
    readonly name: string
    readonly performer?: string
    readonly frames: number
    readonly fps: number
    readonly seconds: number
    readonly cues: readonly { readonly time: number; readonly name: string; readonly data?: unknown }[]
    readonly curves: readonly { readonly name: string; readonly fps: number; readonly values: readonly number[] }[]
  }[]
}

/** The manifest of what was delivered. */
export function manifestOf(
  content: GltfContent,
  profile: Profile,
  files: readonly ArchivedFile[],
  performers: readonly string[] = [],
): Manifest {
  return {
    manifest: 1,
    figure: content.name,
    profile,
    ...(profile.meta?.copyright && { licence: profile.meta.copyright }),
    joints: [...(content.skeleton?.names ?? [])],
    files: files.map(({ name, size, beside, takes, proof, notes }) => ({
      name,
      bytes: size,
      beside: beside.map(b => b.name),
      takes,
      proof,
      notes,
    })),
    takes: (content.takes ?? []).map((take, i) => ({
      name: take.name,
      ...(performers[i] && { performer: performers[i] }),
      frames: take.frames,
      fps: take.fps,
      seconds: takeSeconds(take),
      cues: (take.events ?? []).map(({ time, name, data }) => ({
        time: Number(time.toPrecision(9)),
        name,
        ...(data && { data }),
      })),
      curves: (take.scalars ?? []).map(s => ({
        name: s.name,
        fps: take.fps,
        values: Array.from(s.values, v => Number(v.toPrecision(7))),
      })),
    })),
  }
}

/** An archive that is written file by file, so that no more than one of them is held beside it. */
export class Bundle {
  private readonly parts: Uint8Array[] = []
  private readonly taken = new Set<string>()
  private readonly zip: Zip
  private failed: Error | undefined

  /** @param sink takes what is written; left out, it is kept for {@link done} */
  constructor(sink?: (part: Uint8Array) => void) {
    this.zip = new Zip((error, part) => {
      if (error) this.failed = error
      else if (sink) sink(part)
      else this.parts.push(part)
    })
  }

  /** Adds a file; names of one archive stay apart, whatever the case. @returns its name in it */
  add(name: string, bytes: Uint8Array): string {
    const dot = name.lastIndexOf('.')
    const [stem, ending] = dot > 0 ? [name.slice(0, dot), name.slice(dot)] : [name, '']
    let free = name
    for (let i = 2; this.taken.has(free.toLowerCase()); i++) free = `${stem}-${i}${ending}`
    this.taken.add(free.toLowerCase())
    // images and such are packed already
    const packed = /\.(png|jpe?g|webp)$/i.test(ending)
    const entry = packed ? new ZipPassThrough(free) : new ZipDeflate(free, { level: 6 })
    // the same files give the same archive
    entry.mtime = new Date('2000-01-01T12:00:00')
    this.zip.add(entry)
    entry.push(bytes, true)
    if (this.failed) throw new ChiraxisError('bad-input', `The archive could not be written: ${this.failed.message}.`)
    return free
  }

  addJson(name: string, data: unknown): void {
    this.add(name, strToU8(`${JSON.stringify(data, null, 2)}\n`))
  }

  /** Ends the archive. @returns all of it; nothing where it went into a sink */
  done(): Uint8Array<ArrayBuffer> {
    this.zip.end()
    if (this.failed) throw new ChiraxisError('bad-input', `The archive could not be written: ${this.failed.message}.`)
    const length = this.parts.reduce((n, p) => n + p.length, 0)
    const out = new Uint8Array(length)
    let at = 0
    for (const part of this.parts) {
      out.set(part, at)
      at += part.length
    }
    return out
  }
}
