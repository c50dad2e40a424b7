/** Correctives: what the surface is to look like while joints are turned, and how strongly it shows in other poses. */
export * from './corrective'
export * from './drive'
export * from './sculpt'
export * from './shapes'
