/** Images of surfaces: looked into, and made smaller. */
export * from './decode-image'
export { plainPng } from './plain-png'
export * from './shrink-image'
