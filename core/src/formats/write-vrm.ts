import { bodyPart } from '../body'
import { targetNames, type GltfDocument, type GltfJson, type SourceFigure } from '../document'
import type { Binds } from '../face'
import { ChiraxisError } from '../math'
import { recogniseRoles, withRoles } from '../skeleton'
import { gltfOf, type GltfContent } from './gltf-write'
import { keptBack } from './kept-back'

/** What a VRM tells of who made it and what may be done with it. */
export interface VrmMeta {
  readonly name?: string
  readonly version?: string
  readonly authors?: readonly string[]
  readonly copyright?: string
  readonly contact?: string
  readonly references?: readonly string[]
  /** Where its terms stand; left out, the standard's own. */
  readonly otherLicenseUrl?: string
}

/** The terms every VRM 1.0 stands under. */
const LICENSE = 'https://vrm.dev/licenses/1.0/'

/** Parts a humanoid of VRM 1.0 cannot be without. */
export const VRM_NEEDS = [
  'hips',
  'spine',
  'head',
  ...['left', 'right'].flatMap(s =>
    ['UpperLeg', 'LowerLeg', 'Foot', 'UpperArm', 'LowerArm', 'Hand'].map(part => s + part),
  ),
]

/** Expressions the standard names itself. */
const PRESETS = [
  ...['happy', 'angry', 'sad', 'relaxed', 'surprised', 'neutral'],
  ...['aa', 'ih', 'ou', 'ee', 'oh'],
  ...['blink', 'blinkLeft', 'blinkRight', 'lookUp', 'lookDown', 'lookLeft', 'lookRight'],
]

/**
 * A figure as VRM 1.0 (VRMC_vrm-1.0): which joint is which part of a humanoid, who made it, the shapes of its face as expressions. A
 * figure that came as one keeps what it told. Spring bones, constraints and toon materials are not made.
 * @throws ChiraxisError `no-roles` where parts are missing that the format needs, `bad-settings` for a body on four legs
 */
export function vrmOf(content: GltfContent, meta: VrmMeta = {}): GltfDocument {
  const { skeleton, mesh } = content
  if (!skeleton || !mesh)
    throw new ChiraxisError('bad-settings', 'A VRM holds a body with a skeleton, and one is missing.')
  const { joints, kind } = recogniseRoles(skeleton)
  if (kind === 'fourleg')
    throw new ChiraxisError('bad-settings', 'A VRM holds a body on two legs, and this one stands on four. Write a GLB.')
  const missing = VRM_NEEDS.filter(role => joints[role] === undefined)
  if (missing.length > 0)
    throw new ChiraxisError('no-roles', `A VRM needs joints for ${missing.join(', ')}, and there are none.`)
  const told = { ...content, skeleton: withRoles(skeleton, joints) }
  const document = gltfOf(told, asHumanoid)
  const { json } = document
  const vrm = json.extensions!.VRMC_vrm as Vrm
  if (!vrm.meta) {
    vrm.meta = {
      name: meta.name || content.name || 'figure',
      ...(meta.version && { version: meta.version }),
      authors: meta.authors?.length ? [...meta.authors] : ['not told'],
      ...(meta.copyright && { copyrightInformation: meta.copyright }),
      ...(meta.contact && { contactInformation: meta.contact }),
      ...(meta.references?.length && { references: [...meta.references] }),
      licenseUrl: LICENSE,
      ...(meta.otherLicenseUrl && { otherLicenseUrl: meta.otherLicenseUrl }),
    }
    const expressions = expressionsOf(json, content.expressions)
    if (expressions) vrm.expressions = expressions
    if (vrm.humanoid.humanBones.leftEye || vrm.humanoid.humanBones.rightEye) vrm.lookAt = LOOK
  }
  return document
}

/** How far eyes turn for what they look at, degrees: the standard's own example. */
const range = (input: number, output: number): object => ({ inputMaxValue: input, outputScale: output })
const LOOK = {
  type: 'bone',
  offsetFromHeadBone: [0, 0.06, 0],
  rangeMapHorizontalInner: range(90, 10),
  rangeMapHorizontalOuter: range(90, 10),
  rangeMapVerticalDown: range(90, 10),
  rangeMapVerticalUp: range(90, 10),
}

