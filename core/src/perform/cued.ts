import {
  findCues,
  foundBeside,
  toldCurves,
  travelCurves,
  withCues,
  withToldCues,
  type CueClock,
  type CueSettings,
  type TakeCues,
} from '../cues'
import { takeSeconds, type Played } from '../motion'
import type { Performed } from './perform'

const SAME: CueClock = { timeOf: s => s, toRecording: s => s, mirrored: false }

/**
 * The moments and curves of a take that is done: found ones of the kinds asked for, those told by hand, and those the recording
 * brought along. The same object where there are none.
 */
export function cued(
  performed: Performed,
  settings: CueSettings = {},
  told: TakeCues = {},
  clock: CueClock = SAME,
): Performed {
  const { figureSkeleton: skeleton, figure, figureFrame: frame, take, contacts, handContacts: hands } = performed
  const { find = [], curves = [] } = settings
  if (figure.joints.hips === undefined) return performed
  const played: Played = { skeleton, joints: figure.joints, take, frame }
  const surface = told.surface ?? settings.surface
  const found = find.length > 0 ? findCues({ played, contacts, hands, surface }, find) : []
  const brought = take.events ?? []
  const all = found.length > 0 ? foundBeside(brought, found) : brought
  const events = told.cues?.length ? withToldCues(all, told.cues, clock, takeSeconds(take)) : all
  const scalars = [...travelCurves(performed.travelled.path, take.fps, curves), ...toldCurves(told.curves, take, clock)]
  const whole = withCues(take, events, scalars)
  return whole === take ? performed : { ...performed, take: whole }
}
