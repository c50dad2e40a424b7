import { HAND_PLACES } from '@chiraxis/core/correct'
import { legsOf, partnerOf, roleLabel, sideOf } from '@chiraxis/core/body'
import { runsOf } from '@chiraxis/core/motion'
import type { ShownContact } from '~/stores/stretch'

/** A stretch in which something touches, as shares of the take. */
export interface LaneRun {
  readonly from: number
  readonly to: number
  readonly color: string
  /** The lane's upper or lower half, where both sides share it. */
  readonly half?: 0 | 1
  /** What touches what, in the recording's own sides and seconds. */
  readonly contact: ShownContact
  readonly title: string
  /** Told by hand, and not found. */
  readonly told: boolean
}
export interface Lane {
  readonly key: string
  readonly side: 'left' | 'right' | 'middle'
  readonly label: string
  readonly runs: readonly LaneRun[]
}

const COLOR = { left: 'var(--verdigris)', right: 'var(--ochre)', middle: 'var(--slate)' } as const

/** The words for a contact: `left foot rests`, `hands touch`, `left hand on the head`. */
export function contactWords({ part, onto }: Pick<ShownContact, 'part' | 'onto'>): string {
  const foot = /^(.*)(Foot|Heel|Ball)$/.exec(part)
  if (foot) {
    const point = foot[2] === 'Foot' ? (/Front|Hind/.test(part) ? '' : ' foot') : ` ${foot[2]!.toLowerCase()}`
    return `${roleLabel(foot[1]!).toLowerCase()}${point} rests`
  }
  if (/Hand$/.test(onto)) return 'hands touch'
  const hand = roleLabel(part).toLowerCase()
  return onto === 'ground' ? `${hand} on the ground` : `${hand} on the ${roleLabel(onto).toLowerCase()}`
}

/** The foot a heel or a ball is of. */
const wholeFoot = (part: string): string => part.replace(/(Heel|Ball)$/, 'Foot')

/** When feet and hands of the take that is shown touch something, lane by lane. */
export function useContactLanes() {
  const derived = useDerived()
  const player = usePlayer()
  const stretch = useStretch()
  const { adjust, contacts, ownId } = useTakeEdit()
  const own = (part: string): string => (!ownId.value && adjust.value.mirror ? partnerOf(part) : part)
  const lanes = computed<Lane[]>(() => {
    const a = derived.performed?.answer
    if (!a || !player.take) return []
    const last = Math.max(1, player.take.frames - 1)
    const { fps } = player.take
    const told = contacts.value
    const of = (flags: Uint8Array | undefined, side: Lane['side'], part: string, onto: string): LaneRun[] =>
      runsOf(flags ?? new Uint8Array()).map(([first, end]) => {
        const contact = {
          part: own(part),
          onto: own(onto),
          from: player.toRecording(first / fps),
          to: player.toRecording(end / fps),
        }
        const middle = (contact.from + contact.to) / 2
        return {
          from: first / last,
          to: end / last,
          color: COLOR[side],
          contact,
          title: `${contactWords({ part, onto })}, ${(first / fps).toFixed(2)} to ${(end / fps).toFixed(2)} s`,
          told: told.some(
            t =>
              t.holds &&
              (t.part === contact.part || wholeFoot(t.part) === wholeFoot(contact.part)) &&
              t.onto === contact.onto &&
              t.from <= middle &&
              t.to >= middle,
          ),
        }
      })
    const legs = legsOf(a.figureJoints)
    const feet = legs.flatMap((leg): Lane[] => {
      const side = sideOf(leg)
      const heel = stretch.apart ? a.heels?.[leg] : undefined
      if (heel)
        return (['Heel', 'Ball'] as const).map(point => ({
          key: leg + point,
          side,
          label: `${roleLabel(leg)} ${point.toLowerCase()}`,
          runs: of(point === 'Heel' ? heel : a.contacts[leg], side, leg + point, 'ground'),
        }))
      return [
        {
          key: leg,
          side,
          label: legs.length > 2 ? roleLabel(leg) : `${roleLabel(leg)} foot`,
          runs: of(a.contacts[leg], side, `${leg}Foot`, 'ground'),
        },
      ]
    })
    // the rest of the body, where every part is asked for
    const rest = stretch.apart
      ? Object.entries(a.lying ?? {}).flatMap(([role, flags]): Lane[] =>
          flags.includes(1)
            ? [{ key: role, side: sideOf(role), label: roleLabel(role), runs: of(flags, sideOf(role), role, 'ground') }]
            : [],
        )
      : []
    const h = a.handContacts
    if (!h) return [...feet, ...rest]
    const firm = (weights: Float32Array): Uint8Array => Uint8Array.from(weights, w => (w > 0.5 ? 1 : 0))
    const onBody = (side: 'left' | 'right', half: 0 | 1): LaneRun[] => {
      const { weight, place } = h.body[side]
      return [...new Set(place)]
        .filter(k => k >= 0)
        .flatMap(k => {
          const flags = firm(weight.map((w, f) => (place[f] === k ? w : 0)))
          return of(flags, side, `${side}Hand`, HAND_PLACES[k]!).map(r => ({ ...r, half }))
        })
    }
    const holds = [
      ...of(firm(h.together), 'middle', 'leftHand', 'rightHand'),
      ...onBody('left', 0),
      ...onBody('right', 1),
    ]
    // most takes hold nothing
    const lanes = [...feet, ...rest]
    return holds.length > 0 ? [...lanes, { key: 'hands', side: 'middle', label: 'Hands', runs: holds }] : lanes
  })
  return { lanes }
}
