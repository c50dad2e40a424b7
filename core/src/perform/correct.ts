import { breather, minOf, type WorkOptions } from '../math'
import { blendTakes, findContacts, type Contacts, type MovingGround, type Played, type Take } from '../motion'
import type { Skeleton } from '../skeleton'
import {
  armRoom,
  easedAround,
  findHandContacts,
  findHeels,
  holdOn,
  keepArmsClear,
  keepHands,
  keepToGround,
  lyingOf,
  limitJoints,
  raiseGirdle,
  toldOf,
  withTold,
  type HandContacts,
  type OverGround,
  type PlacedContact,
} from '../correct'
import type { BodySurface } from '../surface'
import { isPerformance, type TransferMeasures } from '../retarget'
import type { Carried } from './perform'
import { measuresOf, sceneOf, type Scene } from './scene'
import type { TransferSettings } from './settings'
import { NOTHING_TOLD, type PlacedStretch, type Told } from './told'

/** A carried take with hands, arms, limits and feet kept as the settings ask: the third stage. */
export interface Corrected {
  readonly take: Take
  /** When feet rest: as found, with what was told of them. */
  readonly contacts: Contacts
  /** The same of heels; contacts are those of what a foot rolls over. */
  readonly heels?: Contacts
  /** When other parts of the body lie on the ground, by role. */
  readonly lying?: Contacts
  /** When the performer's hands kept to each other and to the body, where hands were kept. */
  readonly handContacts?: HandContacts
  /** How the ground ran away under a performer who walked on the spot. */
  readonly movingGround?: MovingGround
  /** The figure's skeleton is the performer's: there was nothing to correct. */
  readonly asPerformed?: boolean
  readonly measures: TransferMeasures
}

/** What of a carried take is corrected. */
type CarriedTake = Pick<Carried, 'played' | 'take' | 'figure' | 'figureFrame' | 'travel'>

type Corrections = Omit<TransferSettings, 'rest'>

/** What is corrected after a take was carried over. */
export interface CorrectOptions extends WorkOptions {
  readonly settings: Corrections
  /** The body around the figure's bones; without it arms cannot be kept off. */
  readonly surface?: BodySurface
  /** What a person told of single stretches of the take, on its frames. */
  readonly told?: Told
}

/** Seconds over which a stretch of other settings, or of what was told, comes and goes. */
const EASE = 0.3

/**
 * Third stage: joint limits, hands, elbow room and feet, each where the settings ask for it, and how well it went.
 *
 * Every correction brings something of the figure, measured on its own surface, to what it was on the performer's: hands to
 * each other and to the body, arms to the trunk, soles and whatever else lies there to the ground. The performer's surface
 * is the usual one around such bones. A take on its own skeleton needs none of it and is left as it is, but for what a person
 * told of its contacts. Stretches with settings of their own are worked out by these and led in and out.
 */
export async function correctCarried(
  { played: theirs, take, figure, figureFrame, travel }: CarriedTake,
  skeleton: Skeleton,
  { settings, surface, told = NOTHING_TOLD, ...work }: CorrectOptions,
): Promise<Corrected> {
  // messages are let in between two corrections, and the work ends where it was stopped
  const stage = breather(work)
  const found = sceneOf({ played: theirs, take, figure, figureFrame, travel }, skeleton, surface)
  const { tracks, ground } = found
  const scene: Scene = { ...found, contacts: findContacts(theirs, tracks, ground), told: told.contacts }
  const { carried } = scene
  const same = isPerformance(theirs, carried, travel.scale)
  await stage(0.2)
  const each: readonly Corrections[] = [settings, ...told.stretches.map(s => ({ ...settings, ...s.correct }))]
  const weights = told.stretches.map(s => weightsOf(s, take))
  // with what was told by hand, a take on its own skeleton is touched only there
  const onlyTold = toldAnywhere(told.contacts, take)
  const spares = (s: Corrections): boolean => same && s.asPerformed
  // stretches of the same settings share one working out
  const made = new Map<string, UpperBody>()
  const upper: UpperBody[] = []
  for (const [i, s] of each.entries()) {
    await stage(0.2 + (0.5 * i) / each.length)
    const key = JSON.stringify(s)
    const known = made.get(key) ?? (await upperOf(s))
    made.set(key, known)
    upper.push(known)
  }
  async function upperOf(s: Corrections): Promise<UpperBody> {
    const plain = raised(scene, s)
    if (spares(s) && !onlyTold) return { take: plain }
    const whole = await correctUpperBody(scene, spares(s) ? { ...s, limits: false, elbowRoom: null } : s, stage)
    return spares(s) ? { ...whole, take: blendTakes(plain, whole.take, onlyTold!) } : whole
  }
  let own: Played = {
    ...carried,
    take: inStretches(
      upper.map(u => u.take),
      weights,
    ),
  }
  await stage(0.7)
  const standing = new Map<boolean, Take>()
  const grounded: Take[] = []
  for (const s of each) {
    if (!s.ground || (spares(s) && !onlyTold)) {
      grounded.push(own.take)
      continue
    }
    await stage(0.8)
    const stood = standing.get(s.asPerformed) ?? ontoGround(scene, own, !s.asPerformed)
    standing.set(s.asPerformed, stood)
    grounded.push(spares(s) ? blendTakes(own.take, stood, onlyTold!) : stood)
  }
  own = { ...own, take: inStretches(grounded, weights) }
  await stage(0.9)
  const arms = armsOf(upper, own, each, scene)
  const seen = { ...scene, contacts: toldFeet(scene.contacts, 'Ball', told.contacts, take.frames) }
  const { theirSoles, soleTracks } = scene
  const heels = findHeels({ played: theirs, soles: theirSoles, lift: travel.performerLift, tracks: soleTracks }, ground)
  return {
    take: own.take,
    contacts: seen.contacts,
    lying: lyingOf(performerOf(scene), scene.contacts, told.contacts),
    heels: toldFeet(heels, 'Heel', told.contacts, take.frames),
    handContacts: upper.find(u => u.handContacts)?.handContacts,
    movingGround: ground,
    asPerformed: same && settings.asPerformed,
    measures: measuresOf(seen, own, arms),
  }
}

