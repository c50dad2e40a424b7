import { roleLabel } from '@chiraxis/core/body'

/** What told a skeleton's parts, in words. */
export const READ_BY = { roles: 'by roles the file tells', names: 'by names', structure: 'by its build' } as const
/** What a doubt about a reading is about, in words. */
export const doubtLabel = (about: string): string =>
  about === 'kind' ? 'Two legs or four' : about === 'sides' ? 'Left and right' : roleLabel(about)
/** On how many legs a skeleton is told to stand. */
export const LEG_OPTIONS = [
  { value: 'read', label: 'As read' },
  { value: 'biped', label: 'Two legs' },
  { value: 'fourleg', label: 'Four legs' },
] as const
