import { determinant3, invertAffine, multiplyMat4, transformPoint, vec3At, type Mat4 } from '../math'
import type { Mesh } from '../mesh'
import { pickRows, type Skin } from '../skin'
import { floatValues } from './accessors'
import type { Draft } from './draft'
import type { FigureToWrite } from './figure'
import type { GltfMesh, GltfPrimitive, SourceRun } from './gltf'
import { unitNormals } from './normals'
import { isIdentity, PLAIN } from './place'
import { standing } from './write-nodes'
import { writeWeights } from './write-skin'

/** What becomes of vertices that came from one mesh of the file. */
export interface RunPlan {
  readonly run: SourceRun
  /** Which vertex of the figure each is, -1 for those no triangle uses any more. */
  readonly to: Int32Array
  /** Vertices of the mirrored half. */
  readonly mirrored?: Int32Array
  /** Primitives that stay: their place in the mesh, and the figure's part. */
  readonly kept: readonly { readonly index: number; readonly part: number; readonly mirror: number }[]
  /**
   * `kept`: bound as it was, or not bound at all; `rebound`: other weights on the skin it had; `bound`: told in the figure's space
   * and bound anew.
   */
  readonly how: 'kept' | 'rebound' | 'bound'
  /** Whether its vertices are told in the figure's space from now on. */
  readonly baked: boolean
}

/** Looks at every run of the file: what of it is still there, what changed, and how it is to be written. */
export function planRuns(figure: FigureToWrite, jointsChange: boolean): RunPlan[] {
  const { source, mesh, skin, skeleton } = figure
  if (!mesh || !source.mesh) return []
  const whole = source.mesh.positions.length / 3
  const half = source.mirror ? mesh.positions.length / 6 : mesh.positions.length / 3
  const to = new Int32Array(whole).fill(-1)
  if (source.from) source.from.forEach((v, at) => (to[v] = at))
  else for (let v = 0; v < whole; v++) to[v] = v
  const partOf = new Map<number, { part: number; mirror: number }>()
  source.parts.forEach(({ from, mirrored }, part) => {
    const known = partOf.get(from) ?? { part: -1, mirror: -1 }
    if (mirrored) known.mirror = part
    else known.part = part
    partOf.set(from, known)
  })
  const moved = !isIdentity(source.matrix)
  const stands = standing(source.document.json)
  return source.way.runs.map((run): RunPlan => {
    const own = to.subarray(run.start, run.start + run.count)
    const kept = run.primitives.flatMap(({ index, part }) => {
      const now = partOf.get(part)
      // a surface without triangles stays as it is; one that lost them all goes
      const bare = source.mesh!.parts[part].count === 0
      return now && now.part >= 0 && (bare || mesh.parts[now.part].count > 0) ? [{ index, ...now }] : []
    })
    const mirrored = source.mirror ? own.map(v => (v < 0 ? -1 : v + half)) : undefined
    const base = { run, to: own, kept, mirrored }
    if (!skeleton || !skin)
      return { ...base, how: 'kept', baked: (moved || source.mirror !== undefined) && !stands(run.node) }
    const rows = source.skin && source.skeleton ? sameRows(figure, run, own) : false
    // shapes are told where vertices are shown, which a mesh that is shown elsewhere must be told in too
    const shown = run.world !== undefined || !figure.shapes?.length
    const fits = !jointsChange && !moved && !source.mirror && shown
    // what hangs on a joint without a skin goes on hanging there
    if (rows && run.skin < 0 && !source.mirror && !source.way.joints.includes(run.node))
      return { ...base, how: 'kept', baked: false }
    if (rows && fits) return { ...base, how: 'kept', baked: false }
    if (fits && run.skin >= 0 && run.world && usesOnly(figure, own, run.skin))
      return { ...base, how: 'rebound', baked: false }
    return { ...base, how: 'bound', baked: true }
  })
}

