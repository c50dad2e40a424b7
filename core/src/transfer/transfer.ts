import { breather, ChiraxisError, conjugate, multiply, quatAt, rotate, vec3At, type Quat, type WorkOptions } from '../math'
import type { Take } from '../motion'
import { recogniseRoles, worldPose, type RoleReading, type Skeleton } from '../skeleton'
import { bodyFrame, framedPositions } from './body-frame'
import { matchRests, restStance } from './rest-match'
import { chainShares, type ChainShare } from './chain-shares'
import { travelScale, type Travel } from './travel'

export interface TransferOptions extends WorkOptions {
  /** Joint names of performer and figure by role, in place of what is recognised. */
  readonly map?: { readonly performer?: Readonly<Record<string, string>>; readonly figure?: Readonly<Record<string, string>> }
  /** `auto` brings the two rest poses together limb by limb; `none` takes them as they are. Default auto. */
  readonly rest?: 'auto' | 'none'
}

export interface Transferred {
  readonly take: Take
  /** Performer joint name for every figure joint that was given one. */
  readonly roleMap: Readonly<Record<string, string>>
  readonly performer: RoleReading
  readonly figure: RoleReading
  /** By role, the angle in degrees between the two rest poses that was taken out. */
  readonly restMatch: Readonly<Record<string, number>>
  readonly travel: Travel
}

/**
 * Carries a take from the performer's skeleton onto the figure's. What is carried is each limb's turn
 * away from rest in the body's own frame, so that joint axes, up axis and unit of either side do not
 * matter; rest poses are matched limb by limb; spines and necks with other joint counts share the turn
 * along their length; travel is scaled by leg length.
 *
 * Per frame: W_figure = C · W_performer · K with K = W_performer(rest)⁻¹ C⁻¹ M⁻¹ W_figure(rest),
 * C the performer's body frame and M the rest match, so one product a joint beside kinematics.
 * @throws ChiraxisError `no-roles` where performer or figure cannot be read as a biped
 */
