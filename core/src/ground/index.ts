/** Feet and the ground: contacts found, skate measured, feet held. */
export * from './tracks'
export * from './contacts'
export * from './hold-feet'
