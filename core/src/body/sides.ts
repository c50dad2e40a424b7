/** Both sides of the body. */
export const SIDES = ['left', 'right'] as const
export type Side = (typeof SIDES)[number]

/** Which side a role, landmark or other name of ours belongs to. */
export const sideOf = (name: string): Side | 'middle' =>
  name.startsWith('left') ? 'left' : name.startsWith('right') ? 'right' : 'middle'

/** The same part of the other side; what lies on the midline is its own partner. */
export function partnerOf(name: string): string {
  const side = sideOf(name)
  if (side === 'middle') return name
  return side === 'left' ? `right${name.slice(4)}` : `left${name.slice(5)}`
}

/** A name of ours without its side. */
export const bareName = (name: string): string => {
  const side = sideOf(name)
  return side === 'middle' ? name : name.slice(side.length)
}
