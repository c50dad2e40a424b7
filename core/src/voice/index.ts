/** Voice: a sound read, listened to, and turned into shapes of the mouth over time. */
export * from './wav'
export { resampleSound } from './resample'
export { hear, type Hearing } from './hear'
export { VOWELS, hearVowels, type Vowel } from './vowels'
export { whatIsSaid, type MouthShape, type Said } from './said'
export { MOUTH_DEFAULTS, mouthCurves, type MouthCurves, type MouthOptions } from './mouth'
export { listen, type Heard } from './listen'
export { readFaceSolution, writeMouthShapes, type FaceSolution } from './solution'
