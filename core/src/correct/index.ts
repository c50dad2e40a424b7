/** What is corrected after a take was carried over, one file each: joint limits, hands, arm clearance, the ground, feet. */
export * from './joint-limits'
export * from './shoulder-rhythm'
export { findHandContacts, type HandContacts, type HandHolds } from './hand-contacts'
export * from './keep-hands'
export { keepArmsClear, armClearance, armRoom, type ArmClearance } from './arm-clearance'
export { lowestPlace, NEAR_GROUND, type Grounded } from './rest-on-ground'
export * from './keep-to-ground'
export * from './hold-feet'
