import { add, breather, distance, lerp, pseudoInverse, rotate, scale, sub, type Vec3, type WorkOptions } from '../math'
import type { Mesh, Morph } from '../mesh'
import { componentsAmong } from './eyeballs'
import type { Expression } from './expressions'
import { headCorners, type FoundFace } from './find'
import type { FaceLandmarkId } from './landmark'
import { ease, shutEye } from './lids'
import { faceSkin, nearestPlace, placeAhead, placeAt, smoothed, waysFrom, type FaceSkin } from './surface'

/** What the parts of a face do for an expression, in heights of the head; x outwards, y up, z ahead. */
interface Doing {
  /** How far the jaw opens, degrees. */
  readonly jaw?: number
  readonly corners?: Vec3
  readonly upperLip?: Vec3
  readonly lowerLip?: Vec3
  readonly browInner?: Vec3
  readonly browOuter?: Vec3
  readonly cheek?: Vec3
  /** How far lids shut, 0..1; less than 0 is wider open. */
  readonly lids?: number
}

/** Expressions as what muscles do: lips pulled, pushed and rounded, brows raised and drawn together. */
const DOINGS: Readonly<Partial<Record<Expression, Doing>>> = {
  aa: { jaw: 15, corners: [-0.006, 0, 0], upperLip: [0, 0.006, 0] },
  ih: { jaw: 3.5, corners: [0.026, 0.004, -0.008], upperLip: [0, 0.008, 0], lowerLip: [0, -0.008, 0] },
  ou: { jaw: 4, corners: [-0.045, 0, 0.022], upperLip: [0, 0.002, 0.032], lowerLip: [0, 0.002, 0.03] },
  ee: { jaw: 7.5, corners: [0.018, 0, -0.005], upperLip: [0, 0.006, 0], lowerLip: [0, -0.004, 0] },
  oh: { jaw: 10, corners: [-0.034, 0, 0.012], upperLip: [0, 0.004, 0.02], lowerLip: [0, 0, 0.018] },
  happy: { corners: [0.028, 0.036, -0.012], cheek: [0.004, 0.014, 0.008], lids: 0.12, browOuter: [0, 0.006, 0] },
  angry: { corners: [-0.006, -0.01, 0], upperLip: [0, -0.004, 0], browInner: [-0.012, -0.034, 0.006], browOuter: [0, 0.008, 0], lids: 0.16 }, // prettier-ignore
  sad: { corners: [-0.004, -0.028, 0], lowerLip: [0, 0.008, 0.004], browInner: [-0.006, 0.03, 0], browOuter: [0, -0.012, 0], lids: 0.14 }, // prettier-ignore
  relaxed: { corners: [0.01, 0.012, -0.003], browInner: [0, 0.006, 0], browOuter: [0, -0.004, 0], lids: 0.3 },
  surprised: { jaw: 8, corners: [-0.012, -0.004, 0.004], browInner: [0, 0.042, 0], browOuter: [0, 0.036, 0], lids: -0.22 }, // prettier-ignore
}
/** How far eyes turn when they look aside, up or down, degrees. */
const GAZE = { aside: 22, up: 16, down: 20 }

export interface MadeFace {
  /** Shapes by the names of expressions, 3·V each. */
  readonly shapes: readonly Morph[]
  /** What could not be made, and why, for a person. */
  readonly told: readonly string[]
}

/**
 * Makes expressions for a head from the places of its face: places of the face are pulled, and skin follows the nearest of them by
 * the way over the surface (radial bumps of compact support that together meet every place: Noh, Fidaleo and Neumann, Animated
 * deformations with radial basis functions, 2000; Wendland 1995), so that an upper lip goes without the lower one wherever a mouth
 * parts them. The jaw turns about its hinge with lips, chin, lower teeth and tongue;
 * lids turn about the eyeball; what lies on the skin goes with it.
 * @param wanted expressions that nothing makes yet
 */
