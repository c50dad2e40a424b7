import { bodyPart } from '../body'
import { ChiraxisError } from '../math'
import { Draft } from './draft'
import type { FigureToWrite } from './figure'
import type { GltfDocument, GltfJson } from './gltf'
import { sweep } from './sweep'
import { jointsChange, writeNodes } from './write-nodes'
import { writeProps } from './write-props'
import { writeShapes } from './write-shapes'
import { writeSkin } from './write-skin'
import { planRuns, writeSurface, type RunPlan, type WeightPlan } from './write-surface'
import { writeTakes } from './write-takes'

/**
 * Writes a figure into the document it came from: what was asked for is changed, everything else leaves as it came. The same
 * figure gives the same document.
 * @throws ChiraxisError `bad-input` where figure and document do not belong together
 */
export function writeFigure(figure: FigureToWrite): GltfDocument {
  const { source } = figure
  if (source.mesh && source.way.runs.reduce((n, r) => n + r.count, 0) !== source.mesh.positions.length / 3)
    throw new ChiraxisError('bad-input', 'The figure does not belong to the file it is to be written into.')
  const draft = new Draft(source.document)
  const plans = planRuns(figure, jointsChange(figure))
  const joints = writeNodes(draft, figure, new Set(plans.filter(p => p.baked).map(p => p.run.node)))
  const runs = writeSurface(draft, figure, plans, skinsFor(draft, figure, plans, joints))
  writeTakes(draft, figure, joints, writeShapes(draft, figure, runs))
  settleNormalMaps(draft.json, figure.normalMaps)
  if (joints.gone.size > 0 || isUntold(draft.json)) tellRoles(draft.json, figure, joints.nodes)
  draft.json.asset = { ...draft.json.asset, generator: 'Chiraxis' }
  if (draft.json.scene === undefined) draft.json.scene = source.way.scene
  // takes stand first, in the figure's order
  const { document, unseen } = writeProps(
    draft.done(),
    source.way.scene,
    figure.props ?? [],
    joints.nodes,
    figure.takes.map((_, i) => i),
  )
  const { json } = document
  const skinned = new Set(json.nodes?.map(n => n.skin))
  const meshes = new Set(json.nodes?.map(n => n.mesh))
  const before = source.document.json
  // what nothing used before is none of our business
  const used = { skin: new Set(before.nodes?.map(n => n.skin)), mesh: new Set(before.nodes?.map(n => n.mesh)) }
  const out = sweep(document, {
    nodes: new Set([...joints.gone, ...emptied(json, before), ...unseen]),
    skins: gone(json.skins?.length, skinned, used.skin, i => json.skins![i].joints.some(n => joints.gone.has(n))),
    meshes: gone(json.meshes?.length, meshes, used.mesh),
  })
  const list = out.json.nodes
  if (list?.length === 0) delete out.json.nodes
  return out
}

/** What is used no more: because it was before, or because what it is made of is gone. */
function gone(
  count = 0,
  now: ReadonlySet<number | undefined>,
  before: ReadonlySet<number | undefined>,
  broken: (i: number) => boolean = () => false,
): Set<number> {
  const out = new Set<number>()
  for (let i = 0; i < count; i++) if (!now.has(i) && (before.has(i) || broken(i))) out.add(i)
  return out
}

/** Nodes that held a mesh before, hold none now, and nothing else either. */
function emptied(json: GltfJson, before: GltfJson): number[] {
  const animated = new Set(json.animations?.flatMap(a => a.channels.map(c => c.target.node)))
  const joints = new Set(json.skins?.flatMap(s => s.joints))
  const out = (before.nodes ?? []).flatMap((was, n) => {
    const { mesh, children, camera, extensions } = json.nodes![n]
    const empty = was.mesh !== undefined && mesh === undefined && !children?.length && camera === undefined
    return empty && !extensions && !animated.has(n) && !joints.has(n) ? [n] : []
  })
  const set = new Set(out)
  for (const n of json.nodes ?? []) {
    if (!n.children?.some(c => set.has(c))) continue
    n.children = n.children.filter(c => !set.has(c))
    if (n.children.length === 0) delete n.children
  }
  for (const s of json.scenes ?? []) if (s.nodes?.some(c => set.has(c))) s.nodes = s.nodes.filter(c => !set.has(c))
  return out
}

/** Which skin each run goes on: the one it had, or one of all joints, made when the first run needs it. */
function skinsFor(
  draft: Draft,
  figure: FigureToWrite,
  plans: readonly RunPlan[],
  joints: ReturnType<typeof writeNodes>,
): (plan: RunPlan) => WeightPlan | undefined {
  let whole: number | undefined
  const bound = plans.filter(p => p.how === 'bound')
  // a skin that every mesh leaves gives its place to the new one
  const free =
    bound.map(p => p.run.skin).find(s => s >= 0 && plans.every(p => p.run.skin !== s || p.how === 'bound')) ?? -1
  const numbers = new Map<number, Map<number, number>>()
  return ({ how, run }) => {
    if (how === 'bound') {
      whole ??= writeSkin(draft, figure, joints, free)
      return { skin: whole, numberOf: j => j }
    }
    if (how !== 'rebound') return undefined
    const places = numbers.get(run.skin) ?? new Map(draft.json.skins![run.skin].joints.map((n, i) => [n, i]))
    numbers.set(run.skin, places)
    return { skin: run.skin, numberOf: j => places.get(joints.nodes[j])! }
  }
}

/** A humanoid of which no part is told yet: it is asked for. */
const isUntold = ({ extensions }: GltfJson): boolean => {
  const vrm = extensions?.VRMC_vrm as { humanoid?: { humanBones?: object } } | undefined
  return vrm?.humanoid?.humanBones !== undefined && Object.keys(vrm.humanoid.humanBones).length === 0
}

/** Humanoid roles that VRM 1.0 tells, on the joints that stand for them now. */
function tellRoles(json: GltfJson, { skeleton }: FigureToWrite, nodes: readonly number[]): void {
  const vrm = json.extensions?.VRMC_vrm as { humanoid?: { humanBones?: Record<string, { node: number }> } } | undefined
  if (!vrm?.humanoid?.humanBones || !skeleton) return
  vrm.humanoid.humanBones = Object.fromEntries(
    skeleton.roles.flatMap((role, j) => (role && bodyPart(role)?.vrm ? [[role, { node: nodes[j] }]] : [])),
  )
}

/** Colour images that are normal maps by what they show, used as such. */
function settleNormalMaps(json: GltfJson, names: readonly string[]): void {
  json.materials?.forEach((m, i) => {
    if (!names.includes(m.name || `material ${i + 1}`) || !m.pbrMetallicRoughness?.baseColorTexture) return
    const { baseColorTexture, ...pbr } = m.pbrMetallicRoughness
    m.pbrMetallicRoughness = pbr
    m.normalTexture ??= baseColorTexture
  })
}
