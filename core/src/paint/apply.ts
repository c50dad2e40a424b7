import { breather, ChiraxisError, type Vec3, type WorkOptions } from '../math'
import { componentsOf, usedVertices } from '../mesh'
import { findJoint, mirroredName } from '../skeleton'
import {
  carryWeights,
  findBleeding,
  limitInfluences,
  pickRows,
  removeBleeding,
  smoothWeights,
  withRows,
  type Skin,
} from '../skin'
import { applyToArea } from './area'
import { brushFor, layDab } from './brush'
import { closeCanvas, type Canvas } from './canvas'
import { skinEditLabel, type SkinEdit } from './edit'
import { fitWeights, type LooseWeights } from './loose-weights'
import { mirrorWeights } from './mirror-weights'
import { verticesOfPieces, within } from './pieces-mask'
import { lockOf, noJoint, setWeight, settleRow } from './row'

/** A repair that could not be made, and why. */
export interface LostSkinEdit {
  readonly edit: SkinEdit
  readonly reason: string
}

export interface ApplyOptions extends WorkOptions {
  /** Weights of a file that a repair names. */
  readonly load?: (file: { name: string; hash: string; size: number }) => Promise<LooseWeights>
}

/** Makes repairs one after another on an open skin. One that no longer fits is left out and told. */
export async function applySkinEdits(
  canvas: Canvas,
  edits: readonly SkinEdit[],
  options: ApplyOptions = {},
): Promise<LostSkinEdit[]> {
  const pulse = breather(options)
  const lost: LostSkinEdit[] = []
  for (const [i, edit] of edits.entries()) {
    try {
      await applySkinEdit(canvas, edit, options)
    } catch (error) {
      if (!(error instanceof ChiraxisError) || error.code === 'stopped') throw error
      lost.push({ edit, reason: `${skinEditLabel(edit)} could not be kept: ${error.message}` })
    }
    await pulse((i + 1) / edits.length)
  }
  return lost
}

/** @throws ChiraxisError where the repair does not fit this figure */
export async function applySkinEdit(canvas: Canvas, edit: SkinEdit, options: ApplyOptions = {}): Promise<void> {
  const pieces = 'pieces' in edit && edit.kind !== 'load' ? edit.pieces : undefined
  const masksItself = edit.kind === 'stroke' || edit.kind === 'area'
  if (pieces && !canvas.mesh.parts.some(p => pieces.includes(p.name)))
    throw new ChiraxisError('lost-edit', 'the pieces it was kept to are not there any more.')
  return within(canvas, masksItself ? undefined : pieces, () => change(canvas, edit, options))
}

async function change(canvas: Canvas, edit: SkinEdit, options: ApplyOptions): Promise<void> {
  const { skeleton, skin, size } = canvas
  switch (edit.kind) {
    case 'stroke': {
      const brush = brushFor(canvas, edit)
      if (!brush) throw noJoint(edit.joint)
      const changed = new Set<number>()
      for (const dab of edit.dabs) layDab(canvas, brush, dab, changed)
      if (changed.size === 0) throw new ChiraxisError('lost-edit', 'the body no longer has a surface there.')
      return
    }
    case 'fill':
      return onSides(canvas, edit, (joint, at) => {
        const locked = lockOf(skeleton, edit.locked)
        for (const v of islandAt(canvas, at)) setWeight(canvas, v, joint, edit.value, locked)
      })
    case 'rigid':
      return onSides(canvas, edit, (joint, at) => {
        const k = skin.influences
        for (const v of islandAt(canvas, at)) {
          skin.weights.fill(0, v * k, v * k + k)
          skin.joints.fill(0, v * k, v * k + k)
          skin.joints[v * k] = joint
          skin.weights[v * k] = 1
        }
      })
    case 'set': {
      const rows = edit.weights.map(w => ({ joint: findJoint(skeleton, w.joint), weight: w.weight }))
      const gone = edit.weights.find((_, i) => rows[i].joint < 0)
      if (gone) throw noJoint(gone.joint)
      const told = rows.reduce((s, r) => s + r.weight, 0)
      if (!(told > 0)) throw new ChiraxisError('bad-weights', 'the typed weights are all zero.')
      const list =
        edit.radius > 0
          ? around(canvas, scaled(edit.at, size), edit.radius * size)
          : [nearestTo(canvas, scaled(edit.at, size))]
      const k = skin.influences
      for (const v of list) {
        skin.weights.fill(0, v * k, v * k + k)
        skin.joints.fill(0, v * k, v * k + k)
        rows.slice(0, k).forEach((r, i) => {
          skin.joints[v * k + i] = r.joint
          skin.weights[v * k + i] = r.weight
        })
        settleRow(canvas, v)
      }
      return
    }
    case 'soften':
      return soften(canvas, edit.joint, edit.rounds, lockOf(skeleton, edit.locked))
    case 'prune': {
      const pruned = limitInfluences(skin, skin.influences, edit.below)
      return replace(skin, pruned)
    }
    case 'area':
      return applyToArea(canvas, edit)
    case 'carry':
      return carryBetween(canvas, edit.from, edit.to, options)
    case 'mirror':
      return mirrorWeights(canvas, edit.from)
    case 'unbleed': {
      const whole = closeCanvas(canvas, skin.influences)
      const bleeding = await findBleeding(canvas.mesh, skeleton, whole, options)
      if (bleeding.vertices.length === 0) return
      return take(canvas, removeBleeding(whole, bleeding), v => bleeding.limbs[v] > 0)
    }
    case 'load': {
      if (!options.load) throw new ChiraxisError('missing-file', 'the file of weights is not at hand.')
      const { skin: fitted } = await fitWeights(await options.load(edit.file), canvas.mesh, skeleton, size)
      const { pieces } = edit
      const inside = pieces && verticesOfPieces(canvas, pieces)
      return take(
        canvas,
        fitted,
        v => fitted.weights[v * fitted.influences] > 0 && (!inside || inside[canvas.weld.of[v]] === 1),
      )
    }
  }
}

