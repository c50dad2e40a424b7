/** Feet and the ground: contacts found, skate measured, feet held. */
export * from './contacts'
export * from './lock-feet'
