import { perform } from '@chiraxis/core/perform'
import { transfer } from '@chiraxis/core/retarget'
import { recogniseRoles, worldPose } from '@chiraxis/core/skeleton'
import { bodySurfaceOf, usualSurface } from '@chiraxis/core/surface'
import { makeStranger, trueSkin, BUILD_KINDS, DRESS_KINDS } from '@chiraxis/demo/strangers'
import { MOVES, NORTH, record, SOUTH } from '@chiraxis/demo/takes'
import { surfaceOf } from './posed-surface'
const first = 31001
const i = Number(process.argv[2]),
  name = process.argv[3]
const k = MOVES.findIndex(m => m.name === name)
const stranger = await makeStranger(first + i, {
  build: BUILD_KINDS[i % BUILD_KINDS.length],
  dress: i % 2 ? DRESS_KINDS[i % DRESS_KINDS.length] : DRESS_KINDS[0],
  make: 'smooth pieces',
  stance: i % 3 === 0 ? 't-pose' : 'a-pose',
})
const { skeleton, skin } = trueSkin(stranger)
const joints = recogniseRoles(skeleton).joints
const surf = await bodySurfaceOf(stranger.mesh, skeleton, skin, joints)
const S = surfaceOf({ mesh: stranger.mesh, skeleton, skin, height: stranger.height })
const rec = record(MOVES[k], (i + k) % 2 ? NORTH : SOUTH, 30)
const plain = await transfer(rec.skeleton, rec.take, skeleton)
const base = {
  asPerformed: true,
  rest: 'auto' as const,
  ground: true,
  limits: true,
  girdle: false,
  hands: 1,
  elbowRoom: 0.005,
}
const done = await perform(rec.skeleton, rec.take, skeleton, {
  surface: surf,
  settings: { ...base, ...JSON.parse(process.argv[4] ?? '{}') },
})
const H = stranger.height,
  J = skeleton.names.length