export async function makeExpressions(
  mesh: Mesh,
  face: FoundFace,
  wanted: Iterable<Expression>,
  work: WorkOptions = {},
): Promise<MadeFace> {
  const pulse = breather(work)
  const at = Object.fromEntries(face.landmarks.map(l => [l.id, l.position])) as Record<FaceLandmarkId, Vec3>
  const { height: H, chinLevel } = face
  const axis = (at.leftEyeInner[0] + at.rightEyeInner[0]) / 2
  const corners = headCorners(mesh, axis, chinLevel - 0.55 * H, chinLevel + 1.15 * H, 0.9 * H)
  const skin = faceSkin(mesh, corners, at.noseTip)
  const components = componentsAmong(mesh, corners)
  const told: string[] = []
  await pulse(0.05)
  const pulls = await pullsOn(skin, at, chinLevel, H, share => pulse(0.05 + 0.4 * share))
  const jaw = jawWeights(skin, at, chinLevel, H)
  await pulse(0.55)
  const hinge = lerp(at.leftJawHinge, at.rightJawHinge, 0.5)
  const parted = lipsPart(skin, at, H)
  const eyes = (['left', 'right'] as const).flatMap(side => {
    const ball = face.eyes[side]
    return ball ? [{ side, ball }] : []
  })
  const lidded = eyes.filter(e => e.ball.lidded)
  const pieces = piecesOf(mesh, corners, components, skin, face, at, H)
  const out: Morph[] = []
  const list = [...new Set(wanted)]
  if (!parted && list.some(e => (DOINGS[e]?.jaw ?? 0) > 0))
    told.push('The lips are one surface and do not part: mouth shapes move them without opening the mouth.')
  if (lidded.length < 2 && list.some(e => e.startsWith('blink')))
    told.push(eyes.length < 2 ? 'No eyeballs are to be seen, so no lids can shut over them.' : 'There are no lids over the eyeballs, so they cannot shut.') // prettier-ignore
  for (const [i, expression] of list.entries()) {
    await pulse(0.6 + (0.4 * i) / list.length)
    const doing = DOINGS[expression]
    const onSkin = new Float32Array(3 * skin.count)
    const laid = (offsets: Float32Array, share = 1): void => {
      for (let i = 0; i < offsets.length; i++) onSkin[i] += share * offsets[i]
    }
    let open = 0
    const turned: Turned[] = []
    if (doing) {
      laid(pulled(skin, pulls, doing, H))
      open = doing.jaw ?? 0
      if (open > 0) laid(opened(skin, jaw, hinge, open))
      if (doing.lids) for (const { ball } of lidded) laid(shutEye(skin, ball, doing.lids))
    } else if (expression.startsWith('blink')) {
      const which = lidded.filter(e => expression === 'blink' || expression.toLowerCase().endsWith(e.side))
      if (which.length === 0 || (expression === 'blink' && which.length < 2)) continue
      for (const { ball } of which) laid(shutEye(skin, ball, 1))
    } else {
      if (eyes.length < 2) continue
      const [x, y] = gazeOf(expression)
      for (const { ball } of eyes) turned.push({ centre: ball.centre, radius: ball.radius, by: turnOf(x, y) })
      if (y !== 0) for (const { ball } of lidded) laid(shutEye(skin, ball, y > 0 ? -0.12 : 0.28))
    }
    out.push({ name: expression, offsets: onBody(mesh, skin, onSkin, pieces, { hinge, open, turned }) })
  }
  if (eyes.length < 2 && list.some(e => e.startsWith('look'))) told.push('No eyeballs are to be seen, so they cannot look aside.') // prettier-ignore
  return { shapes: out, told }
}

interface Turned {
  readonly centre: Vec3
  readonly radius: number
  readonly by: readonly [number, number, number, number]
}

const gazeOf = (expression: Expression): [number, number] =>
  expression === 'lookLeft'
    ? [GAZE.aside, 0]
    : expression === 'lookRight'
      ? [-GAZE.aside, 0]
      : expression === 'lookUp'
        ? [0, GAZE.up]
        : [0, -GAZE.down]
/** A turn of an eye to the figure's left and up, degrees. */
function turnOf(left: number, up: number): [number, number, number, number] {
  const a = ((left || -up) * Math.PI) / 360
  return left ? [0, Math.sin(a), 0, Math.cos(a)] : [Math.sin(a), 0, 0, Math.cos(a)]
}

/** A place that is pulled, by what moves it; none where it stays. */
interface Pull {
  readonly part?: Exclude<keyof Doing, 'jaw' | 'lids'> | 'brow'
  readonly share: number
  readonly side: 1 | -1 | 0
  readonly place: number
}

interface Pulls {
  readonly list: readonly Pull[]
  /** Weights of each pull, by place. */
  readonly weights: readonly Float32Array[]
}

/** How far over the skin a pull reaches, in heights of the head. */
const PULL_REACH = 0.36

