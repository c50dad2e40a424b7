/** What a body is put together from: what each piece is taken for, what was chosen, and how strips follow what they hang on. */
export * from './choice'
export * from './guess'
export * from './kinds'
export * from './strips'