export async function transfer(performer: Skeleton, take: Take, figure: Skeleton, options: TransferOptions = {}): Promise<Transferred> {
  const pulse = breather(options)
  const pr = withMap(performer, options.map?.performer, 'performer')
  const fr = withMap(figure, options.map?.figure, 'figure')
  for (const [who, r] of [['performer', pr], ['figure', fr]] as const) {
    if (r.missing.length > 0) throw new ChiraxisError('no-roles', `The ${who}'s skeleton lacks ${list(r.missing)}; name these joints in the role map and try again.`, { missing: r.missing })
  }
  const pFrame = bodyFrame(performer, pr.joints)
  const fFrame = bodyFrame(figure, fr.joints)
  const match = options.rest === 'none' ? {} : matchRests(restStance(figure, fr.joints, fFrame), restStance(performer, pr.joints, pFrame))
  const pRest = worldPose(performer)
  const fRest = worldPose(figure)
  const P = performer.names.length
  const F = figure.names.length

  // what each figure joint follows: one performer joint, or a place between two along a chain
  const follow: (ChainShare | undefined)[] = new Array<ChainShare | undefined>(F).fill(undefined)
  for (const [role, j] of Object.entries(fr.joints)) {
    if (pr.joints[role] !== undefined) follow[j] = { a: pr.joints[role], b: pr.joints[role], t: 0 }
  }
  for (const share of chainShares(figure, fr.joints, performer, pr.joints)) follow[share.joint] = share
  const roleOf = new Map(Object.entries(fr.joints).map(([r, j]) => [j, r]))

  const a = new Int32Array(F).fill(-1), b = new Int32Array(F).fill(-1)
  const t = new Float64Array(F)
  const ka = new Float64Array(4 * F), kb = new Float64Array(4 * F)
  const constant = (p: number, j: number): Quat => {
    const m = match[roleOf.get(j) ?? '']
    let k: Quat = multiply(conjugate(quatAt(pRest.rotations, p)), conjugate(pFrame))
    if (m) k = multiply(k, conjugate(m))
    return multiply(multiply(k, fFrame), quatAt(fRest.rotations, j))
  }
  follow.forEach((share, j) => {
    if (!share) return
    a[j] = share.a
    b[j] = share.b
    t[j] = share.t
    ka.set(constant(share.a, j), 4 * j)
    kb.set(constant(share.b, j), 4 * j)
  })

  const travel = travelScale(performer, pr.joints, pFrame, take, figure, fr.joints, fFrame)
  const rotations = new Float32Array(4 * F * take.frames)
  const translations = new Float32Array(3 * F * take.frames)
  const hipsP = pr.joints.hips
  const hipsF = fr.joints.hips
  const toFigure = multiply(conjugate(fFrame), pFrame)
  const pHips = framedPositions(performer, pFrame)[hipsP]
  const fHips = framedPositions(figure, fFrame)[hipsF]
  const pw = new Float64Array(4 * P)
  const pp = new Float64Array(3 * P)
  const fw = new Float64Array(4 * F)
  const fp = new Float64Array(3 * F)
  const scratch = new Float64Array(4)
  const pParents = performer.parents, fParents = figure.parents
  const restT = figure.restTranslations, restR = figure.restRotations
  const onHipsPath = pathTo(performer, hipsP)
  const onFigurePath = pathTo(figure, hipsF)
  const [cx, cy, cz, cw] = toFigure

  for (let f = 0; f < take.frames; f++) {
    if ((f & 255) === 0) await pulse(f / take.frames)
    // performer, already turned into the figure's space
    for (let j = 0; j < P; j++) {
      const r = 4 * (f * P + j)
      const bx = take.rotations[r], by = take.rotations[r + 1], bz = take.rotations[r + 2], bw = take.rotations[r + 3]
      const p = pParents[j]
      let ax = cx, ay = cy, az = cz, aw = cw
      if (p >= 0) {
        ax = pw[4 * p]
        ay = pw[4 * p + 1]
        az = pw[4 * p + 2]
        aw = pw[4 * p + 3]
      }
      const o = 4 * j
      pw[o] = aw * bx + ax * bw + ay * bz - az * by
      pw[o + 1] = aw * by - ax * bz + ay * bw + az * bx
      pw[o + 2] = aw * bz + ax * by - ay * bx + az * bw
      pw[o + 3] = aw * bw - ax * bx - ay * by - az * bz
      if (onHipsPath[j]) {
        const q = 3 * (f * P + j)
        turnInto(pp, j, ax, ay, az, aw, take.translations[q], take.translations[q + 1], take.translations[q + 2], p)
      }
    }
    const hx = pp[3 * hipsP], hy = pp[3 * hipsP + 1], hz = pp[3 * hipsP + 2]
    for (let j = 0; j < F; j++) {
      const o = 4 * j
      const out = 4 * (f * F + j)
      const p = fParents[j]
      if (a[j] < 0) {
        // nobody plays this joint: it keeps its rest turn on its parent
        const x = restR[o], y = restR[o + 1], z = restR[o + 2], w = restR[o + 3]
        rotations[out] = x
        rotations[out + 1] = y
        rotations[out + 2] = z
        rotations[out + 3] = w
        if (p < 0) fw.set([x, y, z, w], o)
        else product(fw, o, fw, 4 * p, restR, o)
      } else {
        product(fw, o, pw, 4 * a[j], ka, o)
        if (t[j] > 0) {
          mix(fw, o, pw, 4 * b[j], kb, o, t[j], scratch)
        }
        const x = fw[o], y = fw[o + 1], z = fw[o + 2], w = fw[o + 3]
        if (p < 0) {
          rotations[out] = x
          rotations[out + 1] = y
          rotations[out + 2] = z
          rotations[out + 3] = w
        } else {
          const ix = -fw[4 * p], iy = -fw[4 * p + 1], iz = -fw[4 * p + 2], iw = fw[4 * p + 3]
          rotations[out] = iw * x + ix * w + iy * z - iz * y
          rotations[out + 1] = iw * y - ix * z + iy * w + iz * x
          rotations[out + 2] = iw * z + ix * y - iy * x + iz * w
          rotations[out + 3] = iw * w - ix * x - iy * y - iz * z
        }
      }
    }
    translations.set(restT, 3 * f * F)
    placeHips(f, hx, hy, hz)
  }

  /** Puts the figure's hips where the scaled travel wants them, told to their parent. */
  function placeHips(f: number, hx: number, hy: number, hz: number): void {
    const framed = rotate(fFrame, [hx, hy, hz])
    const target = rotate(conjugate(fFrame), [
      fHips[0] + travel.scale * (framed[0] - pHips[0]),
      travel.figureStand + travel.scale * (framed[1] - travel.performerStand),
      fHips[2] + travel.scale * (framed[2] - pHips[2]),
    ])
    const parent = figure.parents[hipsF]
    if (parent < 0) {
      translations.set(target, 3 * (f * F + hipsF))
      return
    }
    for (let j = 0; j <= parent; j++) {
      if (!onFigurePath[j]) continue
      const p = fParents[j]
      if (p < 0) fp.set(restT.subarray(3 * j, 3 * j + 3), 3 * j)
      else turnInto(fp, j, fw[4 * p], fw[4 * p + 1], fw[4 * p + 2], fw[4 * p + 3], restT[3 * j], restT[3 * j + 1], restT[3 * j + 2], p)
    }
    const base = vec3At(fp, parent)
    const local = rotate(conjugate(quatAt(fw, parent)), [target[0] - base[0], target[1] - base[1], target[2] - base[2]])
    translations.set(local, 3 * (f * F + hipsF))
  }

  const roleMap: Record<string, string> = {}
  follow.forEach((share, j) => { if (share) roleMap[figure.names[j]] = performer.names[share.t > 0.5 ? share.b : share.a] })
  const restMatch: Record<string, number> = {}
  for (const [role, q] of Object.entries(match)) restMatch[role] = (2 * Math.atan2(Math.hypot(q[0], q[1], q[2]), Math.abs(q[3])) * 180) / Math.PI
  return { take: { name: take.name, fps: take.fps, frames: take.frames, rotations, translations }, roleMap, performer: pr, figure: fr, restMatch, travel }
}

