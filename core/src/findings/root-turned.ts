import { angleOf, quatAt, vec3At } from '../math'
import { jointRef, OWN_CONVENTION, readAxes, worldPose } from '../skeleton'
import { rounded, type Rule } from './finding'

const DEGREES = 180 / Math.PI

/** The root joint is turned by a quarter or half turn against the others. */
export const rootTurned: Rule = {
  id: 'root-turned',
  detect: ({ skeleton, source }) => {
    if (!skeleton || source !== 'received') return []
    const root = skeleton.parents.indexOf(-1)
    const world = worldPose(skeleton)
    const turn = angleOf(quatAt(world.rotations, root)) * DEGREES
    // a root aimed along its bone by the skeleton's own convention is no fault
    const axes = readAxes(skeleton)
    if (turn < 20 || (axes.kind === 'along' && axes.off[root] < 0.35)) return []
    return [
      {
        rule: 'root-turned',
        severity: 'warning',
        value: rounded(turn),
        unit: 'degrees',
        where: skeleton.names[root],
        message: `The root ${skeleton.names[root]} is turned ${turn.toFixed(0)} degrees against the world, so travel on it goes up or sideways.`,
        mendable: true,
        remedy: 'Turns the root straight; its children stay where they are.',
        target: jointRef(skeleton, root),
        place: vec3At(world.positions, root),
      },
    ]
  },
  mend: (finding, { skeleton }) => {
    if (!skeleton) return undefined
    return {
      rig: [
        {
          kind: 'aim',
          convention: OWN_CONVENTION,
          joints: [finding.target ?? jointRef(skeleton, skeleton.parents.indexOf(-1))],
        },
      ],
    }
  },
}
