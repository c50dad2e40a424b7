/** What a person changes about a take before and after it is carried over. */
export interface AdjustSettings {
  /** Seconds of the recording that are kept; undefined keeps all. */
  readonly trim?: readonly [number, number]
  /** Left and right exchanged. */
  readonly mirror: boolean
  /** How many times faster. */
  readonly pace: number
  /** Length of steps and travel as a multiple of the performer's. */
  readonly stepLength: number
  /** How far trunk, head and arms go from their mean pose, as a multiple of the performer's. */
  readonly vigour: number
  /** Seconds over which the end is led into the beginning; 0 leaves both as they are. */
  readonly loopBlend: number
  /** Without travel over the ground. */
  readonly onTheSpot: boolean
  /** Frames a second of the result; undefined keeps the recording's. */
  readonly fps?: number
}

export const ADJUST_DEFAULTS: AdjustSettings = { mirror: false, pace: 1, stepLength: 1, vigour: 1, loopBlend: 0, onTheSpot: false }

/** Rates offered; any from 1 to 240 can be asked for. */
export const FRAME_RATES = [24, 25, 30, 48, 50, 60] as const
export const ADJUST_LIMITS = { pace: [0.1, 10], stepLength: [0.3, 2], vigour: [0, 3], loopBlend: [0, 5], fps: [1, 240], frames: 500_000 } as const