/** Whether the vertices of a run are held by the same joints as in the file. */
function sameRows({ source, skin }: FigureToWrite, run: SourceRun, to: Int32Array): boolean {
  const now = skin!
  const was = source.skin!
  const held = new Map<number, number>()
  for (let i = 0; i < run.count; i++) {
    if (to[i] < 0) continue
    held.clear()
    let sum = 0
    for (let k = 0; k < was.influences; k++) {
      const at = (run.start + i) * was.influences + k
      if (was.weights[at] > 0) held.set(was.joints[at], (held.get(was.joints[at]) ?? 0) + was.weights[at])
      sum += was.weights[at]
    }
    for (const [j, w] of held) held.set(j, w / (sum || 1))
    let total = 0
    for (let k = 0; k < now.influences; k++) total += now.weights[to[i] * now.influences + k]
    for (let k = 0; k < now.influences; k++) {
      const at = to[i] * now.influences + k
      const w = now.weights[at] / (total || 1)
      if (w <= 0) continue
      const r = source.joints[now.joints[at]]
      if (r < 0) return false
      held.set(r, (held.get(r) ?? 0) - w)
    }
    for (const w of held.values()) if (Math.abs(w) > SAME_WEIGHT) return false
  }
  return true
}
/** Weights nearer than this are the same: what one byte can tell apart is many times that. */
const SAME_WEIGHT = 1e-4

/** Whether all joints that hold these vertices are among those of a skin of the file. */
function usesOnly({ source, skin }: FigureToWrite, to: Int32Array, of: number): boolean {
  const there = new Set(source.document.json.skins![of].joints)
  for (const v of to) {
    if (v < 0) continue
    for (let k = 0; k < skin!.influences; k++) {
      const at = v * skin!.influences + k
      if (!(skin!.weights[at] > 0)) continue
      const r = source.joints[skin!.joints[at]]
      if (r < 0 || !there.has(source.way.joints[r])) return false
    }
  }
  return true
}

/** How weights are written: by which number each joint goes, and on which skin. */
export interface WeightPlan {
  readonly skin: number
  readonly numberOf: (joint: number) => number
}

/** A run as it lies in the document that is written. */
export interface WrittenRun {
  readonly node: number
  /** Which vertex of the figure each of its vertices is, -1 for none. */
  readonly to: Int32Array
  readonly primitives: readonly GltfPrimitive[]
  /** Whether its vertices are told in the figure's space, else by `world` in the file's. */
  readonly baked: boolean
  readonly world?: Mat4
}

/**
 * Writes what changed of the surfaces: places, normals, morph shapes, triangles, weights. Everything else of a mesh stays as
 * it came; what several nodes share is parted where one of them changes.
 */
export function writeSurface(
  draft: Draft,
  figure: FigureToWrite,
  plans: readonly RunPlan[],
  weightsFor: (plan: RunPlan) => WeightPlan | undefined,
): WrittenRun[] {
  const { json } = draft
  const written: WrittenRun[] = []
  const tell = (node: number, plan: RunPlan, to: Int32Array, primitives: readonly GltfPrimitive[]): void =>
    void written.push({ node, to, primitives, baked: plan.baked, world: plan.run.world })
  const nodes = json.nodes!
  const shared = new Map<number, number>()
  for (const n of nodes) if (n.mesh !== undefined) shared.set(n.mesh, (shared.get(n.mesh) ?? 0) + 1)
  const byNode = new Map<number, RunPlan[]>()
  for (const plan of plans) byNode.set(plan.run.node, [...(byNode.get(plan.run.node) ?? []), plan])
  for (const [n, own] of byNode) {
    const node = nodes[n]
    const changes = own.map(plan => new Changes(draft, figure, plan))
    const bound = own.some(p => p.how === 'bound')
    if (!bound && !own.some(p => p.how === 'rebound') && changes.every(c => c.none)) {
      const { primitives } = json.meshes![node.mesh!]
      for (const plan of own) tell(n, plan, plan.to, plan.kept.map(k => primitives[k.index])) // prettier-ignore
      continue
    }
    if ((shared.get(node.mesh!) ?? 0) > 1) {
      shared.set(node.mesh!, shared.get(node.mesh!)! - 1)
      node.mesh = draft.mesh(structuredClone(json.meshes![node.mesh!]))
    }
    const mesh = json.meshes![node.mesh!]
    const left = new Set(mesh.primitives.keys())
    for (const plan of own) for (const { index } of plan.run.primitives) left.delete(index)
    // points and lines stay where they were, beside what is bound now
    if (bound && left.size > 0) {
      const apart = { ...structuredClone(mesh), primitives: [...left].map(i => mesh.primitives[i]) }
      const beside = draft.node({ name: `${node.name ?? 'node'}, lines`, mesh: draft.mesh(apart) })
      const above = nodes.find(p => p.children?.includes(n))
      if (above) above.children!.push(beside)
      else (json.scenes![figure.source.way.scene].nodes ??= []).push(beside)
    }
    const mirror: GltfMesh = { ...structuredClone(mesh), primitives: [] }
    const gone = new Set<number>(bound ? left : [])
    own.forEach((plan, i) => {
      const weights = weightsFor(plan)
      for (const { index } of plan.run.primitives) if (!plan.kept.some(k => k.index === index)) gone.add(index)
      if (plan.mirrored) changes[i].mirror(mesh, mirror, weights)
      changes[i].apply(mesh, weights)
      tell(n, plan, plan.to, plan.kept.map(k => mesh.primitives[k.index])) // prettier-ignore
      if (weights) node.skin = weights.skin
    })
    mesh.primitives = mesh.primitives.filter((_, i) => !gone.has(i))
    if (mirror.primitives.length > 0) {
      if (mirror.name) mirror.name = `${mirror.name}, mirrored`
      const twin = draft.node({
        name: `${node.name ?? 'body'}, mirrored`,
        mesh: draft.mesh(mirror),
        ...(node.skin !== undefined && { skin: node.skin }),
      })
      ;(json.scenes![figure.source.way.scene].nodes ??= []).push(twin)
      let at = 0
      for (const plan of own)
        if (plan.mirrored) tell(twin, plan, plan.mirrored, mirror.primitives.slice(at, (at += plan.kept.length)))
    }
    if (mesh.primitives.length === 0) {
      delete node.mesh
      delete node.skin
    }
  }
  return written
}

