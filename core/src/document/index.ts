/** A glTF kept whole: read, changed where something was asked for, and written with all the rest as it came. */
export * from './gltf'
export * from './figure'
export { floatValues, rawValues } from './accessors'
export { packGlb } from './container'
export { writeFigure } from './write-figure'
export { freshDocument } from './fresh'
export { sourceAsRead } from './as-read'
export { compareDocuments } from './compare'
