import {
  add,
  addScaled,
  angleBetween,
  breather,
  CORNERS_A_LOOK,
  cross,
  distance,
  dot,
  fromAxisAngle,
  length,
  lerp,
  normalize,
  partOf,
  rotate,
  scale,
  sub,
  type Vec3,
  type WorkOptions,
  maxOf,
} from '../math'
import { cellCentre, geodesics, voxelize, type Mesh, type Voxels } from '../mesh'
import { extremities } from './extremities'
import { type Landmark } from './landmark'
import { FINGERS, fingerJoints } from '../body'
import { largestPiece } from './largest-piece'
import { levelCentres, lineLength, resampleLine, smoothLine } from './limb'
import { limbCells } from './limb-cells'

/** How many fingers a hand shall have, the thumb counted; `auto` takes what the body shows. */
export type FingerWish = 'auto' | number

export interface Hands {
  /** Fingers seen on each hand, the thumb counted. */
  readonly seen: { readonly left: number; readonly right: number }
  /** Fingers that are to have joints. */
  readonly fingers: { readonly left: readonly string[]; readonly right: readonly string[] }
  readonly landmarks: readonly Landmark[]
}

/** Cells along a hand from wrist to finger tip. */
const CELLS = 60

/** Shares of a finger's length from knuckle to tip at which it bends (after Buryanov and Kotiuk 2010, bone lengths with the flesh of the tip). */
const FINGER_SHARES = [0, 0.486, 0.76] as const
const THUMB_SHARES = [0, 0.44, 0.74] as const
/** The web reaches up to the middle of the first finger bone: what shows of a finger, of its whole length. */
const SHOWN = 0.78
/** Where knuckles lie on the way from the wrist to the longest finger's tip. */
const KNUCKLES = 0.475

interface Finger {
  readonly name: string
  readonly line: readonly Vec3[]
  readonly confidence: number
}

/**
 * Finds the fingers of both hands of a biped: the hand alone is made solid in fine cells, fingers are the
 * persistent peaks of geodesic distance from the wrist (as the ends of the body are), the thumb is the one that
 * leaves nearest the wrist and most aslant. Fingers that are wished for but not seen are laid out by proportion.
 */
export async function findHands(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  body: readonly Landmark[],
  wish: { readonly left: FingerWish; readonly right: FingerWish } = { left: 'auto', right: 'auto' },
  work: WorkOptions = {},
): Promise<Hands> {
  const seen = { left: 0, right: 0 }
  const fingers: { left: string[]; right: string[] } = { left: [], right: [] }
  const landmarks: Landmark[] = []
  for (const side of ['left', 'right'] as const) {
    const at = (part: string): Vec3 | undefined => body.find(l => l.id === side + part)?.position
    const wrist = at('Wrist'),
      tip = at('HandTip')
    if (!wrist || !tip || wish[side] === 0) continue
    const part = side === 'left' ? partOf(work, 0, 0.5) : partOf(work, 0.5, 1)
    const hand = await readHand(mesh, wrist, tip, part)
    seen[side] = hand.fingers.length
    const count = wish[side] === 'auto' ? (hand.fingers.length >= 2 ? hand.fingers.length : 0) : wish[side]
    const chosen = count === hand.fingers.length ? hand.fingers : byProportion(hand, wrist, count)
    for (const finger of chosen) {
      fingers[side].push(finger.name)
      const shares = finger.name === 'Thumb' ? THUMB_SHARES : FINGER_SHARES
      const dense = resampleLine(finger.line, 101)
      fingerJoints(finger.name).forEach((joint, i) => {
        landmarks.push({
          id: side + finger.name + joint,
          position: dense[Math.round(100 * shares[i])],
          confidence: finger.confidence,
        })
      })
      landmarks.push({ id: `${side}${finger.name}Tip`, position: dense[100], confidence: finger.confidence })
    }
  }
  return { seen, fingers, landmarks }
}

interface HandReading {
  readonly fingers: readonly Finger[]
  /** Unit, from the wrist to the finger tips; across the palm towards the thumb; out of the back of the hand. */
  readonly ahead: Vec3
  readonly thumbward: Vec3
  readonly length: number
}

