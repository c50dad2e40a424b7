/**
 * How hands hold things, on bodies nobody tuned for: how far flesh is in a shaft, how far palm and finger ends are off it, on
 * shafts of different thickness; and what holding props through a take costs.
 * Run: npx tsx bench/props.ts [bodies] [seed]
 */
import { makeFigure, referenceSkin, trueSkeleton, variedProportions } from '@chiraxis/demo/figures'
import { MOVES, NORTH, record } from '@chiraxis/demo/takes'
import { maxOf, pointIn, rotate, sub, dot, scale, length, vec3At, type Vec3 } from '@chiraxis/core/math'
import {
  handHolds,
  propsInPose,
  propsOnFigure,
  propsThroughTake,
  propThing,
  type Carry,
  type KnownProp,
  type PropPlace,
} from '@chiraxis/core/props'
import { restingPose } from '@chiraxis/core/reach'
import { transfer } from '@chiraxis/core/retarget'
import { worldPose } from '@chiraxis/core/skeleton'
import { deform } from '@chiraxis/core/skin'
import type { Mesh } from '@chiraxis/core/mesh'

const [bodies = 12, seed = 501] = process.argv.slice(2).map(Number)

/** A shaft along y with a grip in its middle. */
function shaft(radius: number, long: number): Mesh {
  const around = 16
  const positions: number[] = []
  const indices: number[] = []
  for (const y of [-long / 2, long / 2])
    for (let i = 0; i < around; i++)
      positions.push(radius * Math.cos((2 * Math.PI * i) / around), y, radius * Math.sin((2 * Math.PI * i) / around))
  for (let i = 0; i < around; i++) {
    const [a, b] = [i, (i + 1) % around]
    indices.push(a, a + around, b, b, a + around, b + around)
  }
  return {
    positions: Float32Array.from(positions),
    indices: Uint32Array.from(indices),
    parts: [{ name: 'shaft', start: 0, count: indices.length, color: [1, 1, 1] }],
  }
}
const grip = (id: string, y: number, thick: number): PropPlace => ({
  id,
  name: id,
  at: [0, y, 0],
  turn: [0.5, 0.5, 0.5, 0.5],
  thick,
  round: true,
})

const rows = new Map<number, { deep: number[]; gap: number[]; round: number[] }>()
const slow: number[] = []
const offs: number[] = []
for (let b = 0; b < bodies; b++) {
  const figure = makeFigure(variedProportions(seed + b), { vertices: 24_000 })
  const skeleton = trueSkeleton(figure)
  const skin = referenceSkin(figure, skeleton)
  const joints = Object.fromEntries(skeleton.roles.flatMap((r, j) => (r ? [[r, j]] : [])))
  const hands = handHolds(figure.mesh, skeleton, skin, joints)
  for (const radius of [0.008, 0.015, 0.025, 0.04]) {
    const carry: Carry = { by: 'rightHand', grip: 'a' }
    const prop = {
      id: 'p',
      name: 'p',
      file: { name: 'p', hash: '', size: 0 },
      beside: [],
      carry,
      places: [grip('a', 0, radius)],
    }
    const known: KnownProp = { prop, thing: propThing(shaft(radius, 1.4), [], prop) }
    const on = propsOnFigure(skeleton, joints, [0, 0, 0, 1], hands, [known])
    const { pose, places } = propsInPose(on, skeleton, restingPose(skeleton))
    const w = worldPose(skeleton, pose.translations, pose.rotations)
    const bent = deform(figure.mesh.positions, skeleton, skin, w)
    const way = rotate(places[0].turn, [0, 1, 0])
    const middle = pointIn(places[0], [0, 0, 0])
    const offAxis = (p: Vec3): number => {
      const d = sub(p, middle)
      return length(sub(d, scale(way, dot(d, way))))
    }
    const mine = new Set(
      skeleton.names.flatMap((_, j) =>
        /^right(Hand|Thumb|Index|Middle|Ring|Little)/.test(skeleton.roles[j] ?? '') ? [j] : [],
      ),
    )
    const row = rows.get(radius) ?? { deep: [], gap: [], round: [] }
    rows.set(radius, row)
    let deep = 0,
      gap = Infinity
    for (let v = 0; v < bent.length / 3; v++) {
      if (!mine.has(skin.joints[skin.influences * v])) continue
      const p = vec3At(bent, v)
      const off = offAxis(p) - radius
      deep = Math.max(deep, -off)
      gap = Math.min(gap, Math.abs(off))
    }
    row.deep.push(1000 * deep)
    row.gap.push(1000 * gap)
    // how far around the shaft each finger goes: from its first joint to its end, degrees seen along the shaft
    for (const f of ['Index', 'Middle', 'Ring', 'Little']) {
      const [first, last] = [joints[`right${f}Proximal`], joints[`right${f}Distal`] ?? joints[`right${f}Intermediate`]]
      if (first === undefined || last === undefined) continue
      const flat = (j: number): Vec3 => {
        const d = sub(vec3At(w.positions, j), middle)
        return sub(d, scale(way, dot(d, way)))
      }
      const [x, y] = [flat(first), flat(last)]
      row.round.push((Math.acos(dot(x, y) / (length(x) * length(y) || 1)) * 180) / Math.PI)
    }
  }
  const { skeleton: performer, take } = record(
    MOVES.find(m => m.name === 'pole push')!,
    NORTH,
  )
  const moved = await transfer(performer, take, skeleton)
  const carry: Carry = { by: 'rightHand', grip: 'low', second: { by: 'leftHand', grip: 'high' }, aim: 'between' }
  const prop = {
    id: 'p',
    name: 'p',
    file: { name: 'p', hash: '', size: 0 },
    beside: [],
    carry,
    places: [grip('low', 0, 0.02), grip('high', 0.22 * figure.height, 0.02)],
  }
  const on = propsOnFigure(skeleton, joints, [0, 0, 0, 1], hands, [
    { prop, thing: propThing(shaft(0.02, 2.4), [], prop) },
  ])
  const start = performance.now()
  const { courses } = propsThroughTake(on, { skeleton, take: moved.take })
  slow.push((performance.now() - start) / moved.take.frames)
  offs.push(100 * maxOf(courses[0].off))
}
const mean = (l: number[]): string => (l.reduce((a, x) => a + x, 0) / Math.max(1, l.length)).toFixed(1)
const worst = (l: number[]): string => maxOf(l, 0).toFixed(1)
console.log(`${bodies} bodies from seed ${seed}`)
for (const [radius, { deep, gap, round }] of rows)
  console.log(
    `shaft of ${(2000 * radius).toFixed(0)} mm: flesh in it mean ${mean(deep)} worst ${worst(deep)} mm, nearest flesh off its surface mean ${mean(gap)} worst ${worst(gap)} mm, fingers around it mean ${mean(round)}°`,
  )
console.log(
  `two hands through a take: ${mean(slow)} ms a frame at worst ${worst(slow)}; hands off at the most mean ${mean(offs)} worst ${worst(offs)} cm`,
)
