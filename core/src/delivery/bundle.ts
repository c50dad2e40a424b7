import { strToU8, Zip, ZipDeflate, ZipPassThrough } from 'fflate'
import { ChiraxisError } from '../math'

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