async function readHand(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  wrist: Vec3,
  tip: Vec3,
  work: WorkOptions,
): Promise<HandReading> {
  const length = distance(wrist, tip)
  const ahead = normalize(sub(tip, wrist))
  const plain: HandReading = { fingers: [], ahead, thumbward: usualThumbward(ahead), length }
  const centre = addScaled(wrist, ahead, 0.55 * length)
  const half = 0.85 * length
  const box = { min: sub(centre, [half, half, half]), max: add(centre, [half, half, half]) }
  const pulse = breather(work)
  const near = await nearTriangles(mesh, box, work)
  if (near.length < 30) return plain
  const whole = await voxelize(mesh.positions, near, {
    ...partOf(work, 0, 0.5),
    cells: (2 * half * CELLS) / length,
    box,
  })
  await pulse(0.5)
  const voxels = handOnly(whole, wrist, ahead, length)
  await pulse(0.5)
  if (!voxels) return plain
  const sources: { cell: number; label: number; start: number }[] = []
  for (let c = 0; c < voxels.cells.length; c++) {
    const d = dot(sub(cellCentre(voxels, c), wrist), ahead)
    if (Math.abs(d) < 1.2 * voxels.size) sources.push({ cell: c, label: 0, start: 0 })
  }
  if (sources.length === 0) return plain
  const { distance: field } = await geodesics(voxels, sources, partOf(work, 0.5, 0.9))
  const ends = (await extremities(voxels, field, 0.09 * length, 0.09 * length, work))
    .filter(e => field[e.cell] > 0.3 * length && field[e.cell] - e.joinsAt > 0.08 * length)
    .slice(0, 5)
  if (ends.length === 0) return plain
  const read = ends.map(end => {
    const cells = limbCells(voxels, field, end)
    const levels = levelCentres(voxels, field, cells, 1.5 * voxels.size)
    const tip = middleTip(voxels, cells, levels, end.tip)
    const line = smoothLine([tip, ...levels.slice(1)], 2)
    const low = line[line.length - 1],
      high = line[Math.floor(line.length * 0.3)]
    return {
      end,
      line,
      direction: normalize(sub(high, low), ahead),
      base: low,
      tip: surfaceTip(tip, normalize(sub(tip, low), ahead), voxels.size),
    }
  })
  const thumb = pickThumb(read, wrist, ahead, length)
  const others = read.filter((_, i) => i !== thumb)
  const middleBase =
    others.length > 0
      ? scale(
          others.reduce((s, f) => add(s, f.base), [0, 0, 0] as Vec3),
          1 / others.length,
        )
      : addScaled(wrist, ahead, 0.5 * length)
  const spread =
    others.length > 1
      ? acrossOf(
          others.map(o => o.base),
          ahead,
        )
      : undefined
  let thumbward =
    thumb >= 0
      ? flatten(sub(lerp(read[thumb].base, read[thumb].tip, 0.5), lerp(wrist, middleBase, 0.5)), ahead)
      : (spread ?? plain.thumbward)
  if (spread && thumb >= 0) thumbward = dot(spread, thumbward) >= 0 ? spread : scale(spread, -1)
  if (thumb < 0 && dot(thumbward, plain.thumbward) < 0) thumbward = scale(thumbward, -1)
  others.sort((a, b) => dot(sub(b.base, a.base), thumbward))
  const names = others.length === 1 ? ['Index'] : FINGERS.slice(1, 1 + others.length)
  const sure = (e: { persistence: number }): number => Math.min(0.95, 0.66 + 0.7 * (e.persistence / length))
  const fingers: Finger[] = others.map((o, i) => ({
    name: names[i],
    line: wholeFinger(o, wrist, ahead, length),
    confidence: sure(o.end),
  }))
  if (thumb >= 0)
    fingers.unshift({
      name: 'Thumb',
      line: wholeThumb(read[thumb], wrist, ahead, thumbward, length),
      confidence: 0.9 * sure(read[thumb].end),
    })
  return { fingers, ahead, thumbward, length }
}

