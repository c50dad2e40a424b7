import {
  add,
  addScaled,
  breather,
  ChiraxisError,
  distance,
  lerp,
  maxOf,
  normalize,
  partOf,
  sub,
  type Vec3,
  type WorkOptions,
} from '../math'
import { boundsOf, cellCentre, geodesics, nearestSolid, voxelize, type Mesh, type Voxels } from '../mesh'
import { extremities, type Extremity } from './extremities'
import { FOURLEG_LANDMARKS, type Landmark } from './landmark'
import { largestPiece } from './largest-piece'
import { cutLimb, levelCentres, lineLength, resampleLine, smoothLine } from './limb'
import { limbCells } from './limb-cells'
import { rowPatches, type Patch } from './rows'

/**
 * Finds the landmarks of an upright four-legged body, facing +Z: paws, nose, tail and ears as persistent ends of
 * geodesic distance from the trunk; legs by the patches of horizontal rows from the ground to where they join the
 * belly; the back by the upper rim of the trunk. What flesh hides (shoulder blade, hip) is told by proportion.
 * @throws ChiraxisError `not-a-biped` where there are not four legs and a head
 */
export async function detectFourleg(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  work: WorkOptions = {},
): Promise<Landmark[]> {
  const { min, max } = boundsOf(mesh.positions)
  const height = max[1] - min[1]
  const pulse = breather(work)
  const solid = await voxelize(mesh.positions, mesh.indices, { ...partOf(work, 0, 0.4), cells: 140 })
  await pulse(0.4)
  const voxels = largestPiece(solid)
  await pulse(0.4)
  if (voxels.cells.length < 400) throw refuse('it encloses too little volume')
  const rows = rowPatches(voxels)
  const middleZ = (min[2] + max[2]) / 2
  const core = nearestSolid(voxels, [0, min[1] + 0.58 * height, middleZ], 40)
  if (core < 0) throw refuse('there is nothing solid where the trunk should be')
  const { distance: field } = await geodesics(voxels, [{ cell: core, label: 0 }], partOf(work, 0.4, 0.8))
  const ends = await extremities(voxels, field, 0.04 * height, 0.1 * height, work)
  await pulse(0.85)
  const paws = ends.filter(e => e.tip[1] < min[1] + 0.16 * height && Math.abs(e.tip[0]) > 0.022 * height)
  const at = (side: 1 | -1): Extremity[] =>
    paws
      .filter(p => Math.sign(p.tip[0]) === side)
      .sort((a, b) => b.persistence - a.persistence)
      .slice(0, 2)
      .sort((a, b) => b.tip[2] - a.tip[2])
  const [left, right] = [at(1), at(-1)]
  if (left.length < 2 || right.length < 2) throw refuse(`it stands on ${left.length + right.length} legs`)

  const found: Landmark[] = []
  const put = (id: string, position: Vec3, confidence: number): void => {
    found.push({ id, position, confidence })
  }
  const front = (left[0].tip[2] + right[0].tip[2]) / 2,
    hind = (left[1].tip[2] + right[1].tip[2]) / 2
  if (front - hind < 0.2 * height) throw refuse('its feet are not two before and two behind')
  const legs = {
    left: left.map(p => followLeg(rows, p.tip, voxels, height)),
    right: right.map(p => followLeg(rows, p.tip, voxels, height)),
  }
  const span = front - hind
  // legs stand forward and back; the trunk lies between, told by its upper and lower rim along the midline
  await pulse(0.9)
  const rim = trunkRim(voxels)
  const frontTop = mean([legs.left[0], legs.right[0]].map(l => l.top[2])),
    hindTop = mean([legs.left[1], legs.right[1]].map(l => l.top[2]))
  // beside the midline there is neither tail nor hump nor mane
  const besideX = 0.8 * mean([...legs.left, ...legs.right].map(l => Math.abs(l.top[0])))
  const beside = trunkRim(voxels, besideX)
  const back = (z: number): number => {
    const [own, side] = [rim.at(z)?.top, z > middleZ ? beside.at(z)?.top : undefined]
    if (own === undefined) return side ?? min[1] + 0.7 * height
    return side === undefined ? own : Math.min(own, side + 0.05 * height)
  }
  const belly = (z: number): number => rim.at(z)?.bottom ?? min[1] + 0.4 * height
  const inTrunk = (z: number, share: number): Vec3 => [0, back(z) - share * (back(z) - belly(z)), z]
  const withers = back(frontTop - 0.02 * span)
  const croup = back(hindTop)
  // the hind end of the trunk, without the tail: the pelvis lies a little before it
  const rump = beside.from(hindTop - 0.6 * span, hindTop, 0.3 * (croup - belly(hindTop)))

  for (const side of ['left', 'right'] as const) {
    const f = legs[side][0],
      h = legs[side][1]
    const ground = min[1]
    const rise = withers - ground
    const elbowY = Math.min(f.top[1] + 0.06 * rise, ground + 0.66 * rise)
    const elbow: Vec3 = [f.top[0], elbowY, f.at(f.top[1])[2] - 0.012 * rise]
    const blade: Vec3 = [f.top[0] * 0.72, withers - 0.06 * rise, elbow[2] + 0.04 * rise]
    const point: Vec3 = [f.top[0] * 0.92, elbowY + 0.42 * (withers - elbowY), elbow[2] + 0.18 * rise]
    put(`${side}FrontShoulder`, blade, 0.55)
    put(`${side}FrontHip`, insideOf(voxels, point), 0.5)
    put(`${side}FrontElbow`, elbow, 0.7)
    const wristY = ground + 0.43 * (elbowY - ground)
    put(`${side}FrontWrist`, f.at(wristY), 0.75)
    put(`${side}FrontToes`, f.at(ground + 0.085 * rise), 0.75)
    put(`${side}FrontTip`, pawTip(mesh.positions, f.at(ground + 0.03 * rise), ground, height), 0.9)

    const hock = hockOf(h, ground, croup)
    const byLeg = h.at(h.top[1])[2] - 0.09 * rise
    const hipZ = rump === undefined ? byLeg : 0.4 * byLeg + 0.6 * (rump + 0.15 * rise)
    const hip: Vec3 = [h.top[0] * 0.82, croup - 0.15 * (croup - ground), hipZ]
    const kneeY = 0.35 * Math.min(h.top[1], 0.5 * (hock[1] + hip[1]) + 0.1 * rise) + 0.65 * 0.5 * (hock[1] + hip[1])
    const knee: Vec3 = [h.top[0] * 1.04, kneeY, h.at(Math.min(kneeY, h.top[1]))[2] + 0.035 * rise]
    put(`${side}HindHip`, insideOf(voxels, hip), 0.5)
    put(`${side}HindKnee`, insideOf(voxels, knee), 0.6)
    put(`${side}HindHock`, hock, 0.8)
    put(`${side}HindToes`, h.at(ground + 0.085 * rise), 0.75)
    put(`${side}HindTip`, pawTip(mesh.positions, h.at(ground + 0.03 * rise), ground, height), 0.9)
  }
  const hipZ = mean(['leftHindHip', 'rightHindHip'].map(id => found.find(l => l.id === id)!.position[2]))
  const chestZ = frontTop - 0.02 * span
  put('hips', inTrunk(hipZ - 0.03 * span, 0.22), 0.7)
  put('loin', inTrunk(hipZ + 0.45 * (chestZ - hipZ), 0.17), 0.7)
  put('chest', inTrunk(chestZ - 0.02 * span, 0.23), 0.7)
  const blades = found.find(l => l.id === 'leftFrontShoulder')!.position
  readHead(
    voxels,
    field,
    ends,
    [0, withers - 0.045 * height, blades[2] + 0.13 * (withers - min[1])],
    front,
    withers,
    min[1],
    [...left, ...right],
    height,
    put,
  )
  const usualTail: Vec3 = [0, croup - 0.1 * (croup - min[1]), (rump ?? hipZ - 0.15 * (croup - min[1])) + 0.02 * height]
  readTail(voxels, field, ends, hipZ, usualTail, height, put)
  work.onProgress?.(1)
  return FOURLEG_LANDMARKS.flatMap(kind => found.filter(f => f.id === kind.id))
}

