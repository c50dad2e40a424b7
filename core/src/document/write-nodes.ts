import { compose, decompose, invertAffine, multiplyMat4, quatAt, vec3At, type Mat4, type Vec3 } from '../math'
import { bindPose, worldPose, type WorldPose } from '../skeleton'
import type { Draft } from './draft'
import type { FigureToWrite } from './figure'
import type { GltfJson, GltfNode } from './gltf'
import { moveKeys } from './move-keys'
import { isIdentity, localOf, parentsOf, PLAIN, setLocal, worldsOf } from './place'

/** The joints of a figure among the nodes of its document. */
export interface WrittenJoints {
  /** The node of every joint. */
  readonly nodes: readonly number[]
  /** What carries a joint's values of the figure into its node: fore · values · scale. */
  readonly fore: readonly Mat4[]
  readonly scale: readonly Vec3[]
  /** Whether joints stand or are bound elsewhere, hang elsewhere, came or went. */
  readonly changed: boolean
  /** Nodes of joints that are no more. */
  readonly gone: ReadonlySet<number>
  /** Nodes between and at joints, whose motion is told by the joints alone. */
  readonly driven: ReadonlySet<number>
}

/**
 * Puts the joints where they belong and leaves every other node as it is, or where it stands to the body. A joint that
 * nobody changed is left untouched.
 * @param baked nodes whose meshes are told in the figure's space from now on
 */
export function writeNodes(draft: Draft, figure: FigureToWrite, baked: ReadonlySet<number>): WrittenJoints {
  const { json } = draft
  const { source, skeleton } = figure
  const nodes = (json.nodes ??= [])
  const before = source.document.json
  const parents = [...parentsOf(before)]
  const worlds = worldsOf(before)
  const moved = !isIdentity(source.matrix)
  const way = source.way.joints
  const from = skeleton ? source.joints : []
  const kept = new Map<number, number>()
  from.forEach((r, j) => {
    if (r >= 0) kept.set(r, j)
  })
  const jointNode = new Map(way.map((n, r) => [n, r]))

  // joints that are no more; a node that carries something else stays for that
  const gone = new Set<number>()
  if (skeleton)
    way.forEach((n, r) => {
      if (kept.has(r)) return
      const { mesh, camera, extensions } = nodes[n]
      const dressed = mesh !== undefined || camera !== undefined || extensions !== undefined
      if (!dressed) gone.add(n)
    })
  const above = (n: number): number => {
    let p = parents[n]
    while (p >= 0 && gone.has(p)) p = parents[p]
    return p
  }
  nodes.forEach((_, n) => {
    if (!gone.has(n) && parents[n] >= 0 && gone.has(parents[n])) hang(n, above(n))
  })

  for (const n of gone) unhook(n)

  // the joints' own nodes
  const jointNodes: number[] = []
  // a file without any scene shows all it holds
  json.scenes ??= [{ nodes: nodes.flatMap((_, n) => (parents[n] < 0 ? [n] : [])) }]
  const scene = json.scenes[source.way.scene]
  skeleton?.names.forEach((name, j) => {
    const r = from[j]
    const p = skeleton.parents[j]
    if (r >= 0) {
      const n = way[r]
      jointNodes.push(n)
      if (name !== source.skeleton!.names[r]) nodes[n].name = name
      const was = source.skeleton!.parents[r]
      const same = p < 0 ? was < 0 : was >= 0 && from[p] === was
      if (!same) hang(n, p < 0 ? -1 : jointNodes[p])
    } else {
      const extras: Record<string, unknown> = {}
      if (skeleton.roles[j]) extras.role = skeleton.roles[j]
      const tip = skeleton.tips?.subarray(3 * j, 3 * j + 3)
      if (tip?.some(v => v !== 0)) extras.tip = Array.from(tip)
      const node: GltfNode = { name, ...(Object.keys(extras).length > 0 && { extras }) }
      const n = draft.node(node)
      parents[n] = -1
      jointNodes.push(n)
      hang(n, p < 0 ? -1 : jointNodes[p])
    }
    const role = skeleton.roles[j]
    if (r >= 0 && source.roles && role !== source.roles[j]) {
      const extras = { ...(nodes[jointNodes[j]].extras as Record<string, unknown> | undefined) }
      if (role) extras.role = role
      else delete extras.role
      nodes[jointNodes[j]].extras = extras
    }
  })

  // where everything is to stand
  const targets: (Mat4 | undefined)[] = []
  const rest = skeleton && worldPose(skeleton)
  const still = skeleton ? unchanged(figure) : []
  const own: Vec3[] = []
  skeleton?.names.forEach((_, j) => {
    const r = from[j]
    const p = skeleton.parents[j]
    const scale: Vec3 = moved ? [1, 1, 1] : r >= 0 ? decompose(worlds[way[r]]).scale : p >= 0 ? own[p] : [1, 1, 1]
    own.push(scale)
    targets[jointNodes[j]] = still[j]
      ? worlds[way[r]]
      : compose(vec3At(rest!.positions, j), quatAt(rest!.rotations, j), scale)
  })
  const carried = carriers(figure)
  const free = freeNodes(draft, figure, baked, jointNode)
  const target = (n: number): Mat4 => {
    const known = targets[n]
    if (known) return known
    let place: Mat4
    if (free.has(n)) place = PLAIN
    else {
      // what hangs on a joint goes where that joint takes it
      let top = n
      while (top >= 0 && !jointNode.has(top)) top = parents[top] ?? -1
      const r = top >= 0 ? jointNode.get(top)! : -1
      const by = r >= 0 ? carried(r) : source.matrix
      place = isIdentity(by) ? worlds[n] : multiplyMat4(by, worlds[n])
    }
    return (targets[n] = place)
  }
  const isJoint = new Set(jointNodes)
  const driven = new Set<number>()
  for (const n of jointNodes) for (let p = n; p >= 0 && !driven.has(p) && isBetween(p); p = parents[p]) driven.add(p)

  for (const [n, node] of nodes.entries()) {
    if (gone.has(n)) continue
    const p = parents[n]
    const parent = p >= 0 ? target(p) : PLAIN
    const local = multiplyMat4(invertAffine(parent) ?? PLAIN, target(n))
    const was = localOf(node)
    if (alike(was, local)) continue
    setLocal(node, local)
    // keys of its own move along
    if (!driven.has(n)) moveKeys(draft, n, multiplyMat4(local, invertAffine(was) ?? PLAIN))
  }
  const fore = jointNodes.map((n, j) => {
    const p = skeleton!.parents[j]
    const toParent = invertAffine(parents[n] >= 0 ? target(parents[n]) : PLAIN) ?? PLAIN
    if (p < 0) return toParent
    return multiplyMat4(toParent, compose(vec3At(rest!.positions, p), quatAt(rest!.rotations, p)))
  })
  return { nodes: jointNodes, fore, scale: own, changed: jointsChange(figure), gone, driven }

  function unhook(n: number): void {
    const list = parents[n] >= 0 ? nodes[parents[n]] : undefined
    if (list?.children) {
      list.children = list.children.filter(c => c !== n)
      if (list.children.length === 0) delete list.children
    }
    for (const s of json.scenes ?? []) if (s.nodes?.includes(n)) s.nodes = s.nodes.filter(c => c !== n)
  }
  function hang(n: number, on: number): void {
    unhook(n)
    parents[n] = on
    if (on < 0) (scene.nodes ??= []).push(n)
    else (nodes[on].children ??= []).push(n)
  }
  /** A node whose place follows from the joints below it. */
  function isBetween(n: number): boolean {
    if (isJoint.has(n)) return true
    for (let p = parents[n]; p >= 0; p = parents[p]) if (jointNode.has(p)) return true
    return false
  }
}