interface Vrm {
  specVersion: string
  humanoid: { humanBones: Record<string, { node: number }> }
  meta?: object
  expressions?: object
  lookAt?: object
}

/** The document told to hold a humanoid, so that its parts are written into it; one that does already stays. */
function asHumanoid(source: SourceFigure): SourceFigure {
  const { json } = source.document
  if ((json.extensions as { VRMC_vrm?: unknown } | undefined)?.VRMC_vrm) return source
  const vrm: Vrm = { specVersion: '1.0', humanoid: { humanBones: {} } }
  return {
    ...source,
    document: {
      ...source.document,
      json: {
        ...json,
        extensionsUsed: [...new Set([...(json.extensionsUsed ?? []), 'VRMC_vrm'])],
        extensions: { ...(json.extensions as object), VRMC_vrm: vrm },
      },
    },
  }
}

/** Expressions as the figure makes them; its other shapes as expressions of their own, those of the standard's names as such. */
function expressionsOf(json: GltfJson, binds: Binds = {}): object | undefined {
  const preset: Record<string, { morphTargetBinds: object[] }> = {}
  const custom: Record<string, { morphTargetBinds: object[] }> = {}
  const bound = new Map<string, { expression: string; weight: number }[]>()
  for (const [expression, list] of Object.entries(binds))
    for (const { shape, weight } of list ?? []) bound.set(shape, [...(bound.get(shape) ?? []), { expression, weight }])
  json.nodes?.forEach((node, n) => {
    targetNames(node.mesh === undefined ? undefined : json.meshes?.[node.mesh]).forEach((name, index) => {
      const known = PRESETS.find(p => p.toLowerCase() === name.toLowerCase().replace(/[\s_-]+/g, ''))
      const told = bound.get(name)
      for (const { expression, weight } of told ?? [])
        (preset[expression] ??= { morphTargetBinds: [] }).morphTargetBinds.push({ node: n, index, weight })
      if (told) return
      const list = known && !(known in binds) ? preset : custom
      ;(list[list === preset ? known! : name] ??= { morphTargetBinds: [] }).morphTargetBinds.push({ node: n, index, weight: 1 }) // prettier-ignore
    })
  })
  const some = (o: object): boolean => Object.keys(o).length > 0
  return some(preset) || some(custom) ? { ...(some(preset) && { preset }), ...(some(custom) && { custom }) } : undefined
}

/** The figure whose document was asked to be a VRM, for a proof that holds everything else against what it came from. */
export function saidToBeVrm(content: GltfContent, written: GltfDocument): GltfContent {
  const { source } = content
  const vrm = written.json.extensions?.VRMC_vrm
  if (!source || source.document.json.extensions?.VRMC_vrm) return content
  const { json } = source.document
  const said = { ...json, extensions: { ...json.extensions, VRMC_vrm: vrm } }
  return {
    ...content,
    source: {
      ...source,
      document: {
        ...source.document,
        json: { ...said, extensionsUsed: [...(json.extensionsUsed ?? []), 'VRMC_vrm'] },
      },
    },
  }
}

/**
 * Holds the humanoid of a VRM that was read back against the roles of its joints.
 * @throws ChiraxisError `unproven`
 */
export function proveHumanoid(json: GltfJson, { skeleton }: GltfContent): void {
  const bones = (json.extensions as { VRMC_vrm?: Vrm } | undefined)?.VRMC_vrm?.humanoid.humanBones ?? {}
  const { joints } = recogniseRoles(skeleton!)
  for (const [role, j] of Object.entries(joints)) {
    if (bodyPart(role)?.vrm !== true) continue
    const named = json.nodes?.[bones[role]?.node ?? -1]?.name
    if (named !== skeleton!.names[j])
      throw keptBack(`its ${role} is ${named ?? 'nothing'} and not ${skeleton!.names[j]}`)
  }
}
