import { counted } from '../words'
import { vec3At } from '../math'
import { jointRef } from '../skeleton'
import type { Rule } from './finding'

/** A limb moves flesh that lies beside it across a gap. */
export const influenceAcrossGap: Rule = {
  id: 'influence-across-gap',
  detect: ({ bleeding, skeleton, mesh }) => {
    if (!bleeding || !skeleton || !mesh || bleeding.vertices.length === 0) return []
    const name = skeleton.names[bleeding.joint] ?? ''
    return [
      {
        rule: 'influence-across-gap',
        severity: 'error',
        value: bleeding.vertices.length,
        unit: 'vertices',
        where: name,
        message: `${name} moves ${counted(bleeding.vertices.length, 'vertex', 'vertices')} of another part of the body across a gap.`,
        mendable: true,
        remedy: 'Takes that influence away; the other joints of those vertices share it.',
        target: jointRef(skeleton, bleeding.joint),
        place: vec3At(mesh.positions, bleeding.worst),
      },
    ]
  },
  mend: () => ({ rig: [{ kind: 'weights', fix: 'unbleed' }] }),
}
