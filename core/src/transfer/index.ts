/** Takes carried from one skeleton to another: role map, rest match, travel, and how well it went. */
export * from './transfer'
export { prepareTransfer, type PrepareOptions, type TransferPlan } from './prepare'
export * from './perform'
export * from './body-frame'
export * from './rest-match'
export * from './measure'
