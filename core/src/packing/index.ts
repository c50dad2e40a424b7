/** A written glTF made smaller: its images, its numbers, its data. What is lost is told and bounded. */
export * from './settings'
export { staysLarge, texturesGone, withImages } from './textures'
export { quantized, QUANTIZATION } from './quantize'
export { meshoptPacked, MESHOPT } from './meshopt'
export { packed, type Packed } from './packed'