interface RawFinger {
  readonly end: { readonly joinsAt: number; readonly persistence: number }
  readonly line: readonly Vec3[]
  readonly direction: Vec3
  readonly base: Vec3
  readonly tip: Vec3
}

/** The finger carried on from its web into the palm, down to its knuckle; from knuckle to tip. */
function wholeFinger(f: RawFinger, wrist: Vec3, ahead: Vec3, length: number): Vec3[] {
  const shown = [f.tip, ...f.line.slice(1)]
  const visible = lineLength(shown)
  const stem = normalize(sub(f.line[Math.floor(f.line.length * 0.45)], f.base), f.direction)
  // both what shows of the finger and where knuckles usually lie tell how deep it starts
  const byWeb = visible * (1 / SHOWN - 1)
  const toKnuckles = (dot(sub(f.base, wrist), ahead) - KNUCKLES * length) / Math.max(0.4, dot(stem, ahead))
  const depth = Math.max(0.02 * length, 0.4 * byWeb + 0.6 * Math.max(0, toKnuckles))
  const knuckle = addScaled(f.base, stem, -depth)
  return [knuckle, ...[...shown].reverse()]
}

function wholeThumb(f: RawFinger, wrist: Vec3, ahead: Vec3, thumbward: Vec3, length: number): Vec3[] {
  const root = add(wrist, add(scale(ahead, 0.12 * length), scale(thumbward, 0.13 * length)))
  return [root, ...[f.tip, ...f.line.slice(1)].reverse()]
}

/** A tip farther beside the line of its finger than this many cells is a corner of something broad. */
const BESIDE = 2.5
/**
 * The tip in the middle of a finger's end: what is farthest from the wrist on a mitten or a hoof is a corner of it.
 * @param levels centres from the tip on
 */
function middleTip(voxels: Voxels, cells: readonly number[], levels: readonly Vec3[], farthest: Vec3): Vec3 {
  // the last levels are cut by the corner too
  const [far, near] = [0.35, 0.8].map(share => levels[Math.floor(share * (levels.length - 1))])
  if (!far || !near || distance(far, near) < 2 * voxels.size) return farthest
  const along = normalize(sub(far, near))
  const beside = (p: Vec3): number => {
    const d = sub(p, far)
    return length(addScaled(d, along, -dot(d, along)))
  }
  if (beside(farthest) < BESIDE * voxels.size) return farthest
  let reach = 0
  for (const cell of cells) {
    const p = cellCentre(voxels, cell)
    if (beside(p) < 1.5 * voxels.size) reach = Math.max(reach, dot(sub(p, far), along))
  }
  return reach > 0 ? addScaled(far, along, reach) : farthest
}

/** The cells end half a cell short of the skin. */
const surfaceTip = (tip: Vec3, out: Vec3, cell: number): Vec3 => addScaled(tip, out, 0.5 * cell)

/**
 * The one that leaves nearest the wrist and most aslant; none where all fingers are alike. Thumbs of a standing
 * figure look ahead rather than back, which settles what the shape leaves open.
 */
function pickThumb(read: readonly RawFinger[], wrist: Vec3, ahead: Vec3, length: number): number {
  if (read.length < 2) return -1
  const middle = scale(
    read.reduce((s, f) => add(s, f.tip), [0, 0, 0] as Vec3),
    1 / read.length,
  )
  const usual = usualThumbward(ahead)
  const scores = read.map(f => {
    const aslant = angleBetween(normalize(sub(f.tip, f.base)), ahead)
    const early = 1 - dot(sub(f.tip, wrist), ahead) / length
    const root = 1 - dot(sub(f.base, wrist), ahead) / length
    return aslant / 0.6 + 2.2 * early + 1.5 * root + 0.5 * Math.tanh((4 * dot(sub(f.tip, middle), usual)) / length)
  })
  const best = scores.indexOf(maxOf(scores))
  const rest = scores.filter((_, i) => i !== best)
  return scores[best] > maxOf(rest) + 0.45 || read.length === 5 || read.length === 2 ? best : -1
}