const roles = skeleton.names.map((_, j) => {
  for (let p = j; p >= 0; p = skeleton.parents[p]) if (skeleton.roles[p]) return skeleton.roles[p]!
  return ''
})
const owner = (v: number) => roles[skin.joints[v * skin.influences]]
for (let f = 0; f < rec.take.frames; f += Number(process.argv[5] ?? 6)) {
  const a = S.posed(plain.take, f),
    b = S.posed(done.take, f)
  const low = (x: Float32Array) => {
    let m = Infinity,
      at = 0
    for (let v = 0; v < x.length / 3; v++)
      if (x[3 * v + 1] < m) {
        m = x[3 * v + 1]
        at = v
      }
    return `${((100 * m) / H).toFixed(1)} ${owner(at)}`
  }
  const p = worldPose(skeleton, plain.take.translations, plain.take.rotations, f * J),
    q = worldPose(skeleton, done.take.translations, done.take.rotations, f * J)
  const off = (r: string) =>
    (
      (100 / H) *
      Math.hypot(
        ...[0, 1, 2].map(
          c =>
            p.positions[3 * joints[r] + c] -
            p.positions[3 * joints.hips + c] -
            q.positions[3 * joints[r] + c] +
            q.positions[3 * joints.hips + c],
        ),
      )
    ).toFixed(1)
  const dp = S.armDepth(a),
    dd = S.armDepth(b)
  console.log(
    f,
    'low plain',
    low(a),
    'done',
    low(b),
    'hands off',
    off('leftHand'),
    off('rightHand'),
    'depth',
    ((100 * dp.left) / H).toFixed(2),
    ((100 * dp.right) / H).toFixed(2),
    '->',
    ((100 * dd.left) / H).toFixed(2),
    ((100 * dd.right) / H).toFixed(2),
    'hipsdy',
    ((100 / H) * (q.positions[3 * joints.hips + 1] - p.positions[3 * joints.hips + 1])).toFixed(1),
    'together',
    done.handContacts?.together[f].toFixed(2),
    'L',
    done.handContacts?.body.left.weight[f].toFixed(2),
    done.handContacts?.body.left.place[f],
    'R',
    done.handContacts?.body.right.weight[f].toFixed(2),
    done.handContacts?.body.right.place[f],
  )
}
if (process.env.ARM) {
  const { sampleArms, nearestPlace } = await import('../core/src/correct/arm-samples')
  const { clearOf } = await import('../core/src/surface')
  void clearOf
  const played = { skeleton, joints, take: plain.take, frame: plain.figureFrame }
  const seen = sampleArms(played, surf.radii)
  const arm = seen.arms.left!
  const n = arm.radii.length
  const found = { clear: 0, sample: 0, x: 0, y: 0, z: 0 }
  nearestPlace(found, seen, 0, arm, 0, arm.places.subarray(3, 3 + 3 * n), 0.3)
  surf.exact!.pose(worldPose(skeleton, plain.take.translations, plain.take.rotations, 0))
  const hit = { distance: 0, x: 0, y: 0, z: 0 }
  console.log('tables', found, 'radii', [...arm.radii].map(r => ((100 * r) / H).toFixed(2)).join())
  for (let m = 0; m < n; m++) {
    surf.exact!.distanceTo(
      hit,
      seen.parts.map(p => p.joint),
      arm.places[0] + arm.places[3 + 3 * m],
      arm.places[1] + arm.places[4 + 3 * m],
      arm.places[2] + arm.places[5 + 3 * m],
    )
    console.log(
      m,
      'exact',
      ((100 * hit.distance) / H).toFixed(2),
      'clear',
      ((100 * (hit.distance - arm.radii[m])) / H).toFixed(2),
    )
  }
  const us = usualSurface(rec.skeleton, done.performer.joints, done.performerFrame)
  const ts = sampleArms(
    { skeleton: rec.skeleton, joints: done.performer.joints, take: rec.take, frame: done.performerFrame },
    us.radii,
  )
  const ta = ts.arms.left!
  nearestPlace(found, ts, 0, ta, 0, ta.places.subarray(3, 3 + 3 * n), 300)
  console.log('performer', found, 'scale', done.travel.scale, 'radii', [...ta.radii])
}
{
  const { angleOf, quatAt } = await import('@chiraxis/core/math')
  const worst: [number, string, number, number][] = []
  for (let j = 0; j < J; j++) {
    let m = 0,
      at = 0,
      x = 0
    for (let f = 1; f < done.take.frames; f++) {
      const d = angleOf(quatAt(done.take.rotations, f * J + j), quatAt(done.take.rotations, (f - 1) * J + j)) * 30
      const p = angleOf(quatAt(plain.take.rotations, f * J + j), quatAt(plain.take.rotations, (f - 1) * J + j)) * 30
      x = Math.max(x, p)
      if (d > m) {
        m = d
        at = f
      }
    }
    worst.push([m / Math.max(1, x), skeleton.names[j], at, m])
  }
  worst.sort((a, b) => b[0] - a[0])
  console.log(
    'fast',
    worst
      .slice(0, 5)
      .map(w => `${w[1]} x${w[0].toFixed(1)} at ${w[2]} (${w[3].toFixed(1)} rad/s)`)
      .join('; '),
  )
}
if (process.env.HAND) {
  const { findHandContacts, } = await import('../core/src/correct/hand-contacts')
  const us = usualSurface(rec.skeleton, done.performer.joints, done.performerFrame)
  const c = findHandContacts({ skeleton: rec.skeleton, joints: done.performer.joints, take: rec.take, frame: done.performerFrame }, us.radii)
  const { PLACES } = await import('../core/src/correct/hand-contacts')
  for (const f of process.env.HAND.split(',').map(Number)) for (const side of ['left', 'right'] as const) {
    const p = c.body[side].place[f]
    console.log('hand', f, side, PLACES[p], c.body[side].weight[f], [...(c.hands?.on[side].subarray(4 * f, 4 * f + 4) ?? [])].map(x => x.toFixed(3)).join(' '), 'bone theirs', us.radii[PLACES[p]]?.bone.toFixed(2), 'ours', surf.radii[PLACES[p]]?.bone.toFixed(3), 'low/high', surf.radii[PLACES[p]]?.low.toFixed(2), surf.radii[PLACES[p]]?.high.toFixed(2), 'scale', done.travel.scale)
    const a = worldPose(skeleton, plain.take.translations, plain.take.rotations, f * J), b = worldPose(skeleton, done.take.translations, done.take.rotations, f * J)
    const w = 3 * joints[`${side}Hand`], h = 3 * joints.hips
    console.log('   plain', [0, 1, 2].map(k => ((a.positions[w + k] - a.positions[h + k]) / H * 100).toFixed(1)).join(' '), 'done', [0, 1, 2].map(k => ((b.positions[w + k] - b.positions[h + k]) / H * 100).toFixed(1)).join(' '))
  }
}