interface Leg {
  /** Middle of the leg at a height. */
  at(y: number): Vec3
  /** Where the leg joins the trunk. */
  readonly top: Vec3
  /** From the ground up. */
  readonly line: readonly Vec3[]
}

/** Follows a leg upwards patch by patch until it opens into the trunk. */
function followLeg(rows: readonly (readonly Patch[])[], tip: Vec3, voxels: Voxels, height: number): Leg {
  const line: Vec3[] = []
  const counts: number[] = []
  let from: Patch | undefined
  for (const row of rows) {
    const candidates = row.filter(p => Math.sign(p.x) === Math.sign(tip[0]) && Math.abs(p.x) > 0.006 * height)
    const near = candidates
      .map(p => ({ p, d: Math.hypot(p.x - (from?.x ?? tip[0]), p.z - (from?.z ?? tip[2])) }))
      .sort((a, b) => a.d - b.d)[0]
    if (!near || near.d > 0.12 * height) {
      if (from) break
      continue
    }
    const { p } = near
    if (line.length > 12) {
      const usual = [...counts.slice(-40)].sort((a, b) => a - b)[Math.floor(Math.min(40, counts.length) / 2)]
      // a patch across the midline, or one that suddenly is much larger, is the trunk
      if (p.minX * p.maxX < 0 || p.count > 3.2 * usual || p.maxZ - p.minZ > 0.42 * height) break
    }
    line.push([p.x, p.y, p.z])
    counts.push(p.count)
    from = p
  }
  if (line.length < 6 || line[line.length - 1][1] - line[0][1] < 0.1 * height)
    throw refuse('a leg could not be followed to the belly')
  const smooth = smoothLine(line, 4)
  const at = (y: number): Vec3 => {
    const i = Math.min(smooth.length - 2, Math.max(0, Math.floor((y - smooth[0][1]) / voxels.size)))
    const t = Math.min(1, Math.max(0, (y - smooth[i][1]) / Math.max(1e-9, smooth[i + 1][1] - smooth[i][1])))
    return lerp(smooth[i], smooth[i + 1], t)
  }
  return { at, top: smooth[smooth.length - 1], line: smooth }
}

