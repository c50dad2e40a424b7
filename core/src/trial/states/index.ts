/** States and the rules by which one follows another: the open document, its player, its faults, and the one a figure has of itself. */
export * from './document'
export { createPlayer, TOLD_SECONDS, type Part, type Played, type Player, type Playing, type Values } from './player'
export { checkStates, type TableFault } from './check'
export { standardStates, turnOnTheSpot } from './standard'
export * from './words'
export * from './edit'
