import { add, lerp, scale, seededRandom, type Vec3 } from '@chiraxis/core/math'
import { joinMeshes, meshOf, type Mesh } from '@chiraxis/core/mesh'
import type { Blob, BlobGroup } from '../figures/field'
import { fieldDistance } from '../figures/field'
import { colorAt, withEye } from '../figures/figure'
import { gridLines, surfaceNets } from '../figures/surface-nets'

/** What a head is like, as shares of its height from chin to crown. */
export interface HeadShape {
  /** Metres. */
  readonly height: number
  readonly width: number
  readonly depth: number
  /** How high eyes, base of the nose and line of the lips stand above the chin. */
  readonly eyes: number
  readonly nose: number
  readonly mouth: number
  /** From the midline to the middle of an eye, and the radius of an eyeball. */
  readonly apart: number
  readonly eye: number
  /** Half of the width of the mouth. */
  readonly mouthWidth: number
  /** How far the nose stands out. */
  readonly noseLength: number
  readonly lips: number
  readonly ears: number
  readonly brows: number
  /** Whether lips part over a mouth, and eyes lie behind lids. */
  readonly opens: boolean
  /** Radius of the neck. */
  readonly neck: number
}

/** An adult head: thirds of the face, an eye's width between the eyes (Farkas 1994, as the canon of drawing has it). */
export const HEAD: HeadShape = {
  height: 0.23,
  width: 0.66,
  depth: 0.84,
  eyes: 0.49,
  nose: 0.32,
  mouth: 0.21,
  apart: 0.14,
  eye: 0.056,
  mouthWidth: 0.115,
  noseLength: 0.1,
  lips: 0.028,
  ears: 1,
  brows: 1,
  opens: true,
  neck: 0.22,
}

/** Heads of all kinds: grown and young, drawn large-eyed or broad. */
export function anyHead(seed: number): HeadShape {
  const next = seededRandom(seed * 977 + 13)
  const about = (v: number, share: number): number => v * (1 + share * (2 * next() - 1))
  const young = next()
  const eyes = 0.5 - 0.08 * young + 0.02 * (2 * next() - 1)
  return {
    height: about(0.24, 0.15),
    width: about(0.68 + 0.12 * young, 0.06),
    depth: about(0.86, 0.06),
    eyes,
    nose: eyes * about(0.64, 0.05),
    mouth: eyes * about(0.41, 0.07),
    apart: about(0.145 + 0.02 * young, 0.08),
    eye: about(0.056 + 0.022 * young, 0.1),
    mouthWidth: about(0.115, 0.2),
    noseLength: about(0.1 - 0.05 * young, 0.2),
    lips: about(0.028, 0.25),
    ears: about(1, 0.25),
    brows: about(1, 0.4),
    opens: true,
    neck: about(0.2, 0.15),
  }
}

/** Linear colours of a head. */
export interface HeadColors {
  readonly skin: readonly [number, number, number]
  readonly lips: readonly [number, number, number]
  readonly brows: readonly [number, number, number]
}
const PLAIN: HeadColors = { skin: [0.6, 0.4, 0.3], lips: [0.5, 0.22, 0.18], brows: [0.2, 0.12, 0.08] }

export interface MadeHead {
  readonly mesh: Mesh
  /** True places by the names of face landmarks, metres. */
  readonly landmarks: Readonly<Record<string, Vec3>>
  readonly eyes: readonly { readonly centre: Vec3; readonly radius: number }[]
  readonly chin: Vec3
  readonly crown: Vec3
}

const AXES: readonly [Vec3, Vec3, Vec3] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
]