async function pullsOn(
  skin: FaceSkin,
  at: Record<FaceLandmarkId, Vec3>,
  chinLevel: number,
  H: number,
  pulse: (share: number) => Promise<void> | undefined,
): Promise<Pulls> {
  const list: Pull[] = []
  const put = (p: Vec3, side: 1 | -1 | 0, part?: Pull['part'], share = 1): void => {
    list.push({ part, share, side, place: placeAhead(skin, p, 0.013 * H) })
  }
  /** What stays, seen from ahead or not. */
  const hold = (p: Vec3, side: 1 | -1): void => {
    list.push({ share: 1, side, place: nearestPlace(skin, p) })
  }
  put(at.upperLip, 0, 'upperLip')
  put(at.lowerLip, 0, 'lowerLip')
  for (const p of [at.noseTip, at.noseBase, at.chin]) put(p, 0)
  put(lerp(at.leftEyeInner, at.rightEyeInner, 0.5), 0)
  const browLevel = (at.leftBrowInner[1] + at.rightBrowInner[1]) / 2
  put([at.noseTip[0], browLevel + 0.2 * H, at.leftBrowInner[2]], 0)
  for (const s of [1, -1] as const) {
    const side = s > 0 ? 'left' : 'right'
    const of = (part: string): Vec3 => at[`${side}${part}` as FaceLandmarkId]
    const corner = of('MouthCorner')
    put(corner, s, 'corners')
    // lips between their middle and the corner go with both
    put(lerp(at.upperLip, corner, 0.5), s, 'upperLip', 0.75)
    put(lerp(at.lowerLip, corner, 0.5), s, 'lowerLip', 0.75)
    put(of('BrowInner'), s, 'browInner')
    put(of('BrowOuter'), s, 'browOuter')
    put(lerp(of('BrowInner'), of('BrowOuter'), 0.5), s, 'brow')
    put(lerp(of('LowerLid'), corner, 0.42), s, 'cheek')
    for (const part of ['EyeInner', 'EyeOuter', 'LowerLid']) put(of(part), s)
    put(of('UpperLid'), s, 'brow', 0.25)
    for (const part of ['Ear', 'JawHinge']) hold(of(part), s)
    hold(lerp(of('JawHinge'), at.chin, 0.5), s)
    hold(add(of('BrowOuter'), [s * 0.08 * H, 0.17 * H, -0.12 * H]), s)
    hold([of('JawHinge')[0], chinLevel - 0.2 * H, of('JawHinge')[2] - 0.05 * H], s)
  }
  const R = PULL_REACH * H
  const rounds = roundsFor(skin, 0.025 * H)
  const bumps: Float32Array[] = []
  for (const [i, p] of list.entries()) {
    await pulse(i / list.length)
    const ways = waysFrom(skin, [p.place], R)
    bumps.push(
      smoothed(
        skin,
        ways.map(d => bump(d / R)),
        1,
        rounds,
      ),
    )
  }
  // each bump alone would move its neighbours' places too: together they meet all of them, as far as none must be strong for it
  const rows = list.map(p => bumps.map(b => b[p.place]))
  const met = pseudoInverse([...rows, ...list.map((_, i) => list.map((_, j) => (i === j ? MILD : 0)))])
  const weights = list.map((_, k) => {
    const out = new Float32Array(skin.count)
    bumps.forEach((b, j) => {
      const share = met[j][k]
      if (share !== 0) for (let i = 0; i < skin.count; i++) out[i] += share * b[i]
    })
    return out
  })
  return { list, weights }
}

/** How much is given up of a pull for bumps to stay mild. */
const MILD = 0.15

/** Smooth, 1 at no distance and 0 from 1 on (Wendland 1995, of smoothness C²). */
const bump = (d: number): number => (d < 1 ? (1 - d) ** 4 * (4 * d + 1) : 0)

/** As many rounds of evening out as reach so far over the net. */
function roundsFor(skin: FaceSkin, reach: number): number {
  let sum = 0
  const stride = Math.max(1, Math.floor(skin.count / 400))
  let n = 0
  for (let i = 0; i < skin.count; i += stride)
    for (let e = skin.starts[i]; e < skin.starts[i + 1]; e++, n++)
      sum += distance(placeAt(skin, i), placeAt(skin, skin.neighbours[e]))
  const edge = n > 0 ? sum / n : reach
  return Math.round(Math.min(300, Math.max(3, (reach / edge) ** 2)))
}

