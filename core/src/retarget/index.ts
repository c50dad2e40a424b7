/** Takes carried from one skeleton to another: role map, rest match, travel, and how well it went. */
export * from './transfer'
export { prepareTransfer, readRoles, type PrepareOptions, type TransferPlan } from './prepare'
export * from './body-frame'
export { matchRests, restStance, type RestStance } from './rest-match'
export * from './measure'
export * from './performer-note'
export { restShowsBody, standingRest, restAt } from './rest-of-take'
