import { freshDocument, packGlb } from '@chiraxis/core/document'
import { fromAxes, cross, type Vec3 } from '@chiraxis/core/math'
import { assembled, tube, turned, type Piece } from './turned'

/** A place a hand holds: where the thumb points and where the fingers do. */
interface Grip {
  readonly name: string
  readonly at: Vec3
  readonly thumb: Vec3
  readonly fingers: Vec3
  readonly thick: number
  readonly round?: true
  readonly hangs?: true
}
export interface MadeProp {
  readonly name: string
  readonly pieces: readonly Piece[]
  readonly grips: readonly Grip[]
}

const WOOD = [0.42, 0.27, 0.14] as const
const IRON = [0.19, 0.2, 0.21] as const
const ROPE = [0.66, 0.55, 0.36] as const
const BRASS = [0.62, 0.44, 0.16] as const
const GLASS = [0.95, 0.74, 0.32] as const

/** The ferry pole: ash, shod with iron, two bindings of cord where hands hold it; metres, upright, its lower grip at the height of the origin. */
export const FERRY_POLE: MadeProp = {
  name: 'Ferry pole',
  pieces: [
    turned('pole', WOOD, [
      [0.012, -0.98],
      [0.02, -0.9],
      [0.021, -0.2],
      [0.02, 0.5],
      [0.018, 1.2],
      [0.017, 1.58],
      [0.012, 1.6],
    ]),
    {
      ...turned('shoe', IRON, [
        [0.004, -1.1],
        [0.026, -1],
        [0.027, -0.9],
        [0.022, -0.88],
      ]),
      metallic: 0.8,
      roughness: 0.6,
    },
    turned('lower binding', ROPE, [
      [0.021, -0.09],
      [0.0235, -0.08],
      [0.0235, 0.08],
      [0.021, 0.09],
    ]),
    turned('upper binding', ROPE, [
      [0.0205, 0.29],
      [0.023, 0.3],
      [0.023, 0.46],
      [0.0205, 0.47],
    ]),
  ],
  grips: [
    { name: 'grip lower', at: [0, 0, 0], thumb: [0, 1, 0], fingers: [0, 0, 1], thick: 0.0235, round: true },
    { name: 'grip upper', at: [0, 0.38, 0], thumb: [0, 1, 0], fingers: [0, 0, 1], thick: 0.023, round: true },
  ],
}

const bail = (): Vec3[] =>
  Array.from({ length: 15 }, (_, i): Vec3 => {
    const a = (Math.PI * i) / 14
    return [0.07 * Math.cos(a), 0.215 + 0.085 * Math.sin(a), 0]
  })
const post = (turn: number): Piece => {
  const [x, z] = [0.062 * Math.cos(turn), 0.062 * Math.sin(turn)]
  return {
    ...tube(
      `post ${Math.round((turn * 180) / Math.PI)}`,
      BRASS,
      [
        [x, 0.03, z],
        [x, 0.19, z],
      ],
      0.004,
      8,
    ),
    metallic: 0.9,
    roughness: 0.4,
  }
}

/** The signal lantern: brass and glass; it hangs from its bail, its origin under its foot. */
export const SIGNAL_LANTERN: MadeProp = {
  name: 'Signal lantern',
  pieces: [
    {
      ...turned('foot', BRASS, [
        [0.066, 0],
        [0.074, 0.006],
        [0.074, 0.024],
        [0.06, 0.034],
      ]),
      metallic: 0.9,
      roughness: 0.4,
    },
    {
      ...turned('glass', GLASS, [
        [0.044, 0.034],
        [0.053, 0.07],
        [0.053, 0.15],
        [0.044, 0.186],
      ]),
      roughness: 0.15,
    },
    {
      ...turned('roof', BRASS, [
        [0.07, 0.186],
        [0.074, 0.194],
        [0.03, 0.226],
        [0.018, 0.24],
        [0.004, 0.243],
      ]),
      metallic: 0.9,
      roughness: 0.4,
    },
    ...[0.25, 0.75, 1.25, 1.75].map(t => post(t * Math.PI)),
    { ...tube('bail', IRON, bail(), 0.0045), metallic: 0.8, roughness: 0.5 },
    turned('wooden grip', WOOD, [
      [0.004, -0.035],
      [0.011, -0.03],
      [0.011, 0.03],
      [0.004, 0.035],
    ]),
  ],
  grips: [{ name: 'grip bail', at: [0, 0.3, 0], thumb: [1, 0, 0], fingers: [0, -1, 0], thick: 0.011, hangs: true }],
}
// the wooden grip lies along the bail's top
const wooden = SIGNAL_LANTERN.pieces.find(p => p.name === 'wooden grip')!
for (let i = 0; i < wooden.positions.length; i += 3) {
  const [x, y, z] = wooden.positions.slice(i, i + 3)
  wooden.positions.splice(i, 3, -y, 0.3 + x, z)
}

/** A prop as a file: its pieces, and its grips as nodes whose x points to the thumb and y to the finger tips. */
export function propFile({ name, pieces, grips }: MadeProp): Uint8Array {
  const { mesh, materials } = assembled(pieces)
  const { document, way } = freshDocument(name, mesh, materials, [])
  const { json } = document
  const scene = json.scenes![way.scene]
  for (const g of grips) {
    const at = (json.nodes ??= []).push({
      name: g.name,
      translation: [...g.at],
      rotation: fromAxes(g.thumb, g.fingers, cross(g.thumb, g.fingers)),
      extras: { thick: g.thick, ...(g.round && { round: true }), ...(g.hangs && { hangs: true }) },
    })
    ;(scene.nodes ??= []).push(at - 1)
  }
  json.asset.generator = 'Chiraxis demo'
  return packGlb(document)
}