function pulled(skin: FaceSkin, { list, weights }: Pulls, doing: Doing, H: number): Float32Array {
  const out = new Float32Array(3 * skin.count)
  const brow =
    (doing.browInner || doing.browOuter) && lerp(doing.browInner ?? [0, 0, 0], doing.browOuter ?? [0, 0, 0], 0.5)
  list.forEach(({ part, share, side }, p) => {
    // the middle of a brow goes with both of its ends
    const way = part === 'brow' ? brow : part && doing[part]
    const corners = doing.corners
    if (!way && !(side !== 0 && corners && (part === 'upperLip' || part === 'lowerLip'))) return
    // halves of lips go half with their middle, half with the corner
    const own = way ?? ([0, 0, 0] as const)
    const half = share < 1 && corners && part !== 'brow' ? 0.45 : 0
    for (let k = 0; k < 3; k++) {
      const sign = k === 0 ? side : 1
      const by = H * (share * own[k] * (k === 0 && side === 0 ? 0 : sign) + half * (corners?.[k] ?? 0) * sign)
      if (by !== 0) for (let i = 0; i < skin.count; i++) out[3 * i + k] += weights[p][i] * by
    }
  })
  return out
}

/** How far each place goes with the jaw, 0..1. */
function jawWeights(skin: FaceSkin, at: Record<FaceLandmarkId, Vec3>, chinLevel: number, H: number): Float32Array {
  const low: number[] = [nearestPlace(skin, at.lowerLip), nearestPlace(skin, at.chin)]
  const high: number[] = [
    nearestPlace(skin, at.upperLip),
    nearestPlace(skin, at.noseBase),
    nearestPlace(skin, at.noseTip),
  ]
  for (const side of ['left', 'right'] as const) {
    const corner = at[`${side}MouthCorner`]
    for (const t of [0.35, 0.7]) {
      low.push(placeAhead(skin, lerp(at.lowerLip, corner, t), 0.01 * H))
      high.push(placeAhead(skin, lerp(at.upperLip, corner, t), 0.01 * H))
    }
    const hinge = at[`${side}JawHinge`]
    const under: Vec3 = [at.chin[0], chinLevel, at.chin[2] - 0.03 * H]
    for (const t of [0.25, 0.5]) low.push(nearestPlace(skin, add(lerp(under, hinge, t), [0, -0.06 * H, 0])))
    for (const part of ['LowerLid', 'EyeOuter', 'Ear', 'JawHinge'] as const) high.push(placeAhead(skin, at[`${side}${part}`], 0.013 * H)) // prettier-ignore
  }
  // throat and nape stay
  const hingeZ = (at.leftJawHinge[2] + at.rightJawHinge[2]) / 2
  for (let i = 0; i < skin.count; i++) {
    const [, y, z] = placeAt(skin, i)
    if (y < chinLevel - 0.16 * H || z < hingeZ - 0.12 * H || y > at.noseTip[1] + 0.25 * H) high.push(i)
  }
  const a = waysFrom(skin, low, 0.7 * H)
  const b = waysFrom(skin, high, 0.7 * H)
  // skin level with the tip of the nose and above stays, however it hangs together
  const under = (i: number): number => ease((at.noseTip[1] + 0.06 * H - placeAt(skin, i)[1]) / (0.14 * H))
  const weights = Float32Array.from(a, (d, i) => {
    if (d === Infinity) return 0
    return under(i) * (b[i] === Infinity ? 1 : ease(b[i] / (d + b[i] + 1e-9)))
  })
  // lips and chin go wholly, what is fixed stays wholly; between, weights even out
  const pinned = Uint8Array.from(a, (d, i) => Number(d < 0.02 * H || b[i] < 0.01 * H || under(i) === 0))
  return smoothed(skin, weights, 1, roundsFor(skin, 0.07 * H), pinned)
}

function opened(skin: FaceSkin, weights: Float32Array, hinge: Vec3, degrees: number): Float32Array {
  const out = new Float32Array(3 * skin.count)
  for (let i = 0; i < skin.count; i++) {
    if (weights[i] === 0) continue
    const p = placeAt(skin, i)
    const to = jawTurned(p, hinge, degrees * weights[i])
    for (let k = 0; k < 3; k++) out[3 * i + k] = to[k] - p[k]
  }
  return out
}

function jawTurned(p: Vec3, hinge: Vec3, degrees: number): Vec3 {
  const a = (degrees * Math.PI) / 360
  return add(hinge, rotate([Math.sin(a), 0, 0, Math.cos(a)], sub(p, hinge)))
}