const scaled = (p: Vec3, s: number): Vec3 => [p[0] * s, p[1] * s, p[2] * s]

/** Does something at a place, and at its mirror image with the joint of the other side. */
function onSides(
  canvas: Canvas,
  edit: { joint: string; at: Vec3; mirror: boolean },
  run: (joint: number, at: Vec3) => void,
): void {
  const joint = findJoint(canvas.skeleton, edit.joint)
  if (joint < 0) throw noJoint(edit.joint)
  const at = scaled(edit.at, canvas.size)
  run(joint, at)
  const other = findJoint(canvas.skeleton, mirroredName(edit.joint))
  if (edit.mirror && other >= 0 && other !== joint) run(other, [-at[0], at[1], at[2]])
}

/** The connected part of the surface nearest to a place. */
function islandAt(canvas: Canvas, at: Vec3): number[] {
  const seed = nearestTo(canvas, at)
  const { labels } = componentsOf(canvas.adjacency)
  const out: number[] = []
  for (let v = 0; v < labels.length; v++) if (labels[v] === labels[seed]) out.push(v)
  return out
}

export function nearestTo({ grid }: Pick<Canvas, 'grid'>, at: Vec3): number {
  const found = grid.nearest(at[0], at[1], at[2], 12)
  if (found < 0) throw new ChiraxisError('lost-edit', 'the body no longer has a surface there.')
  return found
}

function around({ grid }: Canvas, at: Vec3, radius: number): number[] {
  const out: number[] = []
  grid.within(at[0], at[1], at[2], radius, v => out.push(v))
  return out
}

async function soften(canvas: Canvas, ref: string | null, rounds: number, locked: Uint8Array): Promise<void> {
  const { skin, skeleton, adjacency } = canvas
  const joint = ref === null ? -1 : findJoint(skeleton, ref)
  if (ref !== null && joint < 0) throw noJoint(ref)
  const smooth = await smoothWeights(skin, skeleton.names.length, adjacency, rounds)
  const k = skin.influences
  const n = skin.joints.length / k
  for (let v = 0; v < n; v++) {
    if (joint >= 0) {
      let w = 0
      for (let i = v * k; i < v * k + k; i++) if (smooth.joints[i] === joint) w += smooth.weights[i]
      setWeight(canvas, v, joint, w, locked)
      continue
    }
    let isLocked = false
    for (let i = v * k; i < v * k + k; i++) if (skin.weights[i] > 0 && locked[skin.joints[i]]) isLocked = true
    if (isLocked) continue
    skin.joints.set(smooth.joints.subarray(v * k, v * k + k), v * k)
    skin.weights.set(smooth.weights.subarray(v * k, v * k + k), v * k)
  }
}

function replace(to: Skin, from: Skin): void {
  to.joints.set(from.joints)
  to.weights.set(from.weights)
}

/** Takes over the rows of a skin of all vertices where it is told to. */
function take(canvas: Canvas, from: Skin, where: (vertex: number) => boolean): void {
  const { skin, weld } = canvas
  const k = skin.influences,
    f = from.influences
  for (let w = 0; w < weld.first.length; w++) {
    const v = weld.first[w]
    if (!where(v)) continue
    for (let i = 0; i < k; i++) {
      skin.joints[w * k + i] = i < f ? from.joints[v * f + i] : 0
      skin.weights[w * k + i] = i < f ? from.weights[v * f + i] : 0
    }
    settleRow(canvas, w)
  }
}

/** Gives pieces the weights of others, by the nearest places on their surfaces. */
async function carryBetween(
  canvas: Canvas,
  from: readonly string[],
  to: readonly string[],
  work: WorkOptions,
): Promise<void> {
  const { mesh, weld, skeleton, skin } = canvas
  const facesOf = (names: readonly string[]): Uint32Array => {
    const parts = mesh.parts.filter(p => names.includes(p.name) && p.count > 0)
    if (parts.length === 0) throw new ChiraxisError('lost-edit', `there is no piece ${names.join(', ')} any more.`)
    return Uint32Array.from(parts.flatMap(p => [...mesh.indices.subarray(p.start, p.start + p.count)]))
  }
  const source = facesOf(from)
  const own = usedVertices(mesh.positions, facesOf(to))
  const given = pickRows(skin, weld.of)
  const { skin: carried } = await carryWeights(
    { positions: mesh.positions, indices: source },
    given,
    own,
    skeleton.names.length,
    work,
  )
  const rows = withRows(given, carried, own.from)
  const theirs = verticesOfPieces(canvas, from)
  const told = verticesOfPieces(canvas, to)
  // a seam of both stays as it is: it already agrees
  take(canvas, rows, v => told[weld.of[v]] === 1 && theirs[weld.of[v]] === 0)
}
