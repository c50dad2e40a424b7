import type { PieceRole } from './choice'

/** What a piece of a figure can be taken for, how such a piece moves, and words that artists name it by. */
export interface PieceKind {
  readonly id: KindId
  readonly label: string
  readonly role: PieceRole
  /** The body part it rides on; `nearest` the part of the trunk or the hand it is nearest to. */
  readonly on?: 'head' | 'nearest'
  readonly words: RegExp
}
export type KindId = 'eye' | 'teeth' | 'lash' | 'hair' | 'hat' | 'glasses' | 'bag' | 'weapon' | 'clothes' | 'body'

/** A word on its own or within a name made of several, `Eye_L`, `leftEye`, `eyeball`; never the tail of another (`Frankeye`). */
const words = (...list: string[]): RegExp => new RegExp(`(^|[^a-z])(${list.join('|')})`)

/** In the order in which they are looked for: `eyelash` is a lash, `hairband` hair, `hatbox` no matter. */
export const PIECE_KINDS: readonly PieceKind[] = [
  {
    id: 'lash',
    label: 'lashes or brows',
    role: 'rigid',
    on: 'head',
    words: words('eye ?lash', 'lash', 'eye ?brow', 'brow'),
  },
  {
    id: 'teeth',
    label: 'teeth or tongue',
    role: 'rigid',
    on: 'head',
    words: words('teeth', 'tooth', 'gums?', 'tongue', 'dentures?', 'jaws?([^a-z]|$)', 'inner ?mouth', 'mouth ?bag'),
  },
  {
    id: 'glasses',
    label: 'glasses or mask',
    role: 'rigid',
    on: 'head',
    words: words('glasses', 'eye ?glass', 'goggles', 'spectacles', 'mask', 'monocle', 'visor', 'ear ?rings?'),
  },
  {
    id: 'eye',
    label: 'eyes',
    role: 'rigid',
    on: 'head',
    words: words('eyes?([^a-z]|$)', 'eye ?balls?', 'iris', 'pupils?', 'cornea', 'sclera'),
  },
  {
    id: 'hair',
    label: 'hair',
    role: 'strips',
    on: 'head',
    words: words(
      'hairs?',
      'beard',
      'moustache',
      'mustache',
      'pony ?tail',
      'bangs',
      'fringe',
      'braids?',
      'wig',
      'whiskers',
    ),
  },
  {
    id: 'hat',
    label: 'hat',
    role: 'rigid',
    on: 'head',
    words: words(
      'hats?([^a-z]|$)',
      'caps?([^a-z]|$)',
      'helmet',
      'helm',
      'crown',
      'beret',
      'bonnet',
      'head ?(band|piece|gear|phones)',
      'antlers?',
      'horns?',
    ),
  },
  {
    id: 'bag',
    label: 'bag',
    role: 'rigid',
    on: 'nearest',
    words: words(
      'bags?([^a-z]|$)',
      'satchel',
      'back ?pack',
      'ruck ?sack',
      'pouch',
      'purse',
      'quiver',
      'holster',
      'canteen',
      'lantern',
    ),
  },
  {
    id: 'weapon',
    label: 'weapon or tool',
    role: 'rigid',
    on: 'nearest',
    words: words(
      'sword',
      'swd',
      'gun',
      'rifle',
      'pistol',
      'shield',
      'knife',
      'dagger',
      'axe',
      'spear',
      'staff',
      'hammer',
      'weapon',
      'bow([^a-z]|$)',
      'arrows?',
      'scabbard',
      'sheath',
      'wand',
      'tool',
    ),
  },
  {
    id: 'clothes',
    label: 'clothes',
    role: 'garment',
    words: words(
      'cloth',
      'clothes',
      'shirt',
      'coat',
      'jacket',
      'vest',
      'waist ?coat',
      'trousers',
      'pants',
      'jeans',
      'shorts',
      'skirt',
      'dress',
      'robe',
      'cape',
      'cloak',
      'scarf',
      'belt',
      'boots?',
      'shoes?',
      'sandals?',
      'socks?',
      'gloves?',
      'sleeves?',
      'armou?r',
      'hood',
      'apron',
      'sweater',
      'suit',
      'uniform',
      'tunic',
      'kimono',
      'collar',
      'tie([^a-z]|$)',
      'bra([^a-z]|$)',
      'stockings?',
      'leggings?',
      'bandage',
    ),
  },
  {
    id: 'body',
    label: 'body',
    role: 'body',
    words: words(
      'body',
      'skin([^a-z]|$)',
      'head([^a-z]|$)',
      'torso',
      'hands?([^a-z]|$)',
      'arms?([^a-z]|$)',
      'legs?([^a-z]|$)',
      'feet',
      'foot',
      'face',
      'flesh',
      'fur',
    ),
  },
]

/** What a name tells, read as words: `LeftEye_geo` and `eye.L` both say eye. */
export function kindByName(name: string): PieceKind | undefined {
  const plain = name
    .replace(/([a-z0-9])([A-Z])/g, '$1 $2')
    .toLowerCase()
    .replace(/[_\-.:|/]+/g, ' ')
  return PIECE_KINDS.find(k => k.words.test(plain))
}