/** Whether a mouth parts the lips: the way over the surface between them is much farther than through the air. */
function lipsPart(skin: FaceSkin, at: Record<FaceLandmarkId, Vec3>, H: number): boolean {
  const [a, b] = [nearestPlace(skin, at.upperLip), nearestPlace(skin, at.lowerLip)]
  const straight = distance(placeAt(skin, a), placeAt(skin, b))
  return waysFrom(skin, [a], 0.8 * H)[b] > 2 * straight + 0.25 * H
}

/** What of a head is no skin: which of it goes with the jaw, which with the skin beside it; eyeballs only turn. */
interface Pieces {
  /** V: 1 goes with the jaw, 2 with the skin at `beside`. */
  readonly how: Uint8Array
  readonly beside: Int32Array
}

function piecesOf(
  mesh: Mesh,
  corners: readonly number[],
  components: { of: Int32Array; count: number },
  skin: FaceSkin,
  face: FoundFace,
  at: Record<FaceLandmarkId, Vec3>,
  H: number,
): Pieces {
  const V = mesh.positions.length / 3
  const how = new Uint8Array(V)
  const beside = new Int32Array(V).fill(-1)
  const line = (at.upperLip[1] + at.lowerLip[1]) / 2
  const wide = 1.3 * Math.abs(at.leftMouthCorner[0] - at.rightMouthCorner[0])
  const lips = Math.min(at.upperLip[2], at.lowerLip[2])
  const sums = new Map<number, { n: number; p: Vec3 }>()
  const seen = new Uint8Array(V)
  for (const f of corners)
    for (let k = 0; k < 3; k++) {
      const v = mesh.indices[f + k]
      if (seen[v] || skin.placeOf[v] >= 0) continue
      seen[v] = 1
      const own = sums.get(components.of[v]) ?? { n: 0, p: [0, 0, 0] as Vec3 }
      sums.set(components.of[v], { n: own.n + 1, p: add(own.p, at3(mesh, v)) })
    }
  const kinds = new Map<number, number>()
  for (const [c, { n, p }] of sums) {
    const [x, y, z] = scale(p, 1 / n)
    const inMouth = Math.abs(x - at.noseTip[0]) < wide / 2 && Math.abs(y - line) < 0.14 * H && z < lips - 0.01 * H && z > lips - 0.4 * H // prettier-ignore
    kinds.set(c, inMouth ? (y < line ? 1 : 0) : 2)
  }
  const balls = [face.eyes.left, face.eyes.right].filter(b => b !== undefined)
  for (let v = 0; v < V; v++) {
    if (!seen[v]) continue
    const p = at3(mesh, v)
    if (balls.some(b => distance(p, b.centre) < 1.06 * b.radius)) continue
    how[v] = kinds.get(components.of[v]) ?? 0
    if (how[v] !== 2) continue
    const place = nearestPlace(skin, p)
    if (distance(placeAt(skin, place), p) < 0.06 * H) beside[v] = place
  }
  return { how, beside }
}

const at3 = ({ positions: P }: Mesh, v: number): Vec3 => [P[3 * v], P[3 * v + 1], P[3 * v + 2]]

/** What happens to the skin and to what is beside it, on all of the body. */
function onBody(
  mesh: Mesh,
  skin: FaceSkin,
  onSkin: Float32Array,
  { how, beside }: Pieces,
  { hinge, open, turned }: { hinge: Vec3; open: number; turned: readonly Turned[] },
): Float32Array {
  const out = new Float32Array(mesh.positions.length)
  for (let v = 0; v < out.length / 3; v++) {
    const place = skin.placeOf[v] >= 0 ? skin.placeOf[v] : beside[v]
    let by: Vec3 | undefined
    if (place >= 0) by = [onSkin[3 * place], onSkin[3 * place + 1], onSkin[3 * place + 2]]
    else if (how[v] === 1 && open > 0) by = sub(jawTurned(at3(mesh, v), hinge, open), at3(mesh, v))
    else
      for (const { centre, radius, by: turn } of turned) {
        const p = sub(at3(mesh, v), centre)
        if (distance(p, [0, 0, 0]) < 1.06 * radius) by = sub(rotate(turn, p), p)
      }
    if (by) for (let k = 0; k < 3; k++) out[3 * v + k] = Math.abs(by[k]) < 1e-6 ? 0 : by[k]
  }
  return out
}
