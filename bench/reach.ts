/**
 * The solver over all joints against the 3D library's own cyclic coordinate descent, both on the same skeleton and places in one
 * run, taken in turn, best against best; and how a drag with four holds goes. `npx tsx bench/reach.ts`
 */
import { mkdirSync, writeFileSync } from 'node:fs'
import { CCDIKSolver } from 'three/examples/jsm/animation/CCDIKSolver.js'
import type { Bone } from 'three'
import {
  fromAxisAngle,
  multiply,
  normalize,
  quatAt,
  seededRandom,
  setQuat,
  vec3At,
  type Vec3,
} from '@chiraxis/core/math'
import { createFigureSolver, restingPose, type Goal } from '@chiraxis/core/reach'
import { copyOf, limbReach, limbsOfSet } from '@chiraxis/core/handles'
import { skeletonFromWorld, worldPose, type Skeleton } from '@chiraxis/core/skeleton'
import { makeFigure, ODA, trueSkeleton } from '@chiraxis/demo/figures'
import { threeMesh } from './speed/three-mesh'

const body = trueSkeleton(makeFigure(ODA, { vertices: 2000 }))
/** The same with a hem of loose joints, so that it has as many as a game's figure. */
const skeleton = ((): Skeleton => {
  const w = worldPose(body)
  const joints = body.names.map((name, j) => ({
    name,
    role: body.roles[j],
    parent: body.parents[j],
    position: vec3At(w.positions, j),
    rotation: quatAt(w.rotations, j),
  }))
  for (let i = joints.length; i < 65; i++)
    joints.push({
      name: `hem${i}`,
      role: undefined,
      parent: i % 3 === 0 || joints.length === body.names.length ? 0 : i - 1,
      position: [0.1, 0.8 - 0.01 * i, 0],
      rotation: [0, 0, 0, 1],
    })
  return skeletonFromWorld(joints)
})()
const J = skeleton.names.length
const joints = Object.fromEntries(skeleton.roles.flatMap((r, j) => (r ? [[r, j]] : [])))
const solver = createFigureSolver(skeleton, joints, [0, 0, 0, 1])
const rest = restingPose(skeleton)
const atRest = worldPose(skeleton)

/** Places of ends in poses that the figure can take. */
function targets(count: number, seed: number, ends: readonly string[], turned: readonly string[]): Vec3[][] {
  const random = seededRandom(seed)
  return Array.from({ length: count }, () => {
    const R = skeleton.restRotations.slice()
    for (const role of turned) {
      const by = fromAxisAngle(normalize([random() - 0.5, random() - 0.5, random() - 0.5]), 0.9 * random())
      setQuat(R, joints[role], multiply(quatAt(R, joints[role]), by))
    }
    const w = worldPose(skeleton, skeleton.restTranslations, R)
    return ends.map(e => vec3At(w.positions, joints[e]))
  })
}
const ARM = ['rightLowerArm', 'rightUpperArm', 'rightShoulder', 'upperChest', 'chest', 'spine']
const CASES: { name: string; ends: string[]; chains: string[][]; limb?: true }[] = [
  { name: 'one hand, the arm alone', ends: ['rightHand'], chains: [ARM.slice(0, 2)], limb: true },
  { name: 'one hand, arm and trunk', ends: ['rightHand'], chains: [ARM] },
  {
    name: 'two hands and two feet',
    ends: ['rightHand', 'leftHand', 'rightFoot', 'leftFoot'],
    chains: [
      ARM,
      ARM.map(r => r.replace('right', 'left')),
      ['rightLowerLeg', 'rightUpperLeg'],
      ['leftLowerLeg', 'leftUpperLeg'],
    ],
  },
]
const NEAR = 0.001
/** The arm alone: two bones, in closed form. */
const arms = limbsOfSet(skeleton, joints, [0, 0, 0, 1], j => vec3At(atRest.positions, j)).filter(l => !l.leg)
const limbs = limbReach(skeleton, arms)
function closed(ends: readonly string[], places: Vec3[][]): Outcome {
  let ms = 0,
    met = 0,
    worst = 0
  for (const wanted of places) {
    const pose = copyOf(rest)
    const start = performance.now()
    const off = ends.reduce(
      (most, e, i) =>
        Math.max(
          most,
          limbs.to(
            pose,
            arms.find(a => a.ref === e)!,
            { place: wanted[i], firm: true },
          ),
        ),
      0,
    )
    ms += performance.now() - start
    worst = Math.max(worst, off)
    if (off <= NEAR) met++
  }
  return { ms: ms / places.length, met: met / places.length, rounds: 1, off: worst }
}

