/** Skin: automatic weights, and what they do to the body in a pose. */
export * from './skin'
export * from './bind'
export * from './deform'