function product(out: Float64Array, o: number, A: ArrayLike<number>, i: number, B: ArrayLike<number>, k: number): void {
  const ax = A[i], ay = A[i + 1], az = A[i + 2], aw = A[i + 3]
  const bx = B[k], by = B[k + 1], bz = B[k + 2], bw = B[k + 3]
  out[o] = aw * bx + ax * bw + ay * bz - az * by
  out[o + 1] = aw * by - ax * bz + ay * bw + az * bx
  out[o + 2] = aw * bz + ax * by - ay * bx + az * bw
  out[o + 3] = aw * bw - ax * bx - ay * by - az * bz
}


/** Turns `out` towards A·B by the share t, along the shortest arc. */
function mix(out: Float64Array, o: number, A: ArrayLike<number>, i: number, B: ArrayLike<number>, k: number, t: number, scratch: Float64Array): void {
  const other = scratch
  product(other, 0, A, i, B, k)
  const d = out[o] * other[0] + out[o + 1] * other[1] + out[o + 2] * other[2] + out[o + 3] * other[3]
  const s = d < 0 ? -1 : 1
  const c = Math.abs(d)
  let wa = 1 - t
  let wb = t * s
  if (c < 0.99999) {
    const angle = Math.acos(c)
    const sine = Math.sin(angle)
    wa = Math.sin((1 - t) * angle) / sine
    wb = (s * Math.sin(t * angle)) / sine
  }
  let l = 0
  for (let n = 0; n < 4; n++) {
    out[o + n] = wa * out[o + n] + wb * other[n]
    l += out[o + n] * out[o + n]
  }
  l = Math.sqrt(l)
  for (let n = 0; n < 4; n++) out[o + n] /= l
}

/** out[j] = out[parent] + q·v, from the origin where there is no parent. */
function turnInto(out: Float64Array, j: number, qx: number, qy: number, qz: number, qw: number, x: number, y: number, z: number, parent: number): void {
  const tx = 2 * (qy * z - qz * y), ty = 2 * (qz * x - qx * z), tz = 2 * (qx * y - qy * x)
  const base = parent >= 0
  out[3 * j] = (base ? out[3 * parent] : 0) + x + qw * tx + qy * tz - qz * ty
  out[3 * j + 1] = (base ? out[3 * parent + 1] : 0) + y + qw * ty + qz * tx - qx * tz
  out[3 * j + 2] = (base ? out[3 * parent + 2] : 0) + z + qw * tz + qx * ty - qy * tx
}

function pathTo(skeleton: Skeleton, joint: number): Uint8Array {
  const on = new Uint8Array(skeleton.names.length)
  for (let j = joint; j >= 0; j = skeleton.parents[j]) on[j] = 1
  return on
}

function withMap(skeleton: Skeleton, map: Readonly<Record<string, string>> | undefined, who: string): RoleReading {
  const found = recogniseRoles(skeleton)
  if (!map) return found
  const joints: Record<string, number> = { ...found.joints }
  for (const [role, name] of Object.entries(map)) {
    const j = skeleton.names.indexOf(name)
    if (j < 0) throw new ChiraxisError('no-roles', `The role map names the joint ${name}, which the ${who}'s skeleton does not have.`)
    joints[role] = j
  }
  return { ...found, joints, missing: found.missing.filter(r => joints[r] === undefined), extra: found.extra.filter(j => !Object.values(joints).includes(j)) }
}

const list = (roles: readonly string[]): string => (roles.length > 4 ? `${roles.slice(0, 4).join(', ')} and ${roles.length - 4} more` : roles.join(', '))