/** What of one run changed, told to its primitives. */
class Changes {
  private readonly placed: boolean
  /** From the mesh's own space into the one its vertices are told in now. */
  private readonly matrix: Mat4 | undefined
  /** Surfaces whose triangles must be told anew. */
  private readonly retold: ReadonlySet<RunPlan['kept'][number]>
  readonly none: boolean

  constructor(
    private readonly draft: Draft,
    private readonly figure: FigureToWrite,
    private readonly plan: RunPlan,
  ) {
    const { source } = figure
    const { run, baked } = plan
    this.matrix = baked && run.world ? multiplyMat4(source.matrix, run.world) : baked ? undefined : PLAIN
    this.placed = this.matrix !== undefined && isIdentity(this.matrix, 1e-7) && !this.snapped()
    this.retold = new Set(plan.kept.filter(k => this.trianglesChanged(k)))
    this.none = this.placed && this.retold.size === 0 && plan.kept.length === run.primitives.length && !plan.mirrored
  }

  /** Whether vertices were put elsewhere one by one. */
  private snapped(): boolean {
    const { source, mesh } = this.figure
    if (!isIdentity(source.matrix)) return false
    const { run, to } = this.plan
    for (let i = 0; i < run.count; i++)
      if (to[i] >= 0)
        for (let k = 0; k < 3; k++)
          if (mesh!.positions[3 * to[i] + k] !== source.mesh!.positions[3 * (run.start + i) + k]) return true
    return false
  }

  private trianglesChanged({ index, part }: { index: number; part: number }): boolean {
    const { source, mesh } = this.figure
    const { run, to } = this.plan
    const was = source.mesh!.parts[run.primitives.find(p => p.index === index)!.part]
    const now = mesh!.parts[part]
    if (was.count !== now.count) return true
    for (let i = 0; i < now.count; i++)
      if (mesh!.indices[now.start + i] !== to[source.mesh!.indices[was.start + i] - run.start]) return true
    // the reader turned faces where the node mirrored them; once told in the figure's space the mesh must say so itself
    return this.plan.baked && run.world !== undefined && determinant3(run.world) < 0
  }

  apply(mesh: GltfMesh, weights: WeightPlan | undefined): void {
    this.write(mesh, mesh, this.plan.to, weights, undefined)
  }

  mirror(mesh: GltfMesh, into: GltfMesh, weights: WeightPlan | undefined): void {
    this.write(mesh, into, this.plan.mirrored!, weights, this.figure.source.mirror)
  }