/** What corrections of the upper body gave. */
interface UpperBody {
  readonly take: Take
  readonly handContacts?: HandContacts
  /** How near arms were, and are now, where that is told already; metres. */
  readonly before?: number
  readonly after?: number
}

/** The take with the collar bones raised along with the arms, where that is asked for. */
const raised = ({ carried, theirs, usual }: Scene, { girdle }: Corrections): Take =>
  girdle && usual ? raiseGirdle(carried, side => theirs.joints[`${side}Shoulder`] !== undefined) : carried.take

/** Joint limits, hands and elbow room of a body on two legs. */
async function correctUpperBody(
  scene: Scene,
  settings: Corrections,
  stage: ReturnType<typeof breather>,
): Promise<UpperBody> {
  const { theirs, surface, usual, tracks, travel, told } = scene
  let own: Played = { ...scene.carried, take: raised(scene, settings) }
  if (!usual) return { take: own.take }
  const evidence = settings.asPerformed ? theirs : undefined
  if (settings.limits) own = { ...own, take: limitJoints(own, evidence) }
  await stage()
  const handContacts = settings.hands > 0 ? findHandContacts(theirs, usual.radii, tracks, told) : undefined
  if (handContacts) own = { ...own, take: keepHands(own, surface, handContacts, settings.hands) }
  if (!surface || settings.elbowRoom === null) return { take: own.take, handContacts }
  await stage()
  const before = own.take
  const others = evidence && { played: theirs, radii: usual.radii, scale: travel.scale }
  const kept = keepArmsClear(own, surface, settings.elbowRoom, others)
  own = { ...own, take: kept.take }
  if (handContacts) own = { ...own, take: holdOn(own, before, handContacts) }
  return {
    take: own.take,
    handContacts,
    before: nearer(kept.before),
    after: own.take === kept.take ? nearer(kept.after) : undefined,
  }
}

function ontoGround(scene: Scene, played: Played, still: boolean): Take {
  const { soles, travel, body, contacts, ground, told } = scene
  const standing = { played, soles, lift: travel.figureLift, surface: body }
  return keepToGround(standing, performerOf(scene), { travel, contacts, ground, still, told })
}

/** The performer over the ground. */
const performerOf = ({ theirs, theirSoles, travel, usual, soleTracks, tracks }: Scene): OverGround => ({
  played: theirs,
  soles: theirSoles,
  lift: travel.performerLift,
  surface: usual,
  tracks: soleTracks,
  near: tracks,
})

/** How near arms are to the body where elbow room is asked for anywhere, before and after. */
function armsOf(
  upper: readonly UpperBody[],
  own: Played,
  each: readonly Corrections[],
  { surface, usual }: Scene,
): { readonly before: number; readonly after: number } | undefined {
  if (!surface || !usual || each.every(s => s.elbowRoom === null)) return undefined
  const told = upper.map(u => u.before).filter(b => b !== undefined)
  // one way of correcting tells how near arms came by itself; of a mixture that is asked
  const [first] = upper
  const after = (upper.length === 1 ? first.after : undefined) ?? armRoom(own, surface)
  return { before: told.length > 0 ? minOf(told) : after, after }
}

/** Takes mixed: the first one, over it each further one where its stretch is. */
const inStretches = ([first, ...others]: readonly Take[], weights: readonly Float32Array[]): Take =>
  others.reduce((take, other, i) => (other === take ? take : blendTakes(take, other, weights[i])), first)

const weightsOf = (stretch: PlacedStretch, { fps, frames }: Take): Float32Array =>
  easedAround(new Uint8Array(frames).fill(1, stretch.from, stretch.to + 1), EASE * fps)

/** Where anything at all was told of contacts, eased; undefined where nothing was. */
function toldAnywhere(told: readonly PlacedContact[], { fps, frames }: Take): Float32Array | undefined {
  if (told.length === 0) return undefined
  const flags = new Uint8Array(frames)
  for (const { from, to } of told) flags.fill(1, from, to + 1)
  return easedAround(flags, EASE * fps)
}

/** When heels or balls of feet rest, with what was told of them. */
const toldFeet = (found: Contacts, point: 'Heel' | 'Ball', told: readonly PlacedContact[], frames: number): Contacts =>
  told.length === 0
    ? found
    : Object.fromEntries(
        Object.entries(found).map(([leg, flags]) => [
          leg,
          withTold(flags, toldOf(told, leg + point, 'ground', frames)),
        ]),
      )

const nearer = ({ left, right }: { readonly left: number; readonly right: number }): number => Math.min(left, right)
