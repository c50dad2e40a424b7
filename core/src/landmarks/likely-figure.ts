import { bareName } from '../body'
import { dot, leastSquares, maxOf, scale, sub, type Term, type Vec3 } from '../math'
import { BIPED_LANDMARKS, type Landmark } from './landmark'
import { usualTerms } from './usual-figure'

/** What the shape says of one landmark. Metres. */
export interface Cue {
  readonly id: string
  readonly at: Vec3
  /** How far off such a cue usually is, across every direction but `along`. */
  readonly spread: number
  /** A direction in which it tells less, or nothing, unit; and how far off it is that way. */
  readonly along?: Vec3
  readonly alongSpread?: number
  /** The same for lying farther along, where that is likelier than lying short of it. */
  readonly beyondSpread?: number
}

/** How much better a giant must fit than people do, who are likelier. */
const RARE = 2.5

/** A cue as a term over packed places, in shares of height. */
function cueTerm(cue: Cue, at: number, height: number): Term {
  const goal = scale(cue.at, 1 / height)
  const spread = cue.spread / height
  const beyond = cue.beyondSpread === undefined ? undefined : cue.beyondSpread / height
  const slack = cue.along ? (cue.alongSpread ?? cue.spread) / height : spread
  return {
    over: [at, at + 1, at + 2],
    robust: true,
    residuals: x => {
      const d = sub([x[at], x[at + 1], x[at + 2]], goal)
      if (!cue.along) return scale(d, 1 / spread)
      const t = dot(d, cue.along)
      const across = sub(d, scale(cue.along, t))
      // across two directions of three; the third residual is what lies along
      return [...scale(across, 1 / spread), t / (t > 0 ? (beyond ?? slack) : slack)]
    },
  }
}

/** The likeliest figure, and how badly what is told and what is usual fit in it: the squares of all misfits over their spreads. */
export interface Figure {
  readonly landmarks: Landmark[]
  readonly cost: number
}

/**
 * The likeliest whole figure: what the shape says of each landmark, each as far as it can be trusted, joined with what
 * is usual about bodies. What nothing tells of comes from its neighbours.
 * @param cues of the landmarks of the biped plan, metres  @param usual places by proportion alone, one a landmark, metres
 * @returns every landmark, with how likely it is to be right
 */
export function likelyFigure(cues: readonly Cue[], usual: readonly Landmark[], height: number): Figure {
  const ids = BIPED_LANDMARKS.map(k => k.id)
  const place = new Map(ids.map((id, i) => [id, 3 * i]))
  const told = cues.filter(c => place.has(c.id)).map(c => cueTerm(c, place.get(c.id)!, height))
  const byProportion = (id: string): Vec3 => usual.find(l => l.id === id)!.position
  const byCue = (id: string): Vec3 => cues.find(c => c.id === id)?.at ?? byProportion(id)
  // from what is usual, and from what is told: a figure that is told wrong must not hold the search
  const tries = (['people', 'giant'] as const).flatMap(stature => {
    const terms = [...usualTerms(ids, stature), ...told]
    return [byProportion, byCue].map(start => {
      const solution = leastSquares(
        ids.flatMap(id => scale(start(id), 1 / height)),
        terms,
      )
      return { ...solution, terms, cost: solution.cost + (stature === 'giant' ? RARE : 0) }
    })
  })
  const { x, covariance, misfit, terms, cost } = tries.reduce((a, b) => (b.cost < a.cost ? b : a))
  const n = x.length
  // where what is told and what is usual disagree, less is known than their spreads say
  const whole = Math.sqrt(misfit.reduce((s, v) => s + Math.min(v, 25), 0) / misfit.length)
  const landmarks = ids.map((id, i) => {
    const k = 3 * i
    const variance = [0, 1, 2].reduce((s, c) => s + covariance[(k + c) * n + k + c], 0)
    const own = maxOf(terms.flatMap((t, j) => (t.over.includes(k) ? [Math.min(misfit[j], 50)] : [])))
    return {
      id,
      position: scale([x[k], x[k + 1], x[k + 2]], height),
      confidence: confidenceOf(bareName(id), Math.sqrt(Math.max(0, variance)), own, whole),
    }
  })
  return { landmarks, cost }
}

/**
 * How likely a landmark is to be wrong, more than 4 % of height off: a logistic fit over the spread the search ends
 * with, how badly the worst of what tells of it fits, and how badly the figure fits as a whole. Fitted on 180 made
 * bodies of all builds, stances, dresses and makes, `bench/landmarks.ts` shows how it holds on others.
 */
const DOUBT = { spread: 3.69, own: 0.87, whole: 1.4 }
const DOUBT_OF: Readonly<Record<string, number>> = {
  crown: -2.17,
  chin: -0.3,
  skullBase: -0.32,
  neckBase: -0.39,
  chest: 0.08,
  hips: -0.14,
  Shoulder: -2.19,
  Elbow: -0.81,
  Wrist: -1.68,
  HandTip: -3.45,
  Hip: -0.43,
  Knee: -1.09,
  Ankle: -1.77,
  Toes: -2.53,
  ToeTip: -2.53,
}

/** 0.6 is told where about one in seven is wrong on such bodies, 0.9 where one in twenty is: of all above it, under one in a hundred. */
function confidenceOf(part: string, spread: number, own: number, whole: number): number {
  const odds =
    DOUBT.spread * Math.log(Math.max(1e-3, spread) / 0.02) +
    DOUBT.own * Math.log(own + 0.3) +
    DOUBT.whole * Math.log(whole + 0.05) +
    (DOUBT_OF[part] ?? 0)
  const confidence = 1 / (1 + Math.exp(2.864 + 1.851 * odds))
  return Number.isFinite(confidence) ? Math.max(0.05, Math.min(0.99, confidence)) : 0.05
}
