/** The points of a body that place its joints: found from the shape, mirrored, corrected by hand. */
export * from './landmark'
export * from './detect'
export * from './rows'
export * from './limb'
export * from './edits'
export * from './centre'
