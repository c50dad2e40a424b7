/**
 * What the corrections of a transfer do to good takes. First every take of the demo, carried exactly onto a made body, is
 * carried onto that same body again with all defaults: it must come back as it was. Then recordings of other performers are
 * carried onto made bodies: hands against plain carrying, the speed of joints, resting feet, soles and bodies on the ground,
 * all told from the surface posed vertex by vertex.
 * `npx tsx bench/do-no-harm.ts [bodies] [first seed]`
 */
import { writeFileSync } from 'node:fs'
import { angleOf, quatAt } from '@chiraxis/core/math'
import type { Take } from '@chiraxis/core/motion'
import { perform, TRANSFER_DEFAULTS } from '@chiraxis/core/perform'
import { transfer } from '@chiraxis/core/retarget'
import { recogniseRoles, worldPose, type Skeleton } from '@chiraxis/core/skeleton'
import { bodySurfaceOf } from '@chiraxis/core/surface'
import { makeStranger, trueSkin, BUILD_KINDS, DRESS_KINDS } from '@chiraxis/demo/strangers'
import { MOVES, NORTH, record, SOUTH } from '@chiraxis/demo/takes'
import { surfaceOf } from './posed-surface'

const bodies = Number(process.argv[2] ?? 9)
const first = Number(process.argv[3] ?? 31_001)
const only = process.env.MOVE
const moves = MOVES.filter(m => !only || m.name === only)
const LOOKS = 14

interface Row {
  move: string
  body: string
  selfDegrees: number
  selfMillimetres: number
  /** Shares of height. */
  hands: number
  collided: number
  faster: number
  soleLow: number
  bodyLow: number
  depthPlain: number
  depth: number
}

function apart(s: Skeleton, a: Take, b: Take): { degrees: number; metres: number } {
  const J = s.names.length
  let degrees = 0,
    metres = 0
  for (let f = 0; f < a.frames; f++) {
    const p = worldPose(s, a.translations, a.rotations, f * J),
      q = worldPose(s, b.translations, b.rotations, f * J)
    for (let j = 0; j < J; j++) {
      degrees = Math.max(degrees, angleOf(quatAt(p.rotations, j), quatAt(q.rotations, j)))
      metres = Math.max(metres, Math.hypot(...[0, 1, 2].map(k => p.positions[3 * j + k] - q.positions[3 * j + k])))
    }
  }
  return { degrees: (degrees * 180) / Math.PI, metres }
}

/** By joint, its fastest turn against its parent, radians a second. */
function speeds(t: Take): Float64Array {
  const J = t.rotations.length / (4 * t.frames)
  const out = new Float64Array(J)
  for (let f = 1; f < t.frames; f++)
    for (let j = 0; j < J; j++)
      out[j] = Math.max(out[j], angleOf(quatAt(t.rotations, f * J + j), quatAt(t.rotations, (f - 1) * J + j)) * t.fps)
  return out
}