/** Whether joints stand or are bound elsewhere than in the file, hang elsewhere, came or went. */
export function jointsChange(figure: FigureToWrite): boolean {
  const { source, skeleton } = figure
  if (!skeleton) return false
  const kept = new Set(source.joints.filter(r => r >= 0)).size
  return (
    !isIdentity(source.matrix) ||
    kept < source.way.joints.length ||
    unchanged(figure).some(still => !still) ||
    !sameBind(figure)
  )
}

/** Joints that stand where they stood, on parents that do. */
function unchanged({ source, skeleton }: FigureToWrite): boolean[] {
  const out: boolean[] = []
  const own = source.skeleton
  const moved = !isIdentity(source.matrix)
  skeleton!.names.forEach((_, j) => {
    const r = source.joints[j]
    const p = skeleton!.parents[j]
    const was = r >= 0 ? own!.parents[r] : -1
    out.push(
      !moved &&
        r >= 0 &&
        (p < 0 ? was < 0 : out[p] && was === source.joints[p]) &&
        equalAt(skeleton!.restTranslations, own!.restTranslations, 3, j, r) &&
        equalAt(skeleton!.restRotations, own!.restRotations, 4, j, r),
    )
  })
  return out
}

function equalAt(a: ArrayLike<number>, b: ArrayLike<number>, size: number, i: number, j: number): boolean {
  for (let k = 0; k < size; k++) if (Math.abs(a[size * i + k] - b[size * j + k]) > 1e-6) return false
  return true
}

