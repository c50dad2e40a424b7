/** What a body weighs, part by part; where its mass lies, and whether it stands over what carries it. */
export * from './published'
export * from './by-volume'
export * from './segments'
export * from './centre'
export * from './support'
export * from './touch'
export * from './capsules'
export * from './through-take'
