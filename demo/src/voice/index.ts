/** A voice made by rule, with what its mouth does when. */
export * from './speak'
export { boardingCall } from './line'
