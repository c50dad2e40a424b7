/** Words for each part of a body as they are met in joint names, most telling first. */
const PARTS: readonly (readonly [string, readonly string[]])[] = [
  ['UpperArm', ['upperarm', 'uparm', 'armupper', 'humerus', 'bicep', 'biceps']],
  ['LowerArm', ['lowerarm', 'forearm', 'lowarm', 'armlower', 'elbow', 'radius']],
  ['UpperLeg', ['upperleg', 'upleg', 'legupper', 'thigh', 'femur']],
  ['LowerLeg', ['lowerleg', 'lowleg', 'leglower', 'shin', 'shank', 'calf', 'tibia', 'knee']],
  ['Shoulder', ['clavicle', 'collar', 'collarbone', 'clav', 'scapula']],
  ['Toes', ['toebase', 'toes', 'toe', 'ball', 'forefoot']],
  ['Foot', ['foot', 'ankle']],
  ['Hand', ['hand', 'wrist', 'palm']],
  ['hips', ['hips', 'pelvis', 'hip']],
  ['upperChest', ['upperchest', 'chestupper', 'thorax', 'upback', 'upperback']],
  ['chest', ['chest', 'ribcage', 'midback']],
  ['spine', ['spine', 'torso', 'abdomen', 'waist', 'lowback', 'lowerback', 'lumbar', 'belly', 'back']],
  ['neck', ['neck', 'neckbase', 'lowerneck', 'cervical']],
  ['head', ['head', 'skull']],
  ['Shoulder', ['shoulder', 'shldr']],
  ['UpperArm', ['arm']],
  ['LowerLeg', ['leg']],
]

const KNOWN = new Set(PARTS.flatMap(([, words]) => words))

/** Joints that carry flesh or props but stand for no part of their own. */
const EXTRA =
  /twist|roll|helper|prop|weapon|attach|socket|corrective|end$|nub|site|ik$|pole|target|thumb|index|middle|ring|pinky|little|finger|eye|jaw|hair|tongue|lip|brow|lid/

export interface NameReading {
  readonly part?: string
  readonly side?: 'left' | 'right'
  readonly extra: boolean
  readonly number: number
  /** The name says it only in part: a hip of one side may be a thigh or the half of a pelvis. */
  readonly vague?: boolean
  /** The name says the part in a word that means nothing else. */
  readonly exact?: boolean
}

/** The longest beginning up to a separator that most names share, as `north:`. `share` is how many must. */
export function commonPrefix(names: readonly string[], share = 0.5): string {
  const counts = new Map<string, number>()
  for (const name of names) {
    const match = /^(.+?[:|])/.exec(name) ?? /^([A-Za-z0-9]{2,}?[_-])/.exec(name)
    if (match) counts.set(match[1], (counts.get(match[1]) ?? 0) + 1)
  }
  let best = ''
  for (const [prefix, n] of counts) if (n > names.length * share && n > (counts.get(best) ?? 0)) best = prefix
  return /^(left|right|l|r)[_-]$/i.test(best) ? '' : best
}

/** A name with its humps and numbers set apart, in small letters. */
export const spaced = (name: string): string =>
  name
    .replace(/([a-z0-9])([A-Z])/g, '$1 $2')
    .replace(/([A-Z]+)([A-Z][a-z])/g, '$1 $2')
    .replace(/(\d+)/g, ' $1 ')
    .toLowerCase()

/** The words of a name of any script, in small letters. */
export const wordsOf = (name: string): string[] =>
  spaced(name)
    .split(/[^\p{L}\p{N}]+/u)
    .filter(w => w.length > 0)

/** Reads part, side and number out of one joint name. */
export function readName(name: string, prefix: string): NameReading {
  const bare = (name.startsWith(prefix) ? name.slice(prefix.length) : name).replace(/^.*[:|]/, '')
  const words = spaced(bare)
    .split(/[^a-z0-9]+/)
    .filter(w => w.length > 0)
  let side: 'left' | 'right' | undefined
  let number = 0
  const rest: string[] = []
  for (const word of words) {
    if (/^(l|lf|lft|left|li|links|gauche|sx)$/.test(word)) side ??= 'left'
    else if (/^(r|rt|rgt|right|re|rechts|droite|dx)$/.test(word)) side ??= 'right'
    else if (/^\d+$/.test(word)) number = Number(word)
    else if (/^left./.test(word)) {
      side ??= 'left'
      rest.push(word.slice(4))
    } else if (/^right./.test(word)) {
      side ??= 'right'
      rest.push(word.slice(5))
    } else if (/^[lr]./.test(word) && KNOWN.has(word.slice(1)) && !KNOWN.has(word)) {
      // a side letter written without a break
      side ??= word[0] === 'l' ? 'left' : 'right'
      rest.push(word.slice(1))
    } else rest.push(word)
  }
  const joined = rest.join('')
  if (EXTRA.test(joined) && !/^(neck|head)/.test(joined)) return { side, number, extra: true }
  const exact = PARTS.find(([, list]) => list.includes(joined))
  const part =
    exact?.[0] ??
    PARTS.find(([, list]) => list.some(w => rest.includes(w)))?.[0] ??
    PARTS.find(([, list]) => list.some(w => w.length > 4 && joined.includes(w)))?.[0]
  return part === 'hips' && side
    ? { part: 'UpperLeg', side, number, extra: false, vague: true }
    : { part, side, number, extra: false, exact: isExact(part, [joined, ...rest]) }
}

/** Words that stand for one part with some people and for another one with others. */
const LOOSE = new Set(['arm', 'leg', 'shoulder', 'shldr', 'hip', 'palm', 'back', 'ball', 'radius'])
const isExact = (part: string | undefined, words: readonly string[]): boolean =>
  part !== undefined && PARTS.some(([p, list]) => p === part && list.some(w => !LOOSE.has(w) && words.includes(w)))