/** The hand ahead of the wrist as one solid piece. */
function handOnly(voxels: Voxels, wrist: Vec3, ahead: Vec3, length: number): Voxels | undefined {
  const keep: number[] = []
  for (let c = 0; c < voxels.cells.length; c++) {
    const r = sub(cellCentre(voxels, c), wrist)
    const along = dot(r, ahead)
    if (along < -1.2 * voxels.size) continue
    // what lies beside the palm farther than a thumb reaches is not the hand
    if (Math.hypot(...addScaled(r, ahead, -along)) > 0.25 * length + 0.55 * Math.max(0, along)) continue
    keep.push(voxels.cells[c])
  }
  if (keep.length < 60) return undefined
  const slot = new Int32Array(voxels.slot.length).fill(-1)
  keep.forEach((cell, i) => {
    slot[cell] = i
  })
  return largestPiece({ ...voxels, slot, cells: Uint32Array.from(keep) })
}

async function nearTriangles(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  box: { min: Vec3; max: Vec3 },
  { signal }: WorkOptions,
): Promise<Uint32Array> {
  const pulse = breather({ signal })
  const { positions, indices } = mesh
  const out: number[] = []
  for (let f = 0; f < indices.length; f += 3) {
    if (f % CORNERS_A_LOOK === 0) await pulse()
    // columns run through the whole body, so a triangle counts when it meets the box in two of three ways
    let hits = 0
    for (let k = 0; k < 3; k++) {
      const a = positions[3 * indices[f] + k],
        b = positions[3 * indices[f + 1] + k],
        c = positions[3 * indices[f + 2] + k]
      if (Math.max(a, b, c) >= box.min[k] && Math.min(a, b, c) <= box.max[k]) hits++
    }
    if (hits >= 2) out.push(indices[f], indices[f + 1], indices[f + 2])
  }
  return Uint32Array.from(out)
}

const flatten = (v: Vec3, normal: Vec3): Vec3 => normalize(addScaled(v, normal, -dot(v, normal)), [0, 0, 1])

/** Thumbs of a standing figure point ahead. */
const usualThumbward = (ahead: Vec3): Vec3 => flatten([0, 0, 1], ahead)

/** The way along which points lie farthest apart, at right angles to `ahead`. */
function acrossOf(points: readonly Vec3[], ahead: Vec3): Vec3 {
  let best: Vec3 = usualThumbward(ahead)
  let most = -1
  for (const a of points)
    for (const b of points) {
      const d = addScaled(sub(b, a), ahead, -dot(sub(b, a), ahead))
      const l = Math.hypot(...d)
      if (l > most && l > 1e-9) {
        most = l
        best = scale(d, 1 / l)
      }
    }
  return best
}

/** Fingers as hands usually have them, keeping those that were seen. */
function byProportion(hand: HandReading, wrist: Vec3, count: number): Finger[] {
  const { ahead, thumbward, length } = hand
  const names = count === 1 ? ['Index'] : FINGERS.slice(0, count)
  const n = names.filter(f => f !== 'Thumb').length
  return names.map((name): Finger => {
    const seen = hand.fingers.find(f => f.name === name)
    if (seen) return seen
    if (name === 'Thumb') {
      const root = add(wrist, add(scale(ahead, 0.12 * length), scale(thumbward, 0.13 * length)))
      const aim = rotate(fromAxisAngle(cross(ahead, thumbward), 0.75), ahead)
      return { name, line: [root, addScaled(root, aim, 0.5 * length)], confidence: 0.3 }
    }
    const i = FINGERS.indexOf(name as (typeof FINGERS)[number]) - 1
    const across = n > 1 ? ((n - 1) / 2 - i) * Math.min(0.125, 0.4 / n) : 0
    const reach = [0.92, 1, 0.95, 0.8][i] ?? 1
    const knuckle = add(wrist, add(scale(ahead, KNUCKLES * length), scale(thumbward, across * length)))
    const end = add(wrist, add(scale(ahead, reach * length), scale(thumbward, across * 1.3 * length)))
    return { name, line: [knuckle, end], confidence: 0.3 }
  })
}