/** The hock is where the hind leg reaches farthest back above the paw. */
function hockOf(leg: Leg, ground: number, croup: number): Vec3 {
  const reach = leg.line.filter(p => p[1] > ground + 0.14 * (croup - ground) && p[1] < ground + 0.5 * (croup - ground))
  const a = leg.line[0],
    b = leg.top
  const off = (p: Vec3): number => p[2] - (a[2] + (b[2] - a[2]) * ((p[1] - a[1]) / Math.max(1e-9, b[1] - a[1])))
  const deepest = reach.reduce(
    (x, y) => (off(y) < off(x) ? y : x),
    reach[0] ?? leg.at(ground + 0.28 * (croup - ground)),
  )
  const usual = leg.at(ground + 0.28 * (croup - ground))
  return Math.abs(off(deepest)) > 0.02 * (croup - ground) ? leg.at(0.7 * deepest[1] + 0.3 * usual[1]) : usual
}

/** Upper and lower rim of the body along the midline or beside it, by z. */
interface Rim {
  at(z: number): { top: number; bottom: number } | undefined
  /** The first place from one on towards another where the trunk is at least so deep. */
  from(z: number, to: number, deep: number): number | undefined
}
function trunkRim(voxels: Voxels, x = 0): Rim {
  const [nx, ny, nz] = voxels.counts
  const mid = Math.round((x - voxels.origin[0]) / voxels.size)
  const rim: Rim = {
    from(z, to, deep) {
      for (; z < to; z += voxels.size) {
        const run = rim.at(z)
        if (run && run.top - run.bottom > deep) return z
      }
      return undefined
    },
    at(z) {
      const k = Math.round((z - voxels.origin[2]) / voxels.size)
      if (k < 0 || k >= nz) return undefined
      // the thickest run of the column is the trunk; a raised tail or an ear above it is not
      let best: { top: number; bottom: number } | undefined
      for (let j = 0, from = -1; j <= ny; j++) {
        const solid = j < ny && voxels.slot[mid + nx * (j + ny * k)] >= 0
        if (solid && from < 0) from = j
        if (!solid && from >= 0) {
          const run = {
            top: voxels.origin[1] + (j - 0.5) * voxels.size,
            bottom: voxels.origin[1] + (from - 0.5) * voxels.size,
          }
          if (!best || run.top - run.bottom > best.top - best.bottom) best = run
          from = -1
        }
      }
      return best
    },
  }
  return rim
}

