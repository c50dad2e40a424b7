import { dot, type Vec3 } from './vec3'

export type AxisName = '+x' | '-x' | '+y' | '-y' | '+z' | '-z'

export const AXIS_VECTORS: Readonly<Record<AxisName, Vec3>> = {
  '+x': [1, 0, 0],
  '-x': [-1, 0, 0],
  '+y': [0, 1, 0],
  '-y': [0, -1, 0],
  '+z': [0, 0, 1],
  '-z': [0, 0, -1],
}
export const AXIS_NAMES = Object.keys(AXIS_VECTORS) as AxisName[]

/** The signed axis nearest to a direction. */
export const nearestAxis = (d: Vec3): AxisName =>
  AXIS_NAMES.reduce((best, name) => (dot(AXIS_VECTORS[name], d) > dot(AXIS_VECTORS[best], d) ? name : best))

export const oppositeAxis = (axis: AxisName): AxisName => (axis[0] === '+' ? `-${axis[1]}` : `+${axis[1]}`) as AxisName
