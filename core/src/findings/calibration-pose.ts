import type { Rule } from './finding'
import { inTakes } from './in-takes'

/** A take that begins with a pose for measuring, which is no motion. */
export const calibrationPose: Rule = {
  id: 'calibration-pose',
  detect: ({ performed = [] }) =>
    inTakes(
      performed,
      ({ take, calibration }) =>
        calibration
          ? {
              rule: 'calibration-pose',
              severity: 'warning',
              value: calibration,
              unit: 'frames',
              where: take.name,
              message: `${take.name} begins with ${calibration > 1 ? `${calibration} frames` : 'a frame'} of a pose for measuring, then leaps into the motion. Leave it out under Takes.`,
              mendable: false,
              target: take.name,
            }
          : undefined,
      (_, count) => `${count} takes begin with a pose for measuring and then leap into the motion:`,
    ),
}
