import { bareName } from '../body'
import { type Vec3 } from '../math'
import { boundsOf } from '../mesh'
import { BIPED_LANDMARKS, FOURLEG_LANDMARKS, type Landmark } from './landmark'

/** Places as shares of height: across, up, ahead. Arms stand out 30 degrees; the midline ones have no across. */
const BIPED: Readonly<Record<string, readonly [number, number, number]>> = {
  crown: [0, 1, 0],
  chin: [0, 0.87, 0.05],
  skullBase: [0, 0.885, -0.01],
  neckBase: [0, 0.83, -0.015],
  chest: [0, 0.7, 0],
  hips: [0, 0.545, 0],
  Shoulder: [0.1, 0.81, -0.01],
  Elbow: [0.24, 0.72, -0.015],
  Wrist: [0.37, 0.64, 0],
  HandTip: [0.46, 0.585, 0.01],
  Hip: [0.052, 0.515, 0],
  Knee: [0.06, 0.28, 0.005],
  Ankle: [0.066, 0.045, -0.02],
  Toes: [0.07, 0.015, 0.05],
  ToeTip: [0.072, 0.01, 0.1],
}
/** Across and up as shares of height, ahead as a share of half the length. */
const FOURLEG: Readonly<Record<string, readonly [number, number, number]>> = {
  nose: [0, 0.76, 1],
  crown: [0, 0.9, 0.68],
  skullBase: [0, 0.83, 0.6],
  neckBase: [0, 0.64, 0.4],
  chest: [0, 0.58, 0.18],
  loin: [0, 0.6, -0.15],
  hips: [0, 0.59, -0.48],
  tailBase: [0, 0.6, -0.6],
  tailMiddle: [0, 0.63, -0.82],
  tailTip: [0, 0.7, -1],
  FrontShoulder: [0.065, 0.62, 0.24],
  FrontHip: [0.085, 0.49, 0.35],
  FrontElbow: [0.095, 0.38, 0.21],
  FrontWrist: [0.095, 0.17, 0.22],
  FrontToes: [0.095, 0.055, 0.25],
  FrontTip: [0.095, 0.015, 0.34],
  HindHip: [0.072, 0.52, -0.45],
  HindKnee: [0.095, 0.36, -0.33],
  HindHock: [0.092, 0.185, -0.57],
  HindToes: [0.092, 0.055, -0.52],
  HindTip: [0.092, 0.015, -0.42],
}

/** Landmarks as bodies of a plan usually have them, fitted to a body's bounds: where placing them by hand begins. */
export function landmarksByProportion(positions: Float32Array, plan: 'biped' | 'fourleg'): Landmark[] {
  const { min, max } = boundsOf(positions)
  const height = max[1] - min[1]
  const middle = plan === 'fourleg' ? (min[2] + max[2]) / 2 : 0
  const deep = plan === 'fourleg' ? (max[2] - min[2]) / 2 : height
  const kinds = plan === 'fourleg' ? FOURLEG_LANDMARKS : BIPED_LANDMARKS
  return kinds.flatMap((kind): Landmark[] => {
    const side = kind.side === 'left' ? 1 : kind.side === 'right' ? -1 : 0
    const share = (plan === 'fourleg' ? FOURLEG : BIPED)[side === 0 ? kind.id : bareName(kind.id)]
    if (!share) return []
    const position: Vec3 = [side * share[0] * height, min[1] + share[1] * height, middle + share[2] * deep]
    return [{ id: kind.id, position, confidence: 0.1 }]
  })
}