/** Milliseconds, share of targets met within a millimetre, and rounds, of one way over all targets. */
interface Outcome {
  ms: number
  met: number
  rounds: number
  off: number
}
function library(ends: readonly string[], chains: readonly string[][], places: Vec3[][]): Outcome {
  const mesh = threeMesh(skeleton)
  const bones = mesh.skeleton.bones
  const goals = ends.map(() => bones[0].clone(false) as Bone)
  const first = bones.length
  goals.forEach(g => bones.push(g))
  const iks = ends.map((e, i) => ({
    effector: joints[e],
    target: first + i,
    links: chains[i].map(r => ({ index: joints[r] })),
    iteration: 1,
  }))
  const ccd = new CCDIKSolver(mesh, iks as never)
  let ms = 0,
    met = 0,
    rounds = 0,
    worst = 0
  for (const wanted of places) {
    for (let j = 0; j < J; j++) bones[j].quaternion.fromArray(skeleton.restRotations, 4 * j)
    mesh.updateMatrixWorld(true)
    goals.forEach((g, i) => g.matrixWorld.makeTranslation(...wanted[i]))
    const start = performance.now()
    let off = Infinity
    for (let i = 0; i < 300 && off > NEAR; i++) {
      ccd.update()
      rounds++
      off = 0
      ends.forEach((e, k) => {
        const m = bones[joints[e]].matrixWorld.elements
        off = Math.max(off, Math.hypot(m[12] - wanted[k][0], m[13] - wanted[k][1], m[14] - wanted[k][2]))
      })
    }
    ms += performance.now() - start
    worst = Math.max(worst, off)
    if (off <= NEAR) met++
  }
  return { ms: ms / places.length, met: met / places.length, rounds: rounds / places.length, off: worst }
}
function ours(ends: readonly string[], places: Vec3[][]): Outcome {
  let ms = 0,
    met = 0,
    rounds = 0,
    worst = 0
  // the library's does not move the hips: neither does ours
  const hips: Goal = {
    joint: joints.hips,
    place: vec3At(atRest.positions, joints.hips),
    turn: quatAt(atRest.rotations, joints.hips),
    strength: 'hold',
  }
  for (const wanted of places) {
    const goals = ends.map((e, i): Goal => ({ joint: joints[e], place: wanted[i], strength: 'pull' }))
    const start = performance.now()
    const found = solver.solve(rest, [hips, ...goals])
    ms += performance.now() - start
    rounds += found.rounds
    const w = worldPose(skeleton, found.translations, found.rotations)
    let off = 0
    ends.forEach((e, k) => {
      const p = vec3At(w.positions, joints[e])
      off = Math.max(off, Math.hypot(p[0] - wanted[k][0], p[1] - wanted[k][1], p[2] - wanted[k][2]))
    })
    worst = Math.max(worst, off)
    if (off <= NEAR) met++
  }
  return { ms: ms / places.length, met: met / places.length, rounds: rounds / places.length, off: worst }
}

const races = CASES.map(({ name, ends, chains, limb }) => {
  const places = targets(200, 7, ends, [...new Set(chains.flat())])
  let best: { library?: Outcome; ours?: Outcome } = {}
  for (let i = 0; i < 20; i++) {
    const [l, o] = [library(ends, chains, places), limb ? closed(ends, places) : ours(ends, places)]
    best = {
      library: best.library && best.library.ms < l.ms ? best.library : l,
      ours: best.ours && best.ours.ms < o.ms ? best.ours : o,
    }
  }
  const told = ({ ms, met, rounds, off }: Outcome): object => ({
    msATarget: Math.round(1000 * ms) / 1000,
    metWithinAMillimetre: Math.round(1000 * met) / 1000,
    rounds: Math.round(10 * rounds) / 10,
    farthestOffMillimetres: Math.round(1e5 * off) / 100,
  })
  return {
    case: name,
    library: told(best.library!),
    ours: told(best.ours!),
    ratio: Math.round((10 * best.library!.ms) / best.ours!.ms) / 10,
  }
})

/** A hand is led around the body while both feet, the head and the other hand are held; each step begins where the last one ended. */
function drag(from: Vec3, seed: number): { ms: number[]; held: number; off: number; farthest: number } {
  const random = seededRandom(seed)
  const hold = (role: string): Goal => ({
    joint: joints[role],
    place: vec3At(atRest.positions, joints[role]),
    turn: quatAt(atRest.rotations, joints[role]),
    strength: 'hold',
  })
  const holds = [hold('leftFoot'), hold('rightFoot'), hold('head'), hold('leftHand')]
  let start: ReturnType<typeof solver.solve> | undefined
  const out = { ms: [] as number[], held: 0, off: 0, farthest: 0 }
  const way = normalize([random() - 0.5, random() - 0.5, random()])
  for (let i = 0; i < 120; i++) {
    const d = 0.5 * Math.sin(i / 30)
    const place: Vec3 = [from[0] + d * way[0], from[1] + d * way[1], from[2] + d * way[2]]
    const before = performance.now()
    const found = solver.solve(rest, [...holds, { joint: joints.rightHand, place, strength: 'pull' }], { start })
    out.ms.push(performance.now() - before)
    found.residuals.slice(0, 4).forEach(r => {
      out.held = Math.max(out.held, r.place)
    })
    out.off = Math.max(out.off, found.residuals[4].place)
    start = found
  }
  return out
}
const drags = Array.from({ length: 40 }, (_, i) => drag(vec3At(atRest.positions, joints.rightHand), i + 1)).slice(10)
const steps = drags.flatMap(d => d.ms).sort((a, b) => a - b)
const dragging = {
  joints: J,
  holds: 4,
  medianMs: Math.round(1000 * steps[steps.length >> 1]) / 1000,
  ms99: Math.round(1000 * steps[Math.floor(0.99 * steps.length)]) / 1000,
  farthestHoldMillimetres: Math.round(1e6 * drags.reduce((m, d) => Math.max(m, d.held), 0)) / 1000,
}
const report = { races, dragging }
mkdirSync('bench/results', { recursive: true })
writeFileSync('bench/results/reach.json', `${JSON.stringify(report, undefined, 2)}\n`)
console.log(JSON.stringify(report, undefined, 2))
