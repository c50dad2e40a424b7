/** Bodies generated from stated parameters, with their true joints and segment labels beside them. */
export * from './proportions'
export { bodyPlan, ODA_COLORS, PIM_COLORS, type Palette } from './body'
export { makeFigure, type MadeFigure, type MakeOptions } from './figure'
export { disturb, variedDisturbance, type Disturbance } from './disturb'