/** Whether the joints are bound where they were. */
function sameBind({ source, skeleton }: FigureToWrite): boolean {
  if (!skeleton || !source.skeleton) return false
  const a = bindPose(skeleton)
  const b = bindPose(source.skeleton)
  return source.joints.every(
    (r, j) => r >= 0 && equalAt(a.positions, b.positions, 3, j, r) && equalAt(a.rotations, b.rotations, 4, j, r),
  )
}

/**
 * How what hangs on a joint of the file gets from where it stood to where it is to stand: as a skin bound to that joint alone
 * would.
 */
function carriers({ source, skeleton }: FigureToWrite): (joint: number) => Mat4 {
  const own = source.skeleton
  if (!skeleton || !own) return () => source.matrix
  const poses = { rest: worldPose(skeleton), bind: bindPose(skeleton), was: worldPose(own), bound: bindPose(own) }
  const place = (pose: WorldPose, j: number): Mat4 => compose(vec3At(pose.positions, j), quatAt(pose.rotations, j))
  const now = new Map<number, number>()
  source.joints.forEach((r, j) => {
    if (r >= 0) now.set(r, j)
  })
  return joint => {
    let r = joint
    while (r >= 0 && !now.has(r)) r = own.parents[r]
    if (r < 0) return source.matrix
    const j = now.get(r)!
    const out = multiplyMat4(place(poses.rest, j), invertAffine(place(poses.bind, j))!)
    const back = multiplyMat4(place(poses.bound, r), invertAffine(place(poses.was, r))!)
    return multiplyMat4(multiplyMat4(out, source.matrix), back)
  }
}

/**
 * Groups that hold nothing but joints and meshes told in the figure's space, and those meshes' own nodes: they need no place of
 * their own any more. Left as they are where nothing below them moved.
 */
function freeNodes(
  { json }: Draft,
  { source, skeleton }: FigureToWrite,
  baked: ReadonlySet<number>,
  jointNode: ReadonlyMap<number, number>,
): ReadonlySet<number> {
  const nodes = json.nodes ?? []
  const moved = !isIdentity(source.matrix)
  const stands = standing(json)
  const out = new Set<number>()
  const state = new Map<number, { free: boolean; any: boolean; joints: boolean }>()
  const keeps = skeleton !== undefined && source.joints.some(r => r >= 0)
  for (const n of bottomUp(nodes)) {
    const { mesh, children = [] } = nodes[n]
    const own = !stands(n) && (mesh === undefined || baked.has(n))
    let free = own
    let any = mesh !== undefined && baked.has(n)
    let joints = false
    for (const c of children) {
      if (jointNode.has(c)) {
        joints = true
        continue
      }
      const below = state.get(c)
      if (!below) continue
      free &&= below.free
      any ||= below.any
      joints ||= below.joints
    }
    state.set(n, { free, any, joints })
    if (jointNode.has(n) || !(joints || any)) continue
    const dressed = mesh !== undefined && own
    if ((free || dressed) && (moved || (any && !(joints && keeps)))) out.add(n)
  }
  return out
}

/** Nodes with those below them first, whatever rings a draft may hold. */
function bottomUp(nodes: readonly GltfNode[]): number[] {
  const order: number[] = []
  const state = new Uint8Array(nodes.length)
  for (let top = 0; top < nodes.length; top++) {
    const open = [top]
    while (open.length > 0) {
      const n = open[open.length - 1]
      if (state[n] === 0) {
        state[n] = 1
        for (const c of nodes[n].children ?? []) if (state[c] === 0) open.push(c)
      } else {
        open.pop()
        if (state[n] === 1) order.push(n)
        state[n] = 2
      }
    }
  }
  return order
}

/** Whether a node's own place means something beside its mesh: it carries a camera, a light or what is not known, or moves. */
export function standing(json: GltfJson): (n: number) => boolean {
  const animated = new Set(
    json.animations?.flatMap(a => a.channels.filter(c => c.target.path !== 'weights').map(c => c.target.node ?? -1)),
  )
  return n => {
    const { camera, extensions } = json.nodes![n]
    const told = extensions !== undefined && Object.keys(extensions).some(e => e !== 'KHR_node_visibility')
    return camera !== undefined || told || animated.has(n)
  }
}

function alike(a: Mat4, b: Mat4): boolean {
  let size = 1
  for (let i = 12; i < 15; i++) size = Math.max(size, Math.abs(a[i]))
  for (let i = 0; i < 16; i++)
    if (Math.abs(a[i] - b[i]) > 2e-7 * (i >= 12 ? size : Math.max(1, Math.abs(a[i])))) return false
  return true
}
