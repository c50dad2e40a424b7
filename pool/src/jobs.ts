import type { TransferJob, TransferJobResult } from '@chiraxis/core/batch'
import type { FigureJobResult } from '@chiraxis/core/steps'

/** A file by its hash; its bytes only where the child does not have them yet. */
export interface JobFile {
  readonly key: string
  readonly name: string
  readonly bytes?: Uint8Array
}

/** What a file holds, in numbers. */
export interface Inspected {
  readonly format: string
  readonly vertices: number
  readonly triangles: number
  readonly joints: readonly string[]
  readonly takes: readonly {
    readonly name: string
    readonly frames: number
    readonly fps: number
    readonly seconds: number
  }[]
}

/** What a child can be asked for, and what it gives. */
export interface JobKinds {
  inspect: { readonly asked: { readonly file: JobFile }; readonly given: Inspected }
  transfer: {
    readonly asked: Omit<TransferJob, 'figure' | 'take' | 'propFiles'> & {
      readonly figure: JobFile
      readonly take: JobFile
      readonly propFiles?: readonly JobFile[]
    }
    readonly given: TransferJobResult
  }
  /** From a body or a project to a delivered figure. */
  figure: {
    readonly asked: {
      readonly figure: JobFile
      readonly beside: readonly JobFile[]
      readonly settings?: unknown
      readonly takes?: 'all' | readonly string[]
    }
    readonly given: FigureJobResult
  }
}
export type JobKind = keyof JobKinds

/** To the child. */
export interface Ask<K extends JobKind = JobKind> {
  readonly id: number
  readonly kind: K
  readonly asked: JobKinds[K]['asked']
}

/** From the child: a result, a refusal, the files it needs to begin, or how far it is. */
export type Reply =
  | { readonly id: number; readonly given: unknown }
  | { readonly id: number; readonly refused: { readonly code: string; readonly message: string } }
  | { readonly id: number; readonly needs: readonly string[] }
  | { readonly id: number; readonly progress: number }