const rows: Row[] = []
for (let i = 0; i < bodies; i++) {
  const seed = first + i
  const stranger = await makeStranger(seed, {
    build: BUILD_KINDS[i % BUILD_KINDS.length],
    dress: i % 2 ? DRESS_KINDS[i % DRESS_KINDS.length] : DRESS_KINDS[0],
    make: 'smooth pieces',
    stance: i % 3 === 0 ? 't-pose' : 'a-pose',
  })
  const { skeleton, skin, natures } = trueSkin(stranger)
  const flesh = natures.flatMap((n, v) => (n === 'cloth' ? [] : [v]))
  const joints = recogniseRoles(skeleton).joints
  const surfaceOfBody = await bodySurfaceOf(stranger.mesh, skeleton, skin, joints)
  const surface = surfaceOf({ mesh: stranger.mesh, skeleton, skin, height: stranger.height })
  const rest = stranger.mesh.positions
  const floor = Math.min(surface.lowest(rest, surface.soles.left), surface.lowest(rest, surface.soles.right))
  const H = stranger.height
  for (const [k, move] of moves.entries()) {
    const recorded = record(move, (i + k) % 2 ? NORTH : SOUTH, 30)
    const plain = await transfer(recorded.skeleton, recorded.take, skeleton)
    const again = await perform(skeleton, plain.take, skeleton, { surface: surfaceOfBody })
    const self = apart(skeleton, plain.take, again.take)
    const done = await perform(recorded.skeleton, recorded.take, skeleton, {
      surface: surfaceOfBody,
      settings: TRANSFER_DEFAULTS,
    })
    const J = skeleton.names.length
    const at = (t: Take, f: number) => worldPose(skeleton, t.translations, t.rotations, f * J)
    let hands = 0,
      collided = 0,
      depth = 0,
      depthPlain = 0,
      soleLow = Infinity,
      bodyLow = Infinity
    const deep: Record<string, number[]> = { left: [], right: [] }
    const off: Record<string, number[]> = { left: [], right: [] }
    for (let l = 0; l < LOOKS; l++) {
      const f = Math.round((l * (plain.take.frames - 1)) / (LOOKS - 1))
      const a = at(plain.take, f),
        b = at(done.take, f)
      const before = surface.posed(plain.take, f),
        after = surface.posed(done.take, f)
      const dp = surface.armDepth(before),
        dd = surface.armDepth(after)
      for (const side of ['left', 'right'] as const) {
        // hands told from the hips, which feet on the ground may move
        const w = joints[`${side}Hand`],
          h = joints.hips
        const d = Math.hypot(
          ...[0, 1, 2].map(
            c => a.positions[3 * w + c] - a.positions[3 * h + c] - b.positions[3 * w + c] + b.positions[3 * h + c],
          ),
        )
        off[side].push(d / H)
        deep[side].push(dp[side] / H)
        depthPlain = Math.max(depthPlain, dp[side] / H)
        depth = Math.max(depth, dd[side] / H)
      }
      for (const side of ['left', 'right'] as const)
        soleLow = Math.min(soleLow, (surface.lowest(after, surface.soles[side]) - floor) / H)
      bodyLow = Math.min(bodyLow, (surface.lowest(after, flesh) - floor) / H)
    }
    // opening eases in and out around a collision: what lies within half a second of one counts with it
    const around = Math.ceil((0.6 * (LOOKS - 1) * plain.take.fps) / plain.take.frames)
    for (const side of ['left', 'right'] as const)
      off[side].forEach((d, l) => {
        const near = deep[side].slice(Math.max(0, l - around), l + around + 1)
        if (near.some(v => v > 0.004)) collided = Math.max(collided, d)
        else hands = Math.max(hands, d)
      })
    const v = speeds(plain.take),
      w = speeds(done.take)
    let faster = 0
    v.forEach((x, j) => (faster = Math.max(faster, w[j] / Math.max(x, 1))))
    rows.push({
      move: move.name,
      body: `${stranger.build}${stranger.dress ? ` ${stranger.dress}` : ''} ${seed}`,
      selfDegrees: self.degrees,
      selfMillimetres: 1000 * self.metres,
      hands,
      collided,
      faster,
      soleLow,
      bodyLow,
      depthPlain,
      depth,
    })
  }
}

const worst = (list: Row[], of: (r: Row) => number, low = false): string => {
  const r = list.reduce((a, b) => ((low ? of(b) < of(a) : of(b) > of(a)) ? b : a))
  return `${of(r).toFixed(2)} (${r.body.replace(/ \d+$/, '')})`
}
const lines = [
  '| take | own skeleton: degrees | mm | hands off plain carrying, no collision, % | with one, % | joint faster, times | lowest of soles, % | lowest of body, % (mean) | arms in body before, % mean | after, % mean |',
  '|---|---|---|---|---|---|---|---|---|---|',
]
const mean = (list: Row[], of: (r: Row) => number): string =>
  (list.reduce((s, r) => s + of(r), 0) / list.length).toFixed(2)
for (const name of [...moves.map(m => m.name), '']) {
  const own = rows.filter(r => name === '' || r.move === name)
  lines.push(
    `| ${name || 'all'} | ${worst(own, r => r.selfDegrees)} | ${worst(own, r => r.selfMillimetres)} | ${worst(own, r => 100 * r.hands)} | ${worst(own, r => 100 * r.collided)} | ${worst(own, r => r.faster)} | ${worst(own, r => 100 * r.soleLow, true)} | ${worst(own, r => 100 * r.bodyLow, true)} ${mean(own, r => 100 * r.bodyLow)} | ${mean(own, r => 100 * r.depthPlain)} | ${mean(own, r => 100 * r.depth)} |`,
  )
}
console.log(lines.join('\n'))
if (!only)
  writeFileSync(
    'bench/results/do-no-harm.md',
    `# What corrections do to good takes\n\n${bodies} made bodies from seed ${first}, ${moves.length} takes; the worst of each and its body. Lengths are shares of height. "Own skeleton": the take carried exactly onto the body, then onto it again with all defaults. The rest: recordings of another performer, all defaults, looked at ${LOOKS} times a take on the surface posed vertex by vertex.\n\n${lines.join('\n')}\n`,
  )