function readHead(
  voxels: Voxels,
  field: Float32Array,
  ends: readonly Extremity[],
  usualNeck: Vec3,
  front: number,
  withers: number,
  ground: number,
  paws: readonly Extremity[],
  height: number,
  put: (id: string, p: Vec3, c: number) => void,
): void {
  const rise = withers - ground
  // heads hang as low as the belly; paws and what grows beside the midline, horns and ears, are no noses
  const high = ends.filter(e => e.tip[1] > ground + 0.12 * rise && e.tip[2] > front - 0.1 * height && !paws.includes(e))
  const central = high.filter(e => Math.abs(e.tip[0]) < 0.025 * height)
  const nose = [...(central.length > 0 ? central : high)].sort((a, b) => b.tip[2] - a.tip[2])[0]
  if (!nose) throw refuse('no head was found ahead of the forelegs')
  const far = [...high].sort((a, b) => a.joinsAt - b.joinsAt)[0]
  // the end that reaches down to the trunk carries head and neck, be it the nose or an ear
  const cells = limbCells(voxels, field, { ...nose, joinsAt: Math.min(nose.joinsAt, far.joinsAt) })
  let line = smoothLine([nose.tip, ...levelCentres(voxels, field, cells, 2 * voxels.size).slice(1)], 3)
  line = [...line, inwards(line, 0.12 * height)]
  const dense = resampleLine(line, 60)
  const cuts = dense.map((p, i) =>
    cutLimb(voxels, p, normalize(sub(dense[Math.min(59, i + 2)], dense[Math.max(0, i - 2)])), 0.3 * height),
  )
  const area = cuts.map(c => c?.area ?? 0)
  // from the nose: the skull is the first bulge, the neck the waist behind it, the trunk where it opens again
  const step = lineLength(dense) / (dense.length - 1)
  const placeAt = (way: number): number => Math.max(2, Math.min(54, Math.round((way * rise) / step)))
  // a long thin thing before the head is a trunk: the face begins where it widens
  const most = maxOf(area.slice(0, 45))
  const face = area.findIndex(a => a > 0.3 * most)
  const hangs = dense[Math.max(0, face)][1] - dense[0][1] > 0.8 * face * step
  const first = face * step > 0.34 * rise && hangs ? face : 0
  const bulges = bulge(area, first + placeAt(0.1), Math.min(52, first + placeAt(0.44)))
  const skull = bulges ?? Math.min(52, first + placeAt(0.3))
  // a head that only grows into its neck, or hangs a trunk, is told by proportion
  const doubt = bulges === undefined || first > 0 ? 0.15 : 0
  const neck = indexOfMin(area, skull + 3, 54)
  let base = 57
  for (let i = neck + 1; i < 58; i++)
    if (area[i] > 1.55 * area[neck]) {
      base = i
      break
    }
  const centre = (i: number): Vec3 => cuts[i]?.centre ?? dense[i]
  let nape = neck
  for (let i = skull; i < neck; i++)
    if (area[i] < 0.5 * (area[skull] + area[neck])) {
      nape = i
      break
    }
  // behind the middle of the skull there is no more of it than half of what lies before
  nape = Math.min(nape, Math.round(first + 1.55 * (skull - first)))
  const ears = (['left', 'right'] as const).flatMap(side => {
    const sign = side === 'left' ? 1 : -1
    const ear = high
      .filter(
        e =>
          e !== nose &&
          Math.sign(e.tip[0]) === sign &&
          Math.abs(e.tip[0]) > 0.015 * height &&
          distance(e.tip, centre(skull)) < 0.45 * rise &&
          e.tip[1] > centre(skull)[1] - 0.05 * rise,
      )
      .sort((x, y) => y.persistence - x.persistence)[0]
    if (!ear) return []
    // an ear that is the highest peak of all is told apart from head and neck by its own length
    const own = levelCentres(
      voxels,
      field,
      limbCells(
        voxels,
        field,
        ear.persistence > 0.3 * height ? { ...ear, joinsAt: field[ear.cell] - 0.12 * height } : ear,
      ),
      1.5 * voxels.size,
    )
    const base = smoothLine(own, 2)[own.length - 1] ?? ear.tip
    return [{ side, tip: ear.tip, base: addScaled(base, normalize(sub(base, ear.tip)), 0.035 * height) }]
  })
  // the neck enters the trunk a good radius deeper than where it first widens
  const radius = Math.sqrt(area[neck] / Math.PI)
  const opened = addScaled(centre(base), normalize(sub(dense[Math.min(59, base + 2)], dense[base - 2])), 0.7 * radius)
  const clear = distance(opened, usualNeck) < 0.1 * height
  const neckBase = onMidline(clear ? lerp(opened, usualNeck, 0.4) : usualNeck)
  const byShape = centre(nape)
  const byEars =
    ears.length === 2 ? addScaled(lerp(ears[0].base, ears[1].base, 0.5), [0, -0.6, -0.4], 0.07 * height) : undefined
  const skullBase = onMidline(
    byEars ? (distance(byShape, byEars) < 0.06 * height ? lerp(byShape, byEars, 0.5) : byEars) : byShape,
  )
  put('nose', onMidline(first > 0 ? centre(first) : nose.tip), first > 0 ? 0.5 : 0.9)
  put('skullBase', skullBase, (byEars && distance(byShape, byEars) < 0.06 * height ? 0.8 : 0.62) - doubt)
  put('neckBase', neckBase, clear ? 0.65 : 0.5)
  const top = columnTop(voxels, centre(Math.max(2, Math.round((skull + nape) / 2))))
  put('crown', onMidline(top), 0.7 - doubt)
  for (const ear of ears) {
    put(`${ear.side}EarBase`, ear.base, 0.7)
    put(`${ear.side}EarTip`, ear.tip, 0.85)
  }
}

