import type { GltfContent } from '../formats'
import { runsOf, takeSeconds, type Contacts } from '../motion'
import type { ArchivedFile } from './archive'
import type { Profile } from './profile'

/** A stretch in which a part rests on something, seconds. */
export interface ManifestContact {
  readonly part: string
  readonly from: number
  readonly to: number
}

export interface ManifestTake {
  readonly name: string
  readonly figure: string
  readonly performer?: string
  readonly frames: number
  readonly fps: number
  readonly seconds: number
  readonly contacts: readonly ManifestContact[]
  readonly cues: readonly { readonly time: number; readonly name: string; readonly data?: unknown }[]
  readonly curves: readonly { readonly name: string; readonly fps: number; readonly values: readonly number[] }[]
}

/** What a figure and its takes are, apart from the files they stand in. */
export interface FigureTold {
  readonly figure: {
    readonly name: string
    readonly joints: readonly string[]
    /** Rights as the file it came in tells them. */
    readonly licence?: string
  }
  readonly takes: readonly ManifestTake[]
}

/** What a bundle tells of its files, readable by anybody: JSON. */
export interface Manifest {
  readonly manifest: 1
  readonly profile: Profile
  readonly licence?: string
  readonly figures: readonly FigureTold['figure'][]
  readonly files: readonly {
    readonly name: string
    readonly figure: string
    readonly bytes: number
    readonly beside: readonly string[]
    readonly takes: readonly string[]
    readonly proof: unknown
    readonly notes: readonly string[]
  }[]
  readonly takes: readonly ManifestTake[]
}

/** Stretches of contacts of a take, in order of time. */
export const contactsTold = (contacts: Contacts, fps: number): ManifestContact[] =>
  Object.entries(contacts)
    .flatMap(([leg, flags]) =>
      runsOf(flags).map(([first, end]) => ({
        part: `${leg}Foot`,
        from: Number((first / fps).toPrecision(7)),
        to: Number((end / fps).toPrecision(7)),
      })),
    )
    .sort((a, b) => a.from - b.from)

/** What is told of a figure as it is delivered. */
export const figureTold = (
  { name, skeleton, takes = [], source }: GltfContent,
  performers: readonly string[] = [],
  contacts: readonly (readonly ManifestContact[] | undefined)[] = [],
): FigureTold => ({
  figure: { name, joints: [...(skeleton?.names ?? [])], ...licenceOf(source) },
  takes: takes.map((take, i) => ({
    name: take.name,
    figure: name,
    ...(performers[i] && { performer: performers[i] }),
    frames: take.frames,
    fps: take.fps,
    seconds: takeSeconds(take),
    contacts: contacts[i] ?? [],
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
})

/** What the document a figure came in says of rights: its copyright, and the licence a VRM names. */
function licenceOf(source: GltfContent['source']): { licence?: string } {
  const { asset, extensions } = source?.document.json ?? {}
  const meta = (extensions?.VRMC_vrm as { meta?: { licenseUrl?: unknown; copyrightInformation?: unknown } } | undefined)
    ?.meta
  const told = [asset?.copyright, meta?.copyrightInformation, meta?.licenseUrl].filter(t => typeof t === 'string' && t)
  return told.length > 0 ? { licence: [...new Set(told)].join('; ') } : {}
}

/** A figure with files of it. */
export interface ManifestPart {
  readonly told: FigureTold
  readonly files: readonly ArchivedFile[]
}

/** The manifest of files by what is told of their figures: each figure once, every take of it. */
export function manifestOf(profile: Profile, parts: readonly ManifestPart[]): Manifest {
  const figures = new Map(parts.map(({ told: { figure } }) => [`${figure.name}\n${figure.joints.join()}`, figure]))
  return {
    manifest: 1,
    profile,
    ...(profile.meta?.copyright && { licence: profile.meta.copyright }),
    figures: [...figures.values()],
    files: parts.flatMap(({ told, files }) =>
      files.map(({ name, size, beside, takes, proof, notes }) => ({
        name,
        figure: told.figure.name,
        bytes: size,
        beside: beside.map(b => b.name),
        takes,
        proof,
        notes,
      })),
    ),
    takes: parts.flatMap(p => p.told.takes),
  }
}
