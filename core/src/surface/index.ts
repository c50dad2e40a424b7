/** The surface around a skeleton as motion needs to know it: how thick limbs are, what touches the ground first, where soles are, how far a posed body is. */
export * from './limb-radii'
export * from './usual-radii'
export * from './outermost'
export * from './sole'
export * from './posed-distance'
export * from './body-surface'
export * from './grown'
