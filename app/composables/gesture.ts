let going = 0

/**
 * Runs a change that goes on from the one before: a nudge soon after another, a step of a drag. Changes of one name made
 * so are one step to take back, whoever makes them.
 */
export function goingOn(run: () => void): void {
  going++
  try {
    run()
  } finally {
    going--
  }
}

export const isGoingOn = (): boolean => going > 0

/** Nudges within this time of each other belong together, milliseconds. */
export const NUDGE_PAUSE = 1000
