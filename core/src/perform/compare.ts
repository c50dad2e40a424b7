import { angleOf, quatAt, maxOf } from '../math'
import { tracksOf, type Played, type Take } from '../motion'
import { ballRole, legsOf, roleLabel } from '../body'
import { endsApart, measuredRoles } from '../retarget'
import type { Performed } from './perform'

type Tracked = Readonly<Record<string, Float32Array>>

/** How a transferred take differs from the performer's, frame by frame. */
export interface Comparison {
  readonly frames: number
  readonly fps: number
  /** By role, degrees between a joint's own turn as carried over exactly and after feet, hands and arms were kept: N each. */
  readonly turns: Tracked
  /** By role of a hand or foot, its distance from where the performer's is, told from shoulder and hip and scaled by limb reach, metres. */
  readonly ends: Tracked
  /** By role of a foot, the height of its ball over where it stands, metres, and its speed over the ground, metres a second. */
  readonly footHeight: Tracked
  readonly footSpeed: Tracked
  /** Mean and largest by role, degrees. */
  readonly summary: readonly {
    readonly role: string
    readonly mean: number
    readonly most: number
    readonly frame: number
  }[]
  /** Moments that differ most, worst first. */
  readonly worst: readonly { readonly frame: number; readonly role: string; readonly degrees: number }[]
}

/** Seconds around a worst moment that count as the same one. */
const APART = 0.4

/** Compares a performed take with its performer. */
export function compareTake(performed: Performed, figure: Played['skeleton']): Comparison {
  const { carried, take } = performed
  const roles = Object.keys(performed.figure.joints).filter(r => performed.performer.joints[r] !== undefined)
  const turns = turnsApart(figure, performed.figure.joints, roles, carried, take)
  const theirs: Played = {
    skeleton: performed.performerSkeleton,
    joints: performed.performer.joints,
    take: performed.performerTake,
    frame: performed.performerFrame,
  }
  const own: Played = { skeleton: figure, joints: performed.figure.joints, take, frame: performed.figureFrame }
  const tracks = tracksOf(own, measuredRoles(own.joints))
  const n = take.frames
  const apart = endsApart(theirs, own, tracksOf(theirs, measuredRoles(theirs.joints)), tracks)
  const ofFeet = (value: (track: Float32Array | undefined) => Float32Array): Tracked =>
    Object.fromEntries(legsOf(own.joints).map(leg => [`${leg}Foot`, value(tracks[ballRole(own.joints, leg)])]))
  const height = (track: Float32Array | undefined): Float32Array => {
    const out = new Float32Array(n)
    if (!track) return out
    let low = Infinity
    for (let f = 0; f < n; f++) low = Math.min(low, track[3 * f + 1])
    for (let f = 0; f < n; f++) out[f] = track[3 * f + 1] - low
    return out
  }
  const speed = (track: Float32Array | undefined): Float32Array =>
    Float32Array.from({ length: n }, (_, f) => {
      const g = Math.max(0, f - 1),
        h = Math.min(n - 1, f + 1)
      return track && h > g
        ? (Math.hypot(track[3 * h] - track[3 * g], track[3 * h + 2] - track[3 * g + 2]) * take.fps) / (h - g)
        : 0
    })
  const summary = roles
    .map(role => {
      let sum = 0,
        most = 0,
        frame = 0
      turns[role].forEach((d, f) => {
        sum += d
        if (d > most) {
          most = d
          frame = f
        }
      })
      return { role, mean: sum / Math.max(1, n), most, frame }
    })
    .sort((x, y) => y.most - x.most)
  return {
    frames: n,
    fps: take.fps,
    turns,
    ends: apart,
    footHeight: ofFeet(height),
    footSpeed: ofFeet(speed),
    summary,
    worst: worstOf(turns, take),
  }
}

/** Each joint's own turn against its parent, so that what a shoulder did is not told of every finger below it. */
function turnsApart(
  skeleton: Played['skeleton'],
  joints: Readonly<Record<string, number>>,
  roles: readonly string[],
  one: Take,
  two: Take,
): Record<string, Float32Array> {
  const J = skeleton.names.length
  return Object.fromEntries(
    roles.map(r => [
      r,
      Float32Array.from(
        { length: two.frames },
        (_, f) =>
          (angleOf(quatAt(one.rotations, f * J + joints[r]), quatAt(two.rotations, f * J + joints[r])) * 180) / Math.PI,
      ),
    ]),
  )
}

function worstOf(
  turns: Readonly<Record<string, Float32Array>>,
  take: Take,
): { frame: number; role: string; degrees: number }[] {
  const all: { frame: number; role: string; degrees: number }[] = []
  for (let frame = 0; frame < take.frames; frame++) {
    let role = '',
      degrees = 0
    for (const [r, track] of Object.entries(turns))
      if (track[frame] > degrees) {
        degrees = track[frame]
        role = r
      }
    if (degrees > 0.5) all.push({ frame, role, degrees })
  }
  all.sort((x, y) => y.degrees - x.degrees)
  const out: typeof all = []
  for (const moment of all) {
    if (out.length >= 6) break
    if (out.every(o => Math.abs(o.frame - moment.frame) > APART * take.fps)) out.push(moment)
  }
  return out
}

/** The numbers of a transfer as one page of plain text. */
export function comparisonPage(name: string, performed: Performed, c: Comparison): string {
  const m = performed.measures
  const cm = (values: Float32Array): string => (100 * maxOf(values, 0)).toFixed(2)
  const mean = (values: Float32Array): string =>
    (100 * (values.reduce((s, v) => s + v, 0) / Math.max(1, values.length))).toFixed(2)
  const lines = [
    `Transfer of ${name}`,
    `${c.frames} frames at ${c.fps} a second, ${((c.frames - 1) / c.fps).toFixed(2)} s`,
    '',
    `${'feet slide at rest'.padEnd(32)}${m.footSkateMetresPerSecond === null ? 'unknown: walks on the spot' : `${(100 * m.footSkateMetresPerSecond).toFixed(2)} cm/s`}`,
    `${'lowest of the body'.padEnd(32)}${(100 * m.clearance).toFixed(2)} % of height over the floor`,
    ...(m.armRoom === undefined
      ? []
      : [
          `${'arms off the body'.padEnd(32)}${(100 * m.armRoom).toFixed(2)} cm (before: ${(100 * (m.armRoomBefore ?? 0)).toFixed(2)} cm)`,
        ]),
    ...Object.entries(c.ends).map(
      ([role, apart]) =>
        `${`${roleLabel(role).toLowerCase()} off its place`.padEnd(32)}mean ${mean(apart)} cm, most ${cm(apart)} cm`,
    ),
    '',
    'Turned away from what was recorded, degrees (mean, most, at second)',
    ...c.summary.map(
      s =>
        `${s.role.padEnd(26)}${s.mean.toFixed(2).padStart(8)}${s.most.toFixed(2).padStart(9)}${(s.frame / c.fps).toFixed(2).padStart(9)}`,
    ),
    '',
    'Role map (figure joint, performer joint)',
    ...Object.entries(performed.roleMap).map(([own, theirs]) => `${own.padEnd(26)}${theirs}`),
    '',
    'Rest poses differed by, degrees',
    ...Object.entries(performed.restMatch)
      .filter(([, d]) => d > 0.5)
      .map(([role, d]) => `${role.padEnd(26)}${d.toFixed(1)}`),
  ]
  return `${lines.join('\n')}\n`
}
