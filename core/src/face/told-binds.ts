import { EXPRESSIONS, type Bind, type Binds, type Expression } from './expressions'

interface ToldMesh {
  readonly extras?: unknown
  readonly primitives?: readonly { readonly targets?: readonly unknown[]; readonly extras?: unknown }[]
}
interface ToldFile {
  readonly nodes?: readonly { readonly mesh?: number }[]
  readonly meshes?: readonly ToldMesh[]
  readonly extensions?: Readonly<Record<string, unknown>>
}

/** Names of presets before the first version of the standard. */
const EARLIER: Readonly<Record<string, Expression>> = {
  joy: 'happy',
  angry: 'angry',
  sorrow: 'sad',
  fun: 'relaxed',
  a: 'aa',
  i: 'ih',
  u: 'ou',
  e: 'ee',
  o: 'oh',
  blink: 'blink',
  blink_l: 'blinkLeft',
  blink_r: 'blinkRight',
  lookup: 'lookUp',
  lookdown: 'lookDown',
  lookleft: 'lookLeft',
  lookright: 'lookRight',
}

/** Which shapes make which expression as a humanoid file tells it (VRM 1.0, and 0.x before it); nothing where it is none. */
export function bindsTold(file: ToldFile): Binds {
  const out: Partial<Record<Expression, Bind[]>> = {}
  const put = (expression: Expression, mesh: number | undefined, index: unknown, weight: unknown): void => {
    const told = mesh === undefined ? undefined : file.meshes?.[mesh]
    const names = (told?.extras as { targetNames?: unknown } | null | undefined)?.targetNames
    const count = told?.primitives?.[0]?.targets?.length ?? 0
    if (typeof index !== 'number' || !(index >= 0 && index < count)) return
    const name = Array.isArray(names) && typeof names[index] === 'string' ? names[index] : `morph ${index + 1}`
    const by = typeof weight === 'number' && Number.isFinite(weight) ? Math.min(1, Math.max(0, weight)) : 1
    const list = (out[expression] ??= [])
    if (!list.some(b => b.shape === name)) list.push({ shape: name, weight: by })
  }
  const { VRMC_vrm: now, VRM: earlier } = (file.extensions ?? {}) as {
    VRMC_vrm?: null | { expressions?: { preset?: Record<string, { morphTargetBinds?: unknown }> } }
    VRM?: { blendShapeMaster?: { blendShapeGroups?: unknown } }
  }
  for (const e of EXPRESSIONS) {
    const binds = now?.expressions?.preset?.[e]?.morphTargetBinds
    for (const b of Array.isArray(binds) ? (binds as { node?: number; index?: unknown; weight?: unknown }[]) : [])
      put(e, file.nodes?.[b?.node ?? -1]?.mesh, b?.index, b?.weight)
  }
  const groups = earlier?.blendShapeMaster?.blendShapeGroups
  for (const g of Array.isArray(groups) ? (groups as { presetName?: string; binds?: unknown }[]) : []) {
    const e = EARLIER[String(g?.presetName).toLowerCase()]
    if (!e) continue
    for (const b of Array.isArray(g.binds) ? (g.binds as { mesh?: number; index?: unknown; weight?: unknown }[]) : [])
      put(e, b?.mesh, b?.index, typeof b?.weight === 'number' ? b.weight / 100 : undefined)
  }
  return out
}