function readTail(
  voxels: Voxels,
  field: Float32Array,
  ends: readonly Extremity[],
  hipZ: number,
  usualTail: Vec3,
  height: number,
  put: (id: string, p: Vec3, c: number) => void,
): void {
  const tail = ends
    .filter(e => e.tip[2] < hipZ && Math.abs(e.tip[0]) < 0.2 * height && e.tip[1] > 0.12 * height)
    .sort((a, b) => b.persistence - a.persistence)[0]
  if (!tail) return
  const line = smoothLine(
    [tail.tip, ...levelCentres(voxels, field, limbCells(voxels, field, tail), 1.5 * voxels.size).slice(1)],
    3,
  )
  const dense = resampleLine(line, 41)
  const cuts = dense.map(
    (p, i) =>
      cutLimb(voxels, p, normalize(sub(dense[Math.min(40, i + 2)], dense[Math.max(0, i - 2)])), 0.2 * height)?.area ??
      0,
  )
  const usual = [...cuts.slice(4, 28)].sort((a, b) => a - b)[12] || 1
  let base = 40
  for (let i = 20; i < 41; i++)
    if (cuts[i] > 3 * usual) {
      base = i
      break
    }
  const own = resampleLine(dense.slice(0, base + 1), 21)
  // a tail that hangs against the haunches leaves the body lower than its joint lies
  const seen = onMidline(addScaled(own[20], [0, 0.25, 1], 0.055 * height))
  const off = distance(seen, usualTail) / height
  put('tailBase', off < 0.05 ? seen : lerp(seen, usualTail, 0.75), off < 0.1 ? 0.65 : 0.5)
  put('tailMiddle', own[10], 0.8)
  put('tailTip', own[0], 0.9)
}