/** A head with a neck, standing upright with its chin at no height, looking ahead: lids, lips, a mouth behind them, teeth, a tongue. */
export function makeHead(shape: HeadShape, cell = 0.0105, colors: HeadColors = PLAIN): MadeHead {
  const H = shape.height
  const at = (x: number, y: number, z: number): Vec3 => [x * H, y * H, z * H]
  const ball = (a: Vec3, radii: Vec3, k = 0.03): Blob => ({
    shape: 'ellipsoid',
    a,
    b: a,
    ra: 0,
    rb: 0,
    axes: AXES,
    radii: scale(radii, H),
    k: k * H,
    role: 'head',
    color: colors.skin,
  })
  const cone = (a: Vec3, b: Vec3, ra: number, rb: number, k = 0.03, color = colors.skin): Blob => ({
    shape: 'cone',
    a,
    b,
    ra: ra * H,
    rb: rb * H,
    axes: AXES,
    radii: [1, 1, 1],
    k: k * H,
    role: 'head',
    color,
  })
  const { width, depth, eyes, nose, mouth, apart, eye, mouthWidth, noseLength, lips, brows, neck } = shape
  const front = 0.5 * depth - 0.05
  // where the face lies ahead at the height of the mouth
  const muzzle = front + 0.01
  const bones: Blob[] = [
    ball(at(0, 0.62, -0.04), [width / 2, 0.38, depth / 2]),
    ball(at(0, 0.27, 0.12), [0.4 * width, 0.26, front - 0.13], 0.08),
    ball(at(0, 0.06, front - 0.13), [0.1, 0.06, 0.09], 0.1),
    ball(at(0, mouth, front - 0.13), [0.17, 0.12, 0.13], 0.06),
    cone(at(0, -0.35, 0.01), at(0, 0.25, -0.08), neck, 0.92 * neck, 0.08),
    // bridge and tip of the nose
    cone(at(0, eyes + 0.03, front - 0.02), at(0, nose + 0.05, front + noseLength - 0.05), 0.028, 0.045, 0.05),
    ball(at(0.04, nose + 0.03, front + 0.25 * noseLength), [0.035, 0.032, 0.04], 0.03),
    ball(at(-0.04, nose + 0.03, front + 0.25 * noseLength), [0.035, 0.032, 0.04], 0.03),
    // lips
    cone(at(-0.7 * mouthWidth, mouth + 0.5 * lips, muzzle - 0.035), at(0.7 * mouthWidth, mouth + 0.5 * lips, muzzle - 0.035), lips, lips, 0.02, colors.lips), // prettier-ignore
    cone(
      at(0, mouth + 0.55 * lips, muzzle - 0.012),
      at(0, mouth + 0.5 * lips, muzzle - 0.012),
      lips,
      lips,
      0.03,
      colors.lips,
    ),
    cone(at(-0.55 * mouthWidth, mouth - 0.75 * lips, muzzle - 0.03), at(0.55 * mouthWidth, mouth - 0.75 * lips, muzzle - 0.03), lips, lips, 0.02, colors.lips), // prettier-ignore
  ]
  const eyeZ = front - 0.08
  const sides = [1, -1]
  for (const s of sides) {
    bones.push(
      cone(at(s * (apart - 0.9 * eye), eyes + 0.115, front - 0.05), at(s * (apart + 0.07), eyes + 0.11, front - 0.1), 0.035 * brows, 0.03 * brows, 0.05, colors.brows), // prettier-ignore
      ball(at(s * 0.165, eyes - 0.12, front - 0.17), [0.1, 0.07, 0.08], 0.1),
      ball(at(s * (width / 2 + 0.01), 0.44, -0.06), [0.035, 0.1 * shape.ears, 0.06 * shape.ears], 0.02),
    )
  }
  const groups: BlobGroup[] = [{ k: 0, blobs: bones }]
  const balls = sides.map(s => ({ centre: at(s * apart, eyes, eyeZ), radius: eye * H }))
  // sockets, then lids laid over the balls, then the balls' own room, then the slits between lids
  const slit = { wide: 1.05 * eye, high: 0.5 * eye }
  if (shape.opens) {
    groups.push({ k: 0.03 * H, carved: true, blobs: balls.map(b => ball(add(b.centre, [0, 0, 0.05 * H]), [1.1 * eye, 0.8 * eye, 0.06])) }) // prettier-ignore
    groups.push({ k: 0.02 * H, blobs: balls.map(b => ball(b.centre, [1.3 * eye, 1.3 * eye, 1.3 * eye], 0)) })
    groups.push({ k: 0, carved: true, blobs: balls.map(b => ball(b.centre, [1.04 * eye, 1.04 * eye, 1.04 * eye], 0)) })
    groups.push({ k: 0, carved: true, blobs: balls.map(b => ball(add(b.centre, [0, 0, 1.2 * eye * H]), [slit.wide, slit.high, 1.3 * eye], 0)) }) // prettier-ignore
    // a mouth: a low room behind the lips, reached by a slit between them
    groups.push({
      k: 0,
      carved: true,
      blobs: [
        ball(at(0, mouth, front - 0.17), [0.9 * mouthWidth, 0.06, 0.13], 0.01),
        ball(at(0, mouth, front - 0.08), [mouthWidth, 0.008, 0.16], 0),
      ],
    })
  } else
    groups.push({ k: 0.01 * H, carved: true, blobs: [ball(at(0, mouth, front + 0.01), [mouthWidth, 0.006, 0.05], 0)] })
  // finer where lids and lips are
  const step = cell * H
  const near = (t: number, [low, high]: readonly [number, number]): boolean => t > low * H && t < high * H
  const lidded = [eyes - 1.5 * eye, eyes + 1.5 * eye] as const
  const right = gridLines(0.31 * step, 0.62 * H, t => (t < (apart + 1.5 * eye) * H ? 0.72 * step : 1.3 * step))
  const net = surfaceNets(groups, [
    Float64Array.from([...Array.from(right, v => -v).reverse(), ...right]),
    gridLines(
      (-0.42 - neck) * H,
      1.1 * H,
      t =>
      near(t, [mouth - 0.03, mouth + 0.03]) ? 0.5 * step : near(t, lidded) ? 0.62 * step : near(t, [0, eyes + 0.2]) ? step : 1.6 * step, // prettier-ignore
    ),
    gridLines(-0.6 * H, 0.7 * H, t => (t > (eyeZ - 0.2 * eye) * H ? 0.72 * step : 1.5 * step)),
  ])
  const tints = new Float32Array(net.positions.length)
  for (let v = 0; v < tints.length; v += 3)
    tints.set(colorAt(groups.slice(0, 1), net.positions[v], net.positions[v + 1], net.positions[v + 2], 0.01 * H), v)
  const head: Mesh = {
    positions: net.positions,
    indices: net.indices,
    normals: net.normals,
    colors: tints,
    parts: [{ name: 'head', start: 0, count: net.indices.length, color: [1, 1, 1] }],
  }
  let seen: Mesh | undefined
  for (const b of balls) seen = withEye(seen, b.centre, b.radius)
  const pieces = shape.opens
    ? [
        seen!,
        bar('upper teeth', at(0, mouth + 0.032, front - 0.15), [0.75 * mouthWidth * H, 0.02 * H, 0.09 * H], IVORY),
        bar('lower teeth', at(0, mouth - 0.032, front - 0.155), [0.7 * mouthWidth * H, 0.02 * H, 0.085 * H], IVORY),
        bar('tongue', at(0, mouth - 0.02, front - 0.2), [0.5 * mouthWidth * H, 0.018 * H, 0.09 * H], [0.4, 0.12, 0.11]),
      ]
    : [seen!]
  // true places: where the surface lies ahead of a point of the drawing
  const ahead = (x: number, y: number): Vec3 => {
    let z = 0.75
    while (z > -0.6 && fieldDistance(groups, x * H, y * H, z * H) > 0) z -= 0.001
    return at(x, y, z)
  }
  const lid = (s: number, dx: number, dy: number): Vec3 =>
    ahead(s * apart + dx * 1.1 * slit.wide, eyes + dy * 1.15 * slit.high)
  const landmarks: Record<string, Vec3> = {
    noseTip: furthest(v => ahead(0, v), nose, nose + 0.12),
    noseBase: ahead(0, nose - 0.005),
    upperLip: ahead(0, mouth + 0.6 * lips),
    lowerLip: ahead(0, mouth - 0.8 * lips),
    chin: furthest(v => ahead(0, v), 0.01, 0.09),
  }
  for (const s of sides) {
    const side = s > 0 ? 'left' : 'right'
    const to = (part: string, p: Vec3): void => {
      landmarks[side + part] = p
    }
    to('EyeInner', lid(s, -s * 0.95, 0))
    to('EyeOuter', lid(s, s * 0.95, 0))
    to('UpperLid', lid(s, 0, 1))
    to('LowerLid', lid(s, 0, -1))
    to('BrowInner', ahead(s * (apart - 0.9 * eye), eyes + 0.115))
    to('BrowOuter', ahead(s * (apart + 0.07), eyes + 0.11))
    to('MouthCorner', ahead(s * mouthWidth, mouth))
    to('Ear', at(s * (width / 2 + 0.04), 0.44, -0.06))
    to('JawHinge', at(s * 0.42 * width, 0.44, 0.02))
  }
  return {
    mesh: joinMeshes([head, ...pieces]),
    landmarks,
    eyes: balls,
    chin: lerp(landmarks.chin, at(0, 0, front - 0.1), 1),
    crown: at(0, 1, -0.04),
  }
}

