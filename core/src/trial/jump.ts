/** Metres a second a second. */
const GRAVITY = 9.81
/** Shares of the leg: how far it sinks before, how high it rises, how far feet are drawn up, how far it sinks on landing,
 * and how far its knees are bent as it lands. */
const SINKS = 0.16,
  RISES = 0.32,
  TUCKS = 0.2,
  LANDS = 0.12,
  BENT = 0.05
/** Seconds of gathering. */
const GATHERS = 0.24
/** The share of gathering after which it stretches again. */
const TURNS_AT = 0.62

/** Where a jump has the body at a moment. */
export interface Leap {
  /** Height over where it left the ground, and how far it is sunk, metres. */
  readonly rise: number
  readonly sunk: number
  /** How far feet are drawn up. */
  readonly tuck: number
  readonly flies: boolean
  /** Height of the ground it left. */
  readonly from: number
}

const soft = (t: number): number => t * t * (3 - 2 * t)

/** A jump for which there is no take: from the crouch, up and down as what is thrown, and into the knees. @param leg metres */
export function createJump(leg: number) {
  const lift = Math.sqrt(2 * GRAVITY * RISES * leg)
  const bears = (LANDS * leg * Math.E) / lift
  /** How far its knees are bent as it comes down. */
  const bent = leg * BENT
  let phase: 'none' | 'gathers' | 'flies' | 'lands' = 'none'
  let at = 0
  let from = 0
  let rise = 0
  return {
    begin(): void {
      phase = 'gathers'
      at = 0
    },
    isOn: (): boolean => phase !== 'none',
    height: (): number => (phase === 'flies' ? rise : 0),
    /** @param high the ground under the body, metres @param below that it would come down on */
    step(dt: number, high: number, below: number): Leap {
      at += dt
      let sunk = 0
      if (phase === 'gathers') {
        const t = Math.min(1, at / GATHERS)
        // down and, faster, up again
        sunk = leg * SINKS * (t < TURNS_AT ? Math.sin((Math.PI / 2) * (t / TURNS_AT)) ** 2 : Math.cos((Math.PI / 2) * ((t - TURNS_AT) / (1 - TURNS_AT)))) // prettier-ignore
        if (t >= 1) {
          phase = 'flies'
          at = 0
          from = high
          sunk = 0
        }
      }
      if (phase === 'flies') {
        rise = lift * at - (GRAVITY * at * at) / 2
        if (at > lift / GRAVITY && from + rise + bent <= below) {
          phase = 'lands'
          at = 0
          rise = 0
        }
      }
      if (phase === 'lands') {
        // it goes on down as fast as it came, and is borne up as by a spring that does not swing
        sunk = (bent * (1 + at / bears) + lift * at) * Math.exp(-at / bears)
        if (at > 9 * bears) phase = 'none'
      }
      const flies = phase === 'flies'
      const whole = (2 * lift) / GRAVITY
      return {
        rise: flies ? rise : 0,
        sunk,
        tuck: flies
          ? Math.max(
              leg * TUCKS * Math.sin(Math.PI * Math.min(1, at / whole)),
              bent * soft(Math.min(1, (2 * at) / whole)),
            )
          : 0,
        flies,
        from,
      }
    },
  }
}