/** The first place where a limb bulges: larger than what follows within a few cuts; undefined where it only grows. */
function bulge(area: readonly number[], from: number, to: number): number | undefined {
  for (let i = from; i <= to; i++) {
    const after = area.slice(i + 1, i + 7)
    if (after.length === 6 && area[i] >= maxOf(area.slice(Math.max(0, i - 4), i + 1)) && area[i] > 1.06 * after[5])
      return i
  }
  return undefined
}

/** A line carried on past its last point. */
const inwards = (line: readonly Vec3[], by: number): Vec3 => {
  const last = line[line.length - 1]
  return addScaled(last, normalize(sub(last, line[Math.max(0, line.length - 6)])), by)
}

const onMidline = (p: Vec3): Vec3 =>
  Math.abs(p[0]) < 0.05 * Math.max(1e-9, Math.abs(p[1]) + Math.abs(p[2])) ? [0, p[1], p[2]] : p

function columnTop(voxels: Voxels, p: Vec3): Vec3 {
  let top = p
  for (let y = p[1]; ; y += voxels.size) {
    const s = nearestSolid(voxels, [p[0], y, p[2]], 0)
    if (s < 0) break
    top = cellCentre(voxels, s)
  }
  return add(top, [0, 0.5 * voxels.size, 0])
}

/** The point itself where it lies in the body, else the middle of the nearest flesh. */
function insideOf(voxels: Voxels, p: Vec3): Vec3 {
  const s = nearestSolid(voxels, p, 12)
  return s < 0 || distance(cellCentre(voxels, s), p) < 0.9 * voxels.size ? p : cellCentre(voxels, s)
}

/** The foremost point of a paw, on the ground. */
function pawTip(positions: Float32Array, middle: Vec3, ground: number, height: number): Vec3 {
  let best: Vec3 = [middle[0], ground, middle[2]]
  for (let i = 0; i < positions.length; i += 3) {
    if (
      positions[i] * middle[0] < 0 ||
      Math.abs(positions[i] - middle[0]) > 0.07 * height ||
      positions[i + 1] > ground + 0.08 * height ||
      Math.abs(positions[i + 2] - middle[2]) > 0.14 * height
    )
      continue
    if (positions[i + 2] > best[2]) best = [positions[i], positions[i + 1], positions[i + 2]]
  }
  return [best[0], Math.min(best[1], ground + 0.012 * height), best[2]]
}

const mean = (values: readonly number[]): number => values.reduce((a, b) => a + b, 0) / Math.max(1, values.length)
const indexOfMin = (v: readonly number[], from: number, to: number): number =>
  range(from, to, v.length).reduce((a, b) => (v[b] > 0 && v[b] < v[a] ? b : a))
const range = (from: number, to: number, n: number): number[] =>
  Array.from({ length: Math.max(1, Math.min(to, n) - Math.min(from, n - 1)) }, (_, i) => Math.min(from, n - 1) + i)

function refuse(why: string): ChiraxisError {
  return new ChiraxisError(
    'not-a-biped',
    `This body does not look like one that stands on four legs: ${why}. If it lies, set its up axis in Shape.`,
  )
}
