/** What receivers want: profiles, names of files, files written and proven by them, archives with a manifest. */
export * from './profile'
export * from './names'
export * from './delivery'
export * from './bundle'
export * from './archive'
export * from './manifest'