  private write(
    mesh: GltfMesh,
    into: GltfMesh,
    to: Int32Array,
    weights: WeightPlan | undefined,
    axis: 'x' | 'y' | 'z' | undefined,
  ): void {
    const { plan, draft, figure } = this
    if (plan.kept.length === 0) return
    const { run } = plan
    const final = figure.mesh!
    const first = mesh.primitives[plan.kept[0].index]
    const matrix =
      axis && this.matrix ? multiplyMat4(multiplyMat4(figure.source.matrix, MIRROR[axis]), run.world!) : this.matrix
    const place = !this.placed || axis !== undefined
    const turned = this.retold.size > 0 && final.normals === undefined
    const flips = this.flipped(to, first)
    const attributes: Record<string, number> = {}
    if (place) {
      attributes.POSITION = draft.accessor(this.positions(to, first, matrix), 'VEC3', {
        use: 'attribute',
        bounds: true,
      })
      Object.assign(attributes, this.directions(first, final, to, matrix, flips))
    } else if (first.attributes.NORMAL !== undefined && (turned || flips.length > 0)) {
      const own = turned
        ? this.inOwnSpace(unitNormals(final, to))
        : floatValues(draft.source, first.attributes.NORMAL, 3)
      attributes.NORMAL = draft.accessor(turned ? own : negate(own, flips), 'VEC3', { use: 'attribute' })
    }
    const drop = new Set<string>()
    if (place && matrix === undefined) drop.add('TANGENT')
    if (turned) drop.add('TANGENT')
    if (weights) {
      const rows = pickRows(
        figure.skin!,
        Uint32Array.from(to, v => Math.max(0, v)),
      )
      Object.assign(attributes, writeWeights(draft, rows as Skin, weights.numberOf))
      for (const name of Object.keys(first.attributes))
        if (/^(JOINTS|WEIGHTS)_/.test(name) && attributes[name] === undefined) drop.add(name)
    }
    const targets = place && matrix ? first.targets?.map(t => this.target(t, matrix)) : undefined
    const back = new Map<number, number>()
    if (axis || this.retold.size > 0) to.forEach((v, i) => v >= 0 && back.set(v, i))
    for (const k of plan.kept) {
      const own = mesh.primitives[k.index]
      const primitive: GltfPrimitive = axis ? structuredClone(own) : own
      primitive.attributes = { ...own.attributes, ...attributes }
      for (const name of drop) delete primitive.attributes[name]
      if (targets) primitive.targets = targets
      if (axis || this.retold.has(k)) {
        const part = final.parts[axis ? k.mirror : k.part]
        const corners = final.indices.subarray(part.start, part.start + part.count)
        const local = Uint32Array.from(corners, v => back.get(v)!)
        primitive.indices = draft.accessor(run.count < 65535 ? Uint16Array.from(local) : local, 'SCALAR', {
          use: 'index',
        })
        delete primitive.mode
      }
      if (axis) into.primitives.push(primitive)
    }
  }

  /** Vertices whose normals were turned round with their faces. */
  private flipped(to: Int32Array, first: GltfPrimitive): number[] {
    const { source, mesh } = this.figure
    const { NORMAL } = first.attributes
    if (this.retold.size === 0 || !mesh!.normals || NORMAL === undefined) return []
    const { run } = this.plan
    const was = turnNormals(floatValues(this.draft.source, NORMAL, 3), multiplyMat4(source.matrix, run.world ?? PLAIN))
    if (!was) return []
    const out: number[] = []
    to.forEach((v, i) => {
      if (v >= 0 && [0, 1, 2].reduce((s, k) => s + was[3 * i + k] * mesh!.normals![3 * v + k], 0) < -0.5) out.push(i)
    })
    return out
  }

  /** Directions told in the figure's space, told in the mesh's own where its vertices stay there. */
  private inOwnSpace(directions: Float32Array): Float32Array {
    const { plan, figure } = this
    if (plan.baked) return directions
    const back = invertAffine(multiplyMat4(figure.source.matrix, plan.run.world ?? PLAIN))
    return (back && turnNormals(directions, back)) ?? directions
  }

  private positions(to: Int32Array, first: GltfPrimitive, matrix: Mat4 | undefined): Float32Array {
    const { figure, plan, draft } = this
    const own = floatValues(draft.source, first.attributes.POSITION, 3)
    const out = new Float32Array(3 * to.length)
    const final = figure.mesh!.positions
    const back = plan.baked ? undefined : invertAffine(multiplyMat4(figure.source.matrix, plan.run.world ?? PLAIN))
    const still = isIdentity(figure.source.matrix)
    for (let i = 0; i < to.length; i++) {
      const v = to[i]
      const unmoved =
        !plan.baked && still && v >= 0 && sameAt(final, v, figure.source.mesh!.positions, plan.run.start + i)
      if (v < 0 || unmoved) out.set(matrix ? transformPoint(matrix, vec3At(own, i)) : vec3At(own, i), 3 * i)
      else if (back) out.set(transformPoint(back, vec3At(final, v)), 3 * i)
      else for (let k = 0; k < 3; k++) out[3 * i + k] = final[3 * v + k]
    }
    return out
  }

