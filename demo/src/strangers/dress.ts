import { add, addScaled, lerp, normalize, rotate, scale, sub, type Vec3 } from '@chiraxis/core/math'
import type { Mesh } from '@chiraxis/core/mesh'
import type { Build } from './build'
import { lump, type Grain } from './flesh'
import type { Posed } from './joints'
import { loft, sheet, tube, type Ring } from './loft'

export const DRESS_KINDS = [
  'bare',
  'trousers',
  'robe',
  'skirt',
  'coat',
  'cape',
  'hood',
  'horned helmet',
  'armour',
  'long hair',
  'staff',
  'sword and shield',
  'one-sided',
  'hat',
] as const
export type DressKind = (typeof DRESS_KINDS)[number]

/** What a figure wears and holds: pieces of their own over the flesh. */
export function dressOf(kind: DressKind, b: Build, p: Posed, grain: Grain, random: () => number): Mesh[] {
  const H = b.height
  const j = p.joints
  const within = (a: number, c: number): number => a + (c - a) * random()
  const hips = lerp(j.leftUpperLeg, j.rightUpperLeg, 0.5)
  const sides = ['left', 'right'] as const
  const round = { sides: Math.max(10, grain.sides) }
  const girth = Math.sqrt(b.girth)
  const head = b.head * H
  const onHead = (x: number, y: number, z: number): Vec3 =>
    add(j.head, rotate(p.head, [x * head, (y - 0.28) * head, z * head]))

  /** A skirt of cloth from the waist down: with thickness, or a bare sheet. */
  const bell = (name: string, from: Vec3, low: number, top: number, wide: number, thin: boolean): Mesh[] => {
    const middle: Vec3 = [(j.leftFoot[0] + j.rightFoot[0]) / 2, low, (j.leftFoot[2] + j.rightFoot[2]) / 2 + 0.02 * H]
    const ring = (t: number, out: number): Ring => {
      const r = (top + (wide - top) * t ** 0.8 + out) * H
      return { at: lerp(from, middle, t), wide: r, ahead: 0.82 * r, behind: 0.86 * r }
    }
    const rows = Array.from({ length: 9 }, (_, i) => i / 8)
    if (thin)
      return [
        loft(
          name,
          rows.map(t => ring(t, 0)),
          { ...round, open: true },
        ),
      ]
    // down the outside, up the inside
    return [loft(name, [...rows.map(t => ring(t, 0)), ...[...rows].reverse().map(t => ring(t, -0.008))], round)]
  }
  const legs = Math.max(
    Math.abs(j.leftFoot[0] - j.rightFoot[0]) / 2 / H + 0.05 * b.legGirth,
    Math.abs(j.leftLowerLeg[0] - j.rightLowerLeg[0]) / 2 / H + 0.05 * b.legGirth,
    0.1 * girth,
  )
  const waist = lerp(j.spine, j.chest, 0.3)
  const topR = 0.09 * girth * (1 + 0.35 * b.belly) * Math.max(1, b.hipSpread / 0.05)
  switch (kind) {
    case 'bare':
      return []
    case 'trousers': {
      const pieces = sides.flatMap(side => {
        const [h, k, a] = ['UpperLeg', 'LowerLeg', 'Foot'].map(n => j[side + n])
        const r = 0.058 * b.legGirth * H
        return [
          tube(
            `${side} trouser`,
            [lerp(h, k, 0.02), lerp(h, k, 0.3), k, lerp(k, a, 0.5), lerp(k, a, 0.92)],
            [r, r * within(0.95, 1.05), r * 0.8, r * 0.75, r * within(0.55, 0.9)],
            round,
          ),
          tube(
            `${side} sole`,
            [
              add(a, [0, -b.ankle * 0.8 * H, -0.25 * b.foot * H]),
              add(j[`${side}ToesEnd`], [0, -0.1 * b.ankle * H, 0.01 * H]),
            ],
            [0.028 * H, 0.03 * H],
            { sides: 8, square: 3, front: [0, 1, 0] },
          ),
        ]
      })
      // the seat of loose trousers hangs below the fork
      pieces.push(
        lump(
          'seat',
          addScaled(p.fork, [0, 1, 0], within(0, 0.03) * H),
          [0.09 * girth * H, 0.05 * H, 0.07 * b.girth * H],
          grain,
        ),
      )
      return pieces
    }
    case 'robe':
      return bell(
        'robe',
        waist,
        within(0.005, 0.06) * H,
        topR,
        Math.max(legs + 0.02, within(0.13, 0.2)),
        random() < 0.4,
      ).concat(
        sides.flatMap(side => {
          const [s, e, w] = ['UpperArm', 'LowerArm', 'Hand'].map(n => j[side + n])
          return [
            tube(
              `${side} sleeve`,
              [lerp(s, e, 0.1), e, lerp(e, w, 0.85)],
              [0.045 * b.armGirth * H, 0.042 * b.armGirth * H, within(0.04, 0.07) * H],
              round,
            ),
          ]
        }),
      )
    case 'skirt':
      return bell(
        'skirt',
        waist,
        lerp(j.leftLowerLeg, hips, within(0, 0.5))[1],
        topR,
        Math.max(0.9 * legs, within(0.11, 0.19)),
        random() < 0.5,
      )
    case 'coat':
      return bell(
        'coat',
        lerp(j.chest, j.upperChest, 0.5),
        within(0.12, 0.3) * H,
        topR + 0.012,
        Math.max(legs + 0.01, within(0.12, 0.17)),
        random() < 0.3,
      )
    case 'cape': {
      const across = sub(j.leftUpperArm, j.rightUpperArm)
      const back = add(j.upperChest, rotate(p.chest, [0, 0.05 * H, -0.08 * b.girth * H]))
      const low = within(0.03, 0.3) * H
      const line = (at: Vec3, k: number): Vec3[] =>
        Array.from({ length: 9 }, (_, i) => {
          const t = i / 4 - 1
          return add(at, add(scale(across, 0.5 * k * t), [0, 0, -0.03 * H * (1 - t * t)]))
        })
      return [sheet('cape', line(back, 1), line([back[0], low, back[2] - 0.06 * H], within(1.1, 1.9)), 10)]
    }
    case 'hood':
      return [
        lump('hood', onHead(0, 0.6, -0.06), [0.46 * head, 0.56 * head, 0.54 * head], grain),
        lump('collar', lerp(j.neck, j.head, 0.3), [0.075 * girth * H, 0.035 * H, 0.07 * girth * H], grain),
      ]
    case 'horned helmet':
      return [
        lump('helmet', onHead(0, 0.68, -0.02), [0.43 * head, 0.42 * head, 0.5 * head], grain),
        ...sides.map((side, i) => {
          const m = i === 0 ? 1 : -1
          const up = within(0.9, 1.5)
          return tube(
            `${side} horn`,
            [
              onHead(m * 0.36, 0.8, 0),
              onHead(m * 0.7, 0.9, 0.05),
              onHead(m * 0.85, up, 0.1),
              onHead(m * 0.8, up + 0.35, 0.1),
            ],
            [0.12 * head, 0.1 * head, 0.06 * head, 0.01 * head],
            { sides: 8, front: [0, 0, 1] },
          )
        }),
      ]
    case 'armour':
      return [
        lump(
          'breastplate',
          add(lerp(j.chest, j.upperChest, 0.6), [0, 0, 0.004 * H]),
          [0.118 * girth * (b.shoulderSpread / 0.1) * H, 0.1 * H, 0.088 * b.girth * H],
          grain,
        ),
        ...sides.flatMap((side, i) => {
          const m = i === 0 ? 1 : -1
          const s = j[`${side}UpperArm`]
          const [k, a] = [j[`${side}LowerLeg`], j[`${side}Foot`]]
          return [
            lump(
              `${side} pauldron`,
              add(s, [m * 0.012 * H, 0.02 * H, 0]),
              [0.06 * Math.sqrt(b.armGirth) * within(1, 1.6) * H, 0.05 * H, 0.062 * H],
              grain,
            ),
            tube(
              `${side} greave`,
              [lerp(k, a, 0.05), lerp(k, a, 0.4), lerp(k, a, 0.9)],
              [0.042, 0.045, 0.033].map(r => r * b.legGirth * H),
              round,
            ),
            tube(
              `${side} bracer`,
              [lerp(j[`${side}LowerArm`], j[`${side}Hand`], 0.2), lerp(j[`${side}LowerArm`], j[`${side}Hand`], 0.95)],
              [0.034 * b.armGirth * H, 0.027 * b.armGirth * H],
              round,
            ),
          ]
        }),
        ...bell('tassets', lerp(j.hips, j.spine, 0.6), hips[1] - 0.09 * H, topR, 0.125 * girth, false),
      ]
    case 'long hair': {
      const long = within(0.1, 0.38) * H
      const back = onHead(0, 0.5, -0.32)
      return [
        lump('hair cap', onHead(0, 0.64, -0.06), [0.41 * head, 0.44 * head, 0.5 * head], grain),
        loft(
          'hair',
          [
            { at: back, wide: 0.3 * head, ahead: 0.12 * head, behind: 0.12 * head },
            { at: add(back, [0, -0.4 * long, -0.02 * H]), wide: 0.34 * head, ahead: 0.1 * head, behind: 0.12 * head },
            { at: add(back, [0, -long, -0.035 * H]), wide: 0.2 * head, ahead: 0.05 * head, behind: 0.05 * head },
          ],
          { ...round, front: [0, 0, 1] },
        ),
      ]
    }
    case 'staff': {
      const side = random() < 0.5 ? 'left' : 'right'
      const at = lerp(j[`${side}Hand`], j[`${side}HandEnd`], 0.45)
      const up = normalize([within(-0.1, 0.1), 1, within(-0.1, 0.1)])
      return [
        tube('staff', [addScaled(at, up, -0.42 * H), addScaled(at, up, 0.5 * H)], [0.011 * H, 0.011 * H], {
          sides: 8,
          front: [0, 0, 1],
        }),
      ]
    }
    case 'sword and shield': {
      const side = random() < 0.5 ? 'left' : 'right'
      const other = side === 'left' ? 'right' : 'left'
      const grip = lerp(j[`${side}Hand`], j[`${side}HandEnd`], 0.45)
      const way = normalize([within(-0.4, 0.4), within(-0.3, 0.6), 1])
      const mid = lerp(j[`${other}LowerArm`], j[`${other}Hand`], 0.6)
      const m = other === 'left' ? 1 : -1
      const face: Vec3 = normalize([m * 0.8, 0, 0.6])
      const centre = addScaled(mid, face, 0.04 * H)
      return [
        loft(
          'blade',
          [
            { at: addScaled(grip, way, -0.06 * H), wide: 0.008 * H, ahead: 0.008 * H, behind: 0.008 * H },
            { at: addScaled(grip, way, 0.06 * H), wide: 0.018 * H, ahead: 0.005 * H, behind: 0.005 * H },
            { at: addScaled(grip, way, 0.45 * H), wide: 0.012 * H, ahead: 0.003 * H, behind: 0.003 * H },
          ],
          { sides: 8, front: [0, 1, 0] },
        ),
        loft(
          'shield',
          [
            { at: addScaled(centre, face, -0.008 * H), wide: 0.13 * H, ahead: 0.13 * H, behind: 0.13 * H },
            { at: addScaled(centre, face, 0.012 * H), wide: 0.12 * H, ahead: 0.12 * H, behind: 0.12 * H },
          ],
          { sides: 20, front: [0, 1, 0] },
        ),
      ]
    }
    case 'one-sided': {
      const side = random() < 0.5 ? 'left' : 'right'
      const m = side === 'left' ? 1 : -1
      return [
        lump(
          'pauldron',
          add(j[`${side}UpperArm`], [m * 0.02 * H, 0.025 * H, 0]),
          [0.085 * H, 0.07 * H, 0.085 * H],
          grain,
        ),
        lump(
          'satchel',
          add(hips, [-m * 0.105 * girth * (b.hipSpread / 0.05) * H, -0.01 * H, 0]),
          [0.035 * H, 0.06 * H, 0.06 * H],
          grain,
        ),
        lump(
          'pack',
          add(j.upperChest, rotate(p.chest, [m * 0.02 * H, -0.03 * H, -0.095 * b.girth * H])),
          [0.08 * H, 0.11 * H, 0.06 * H],
          grain,
        ),
      ]
    }
    case 'hat': {
      const brim = onHead(0, 0.84, 0)
      return [
        loft(
          'hat',
          [
            {
              at: addScaled(brim, [0, 1, 0], -0.04 * head),
              wide: 0.75 * head,
              ahead: 0.75 * head,
              behind: 0.75 * head,
            },
            { at: addScaled(brim, [0, 1, 0], 0.03 * head), wide: 0.74 * head, ahead: 0.74 * head, behind: 0.74 * head },
            { at: addScaled(brim, [0, 1, 0], 0.08 * head), wide: 0.4 * head, ahead: 0.42 * head, behind: 0.46 * head },
            {
              at: addScaled(brim, [0, 1, 0], within(0.3, 1.1) * head),
              wide: within(0.05, 0.33) * head,
              ahead: 0.2 * head,
              behind: 0.2 * head,
            },
          ],
          { ...round, front: [0, 0, 1] },
        ),
      ]
    }
  }
}
