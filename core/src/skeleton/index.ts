/** Skeletons: joints and their order, roles, plans, forward kinematics. */
export * from './skeleton'
export * from './roles'
export * from './plan-biped'
export * from './bones'
export * from './recognise'