  /** Normals and tangents, turned along. */
  private directions(
    first: GltfPrimitive,
    final: Mesh,
    to: Int32Array,
    matrix: Mat4 | undefined,
    flips: readonly number[],
  ): Record<string, number> {
    const { draft } = this
    const out: Record<string, number> = {}
    const { NORMAL, TANGENT } = first.attributes
    if (NORMAL !== undefined) {
      const own = negate(floatValues(draft.source, NORMAL, 3), flips)
      const turned = matrix && final.normals && turnNormals(own, matrix)
      out.NORMAL = draft.accessor(turned ?? unitNormals(final, to), 'VEC3', { use: 'attribute' })
    }
    if (TANGENT !== undefined && matrix) {
      const own = floatValues(draft.source, TANGENT, 4)
      const side = determinant3(matrix) < 0 ? -1 : 1
      for (let i = 0; i < own.length; i += 4) {
        const t = linear(matrix, own, i)
        const l = Math.hypot(...t) || 1
        for (let k = 0; k < 3; k++) own[i + k] = t[k] / l
        own[i + 3] *= side
      }
      out.TANGENT = draft.accessor(own, 'VEC4', { use: 'attribute' })
    }
    return out
  }

  private target(target: Record<string, number>, matrix: Mat4): Record<string, number> {
    const out: Record<string, number> = { ...target }
    for (const [name, index] of Object.entries(target)) {
      if (!/^(POSITION|NORMAL|TANGENT)$/.test(name)) continue
      const own = floatValues(this.draft.source, index, 3)
      const size = name === 'POSITION' ? 1 : 1 / Math.cbrt(Math.abs(determinant3(matrix)) || 1)
      for (let i = 0; i < own.length; i += 3) {
        const t = linear(matrix, own, i)
        for (let k = 0; k < 3; k++) own[i + k] = t[k] * size
      }
      out[name] = this.draft.accessor(own, 'VEC3', { use: 'attribute', bounds: name === 'POSITION' })
    }
    return out
  }
}

const MIRROR: Readonly<Record<'x' | 'y' | 'z', Mat4>> = {
  x: PLAIN_WITH(0),
  y: PLAIN_WITH(5),
  z: PLAIN_WITH(10),
}
function PLAIN_WITH(negative: number): Mat4 {
  return Float64Array.from({ length: 16 }, (_, i) => (i % 5 === 0 ? (i === negative ? -1 : 1) : 0))
}

const linear = (m: Mat4, v: ArrayLike<number>, i: number): [number, number, number] => [
  m[0] * v[i] + m[4] * v[i + 1] + m[8] * v[i + 2],
  m[1] * v[i] + m[5] * v[i + 1] + m[9] * v[i + 2],
  m[2] * v[i] + m[6] * v[i + 1] + m[10] * v[i + 2],
]

function negate(directions: Float32Array, of: readonly number[]): Float32Array {
  for (const i of of) for (let k = 0; k < 3; k++) directions[3 * i + k] *= -1
  return directions
}

/** Normals of a surface that a matrix moved: turned by its inverse transposed, whatever it stretches. */
function turnNormals(normals: Float32Array, m: Mat4): Float32Array | undefined {
  const inverse = invertAffine(m)
  if (!inverse) return undefined
  for (let i = 0; i < normals.length; i += 3) {
    const [x, y, z] = vec3At(normals, i / 3)
    const n = [0, 1, 2].map(k => inverse[4 * k] * x + inverse[4 * k + 1] * y + inverse[4 * k + 2] * z)
    const l = Math.hypot(...n)
    if (l > 1e-12) for (let k = 0; k < 3; k++) normals[i + k] = n[k] / l
    else normals.set([0, 1, 0], i)
  }
  return normals
}

const sameAt = (a: ArrayLike<number>, i: number, b: ArrayLike<number>, j: number): boolean =>
  a[3 * i] === b[3 * j] && a[3 * i + 1] === b[3 * j + 1] && a[3 * i + 2] === b[3 * j + 2]