/** Of places on the midline between two heights, the one that lies furthest ahead. */
function furthest(of: (v: number) => Vec3, low: number, high: number): Vec3 {
  let best = of(low)
  for (let v = low; v <= high; v += 0.004) {
    const p = of(v)
    if (p[2] > best[2]) best = p
  }
  return best
}

/** An ellipsoid of rings as a piece of its own. */
function bar(name: string, centre: Vec3, radii: Vec3, color: Blob['color']): Mesh {
  const [rings, around] = [12, 20]
  const positions: number[] = []
  const indices: number[] = []
  for (let r = 0; r <= rings; r++)
    for (let a = 0; a < around; a++) {
      const [t, p] = [(Math.PI * r) / rings, (2 * Math.PI * a) / around]
      // ends are one point, to the bit
      const wide = r === 0 || r === rings ? 0 : Math.sin(t)
      positions.push(
        centre[0] + radii[0] * wide * Math.cos(p),
        centre[1] + radii[1] * wide * Math.sin(p),
        centre[2] + radii[2] * Math.cos(t),
      )
    }
  for (let r = 0; r < rings; r++)
    for (let a = 0; a < around; a++) {
      const [i, j] = [r * around + a, r * around + ((a + 1) % around)]
      // at the ends a ring is one point
      if (r < rings - 1) indices.push(i, i + around, j + around)
      if (r > 0) indices.push(i, j + around, j)
    }
  const colors = Float32Array.from(positions, (_, i) => color[i % 3])
  return { ...meshOf(Float32Array.from(positions), Uint32Array.from(indices), name), colors }
}
const IVORY = [0.72, 0.68, 0.56] as const
