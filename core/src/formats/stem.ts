/** A name as files may bear it. */
export const stemOf = (name: string): string =>
  name
    .normalize('NFC')
    .replace(/[\\/:*?"<>|\p{C}]+/gu, ' ')
    .trim()
    .replace(/[. ]+$/, '') || 'figure'
