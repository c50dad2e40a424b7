export * from './capital'
export * from './counted'
