import { describe, expect, it } from 'vitest'
import { detectLandmarks } from '@chiraxis/core/landmarks'
import { distance, fromAxisAngle, multiply, quatAt, setQuat, vec3At } from '@chiraxis/core/math'
import { buildBiped, worldPose, jointByRole, type Skeleton } from '@chiraxis/core/skeleton'
import { bind, deform } from '@chiraxis/core/skin'
import { FRESH_SEEDS, freshBody, odaBody, pimBody } from './bodies'

/** The skeleton with one joint turned by degrees about its own axis. */
function turned(skeleton: Skeleton, role: string, axis: 'x' | 'z', degrees: number): Float32Array {
  const rotations = skeleton.restRotations.slice()
  const j = jointByRole(skeleton, role)
  setQuat(
    rotations,
    j,
    multiply(
      quatAt(skeleton.restRotations, j),
      fromAxisAngle(axis === 'x' ? [1, 0, 0] : [0, 0, 1], (degrees * Math.PI) / 180),
    ),
  )
  return rotations
}

const TORSO = /^(hips|spine|chest)$/
const legOf = (side: string): RegExp => new RegExp(`^${side}(UpperLeg|LowerLeg|Foot|Toes)$`)

describe('skin', () => {
  it('moves no torso with an arm it does not touch and no leg with the other, arms and legs through 60 degrees', async () => {
    let worst = 0
    let where = ''
    for (const figure of [odaBody(), pimBody(), ...FRESH_SEEDS.slice(0, 4).map(freshBody)]) {
      const { mesh, labels, joints, height } = figure
      const skeleton = buildBiped(await detectLandmarks(mesh))
      const skin = await bind(mesh, skeleton)
      const vertices = labels.length
      for (const [side, other] of [
        ['left', 'right'],
        ['right', 'left'],
      ]) {
        for (const [role, axis] of [
          [`${side}UpperArm`, 'x'],
          [`${side}UpperArm`, 'z'],
          [`${side}UpperLeg`, 'x'],
          [`${side}UpperLeg`, 'z'],
        ] as const) {
          for (const degrees of [-60, 60]) {
            const posed = deform(
              mesh.positions,
              skeleton,
              skin,
              worldPose(skeleton, skeleton.restTranslations, turned(skeleton, role, axis, degrees)),
            )
            for (let v = 0; v < vertices; v++) {
              const isArm = role.endsWith('Arm')
              const isFar = isArm
                ? // the arm touches the torso around the shoulder only
                  TORSO.test(labels[v]) &&
                  distance(vec3At(mesh.positions, v), joints[`${side}UpperArm`]) > 0.16 * height
                : // a vertex of the other leg proper: at the fork itself both sides are one
                  legOf(other).test(labels[v]) && Math.abs(mesh.positions[3 * v]) > 0.004 * height
              if (!isFar) continue
              const moved = distance(vec3At(mesh.positions, v), vec3At(posed, v)) / height
              if (moved > worst) {
                worst = moved
                where = `${role} moves a vertex of ${labels[v]}`
              }
            }
          }
        }
      }
    }
    expect(worst, where).toBeLessThan(0.002)
    console.log(`skin bleeding: worst ${(100 * worst).toFixed(3)} % of height`)
  }, 400_000)
})
