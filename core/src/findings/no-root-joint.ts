import { rootRecord } from '../rig'
import { inTakes } from './in-takes'
import type { Finding, Rule } from './finding'

/** Travel that is asked for on a root joint, where the hips hang on nothing. */
export const noRootJoint: Rule = {
  id: 'no-root-joint',
  detect: ({ performed = [] }) =>
    inTakes(
      performed,
      ({ take, travelled }): Finding | undefined =>
        travelled?.noRoot
          ? {
              rule: 'no-root-joint',
              severity: 'warning',
              value: 1,
              unit: 'takes',
              where: take.name,
              message: `The travel of ${take.name} is to be on a root joint, and nothing stands above the hips. It stays on the hips.`,
              mendable: true,
              remedy: 'A root joint is added on the ground; skin and takes stay as they are.',
              target: take.name,
            }
          : undefined,
      (_, count) =>
        `The travel of ${count} takes is to be on a root joint, and nothing stands above the hips. It stays on the hips in`,
    ),
  mend: (_, { skeleton }) => ({
    rig: [rootRecord(skeleton?.names ?? [])],
  }),
}
