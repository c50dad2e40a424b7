/** A phrase of our own with its first letter large, as a sentence or a heading begins. Names of files and joints stay as they are. */
export const capital = (phrase: string): string => phrase.slice(0, 1).toUpperCase() + phrase.slice(1)
