import type { Document, Material, Node, Primitive } from '@gltf-transform/core'

const MOVED = /^(POSITION|NORMAL|TANGENT|JOINTS_\d|WEIGHTS_\d)$/

export interface Asked {
  /** Nodes that may be gone: joints of a skeleton that was replaced. */
  readonly gone?: readonly string[]
  /** Whether vertices may be told in another space. */
  readonly moved?: boolean
  /** Whether animations of the file may be gone. */
  readonly clips?: boolean
  /** Materials that may differ. */
  readonly materials?: readonly string[]
}

/** Through the SDK: what of a file is not in another one any more. An empty list where all is. */
export function missingFrom(a: Document, b: Document, asked: Asked = {}): string[] {
  const out: string[] = []
  const check = (ok: boolean, what: string): void => {
    if (!ok) out.push(what)
  }
  const [ra, rb] = [a.getRoot(), b.getRoot()]
  check(same(ra.getExtras(), rb.getExtras()), 'root extras')
  check(ra.getAsset().copyright === rb.getAsset().copyright, 'copyright')
  check(ra.listScenes().length === 0 || ra.listScenes().length === rb.listScenes().length, 'scenes')
  ra.listScenes().forEach((s, i) =>
    check(
      same(s.getExtras(), rb.listScenes()[i]?.getExtras()) && s.getName() === rb.listScenes()[i]?.getName(),
      `scene ${i}`,
    ),
  )
  ra.listTextures().forEach((t, i) => {
    const u = rb.listTextures()[i]
    check(
      u !== undefined &&
        t.getName() === u.getName() &&
        t.getMimeType() === u.getMimeType() &&
        bytes(t.getImage(), u.getImage()),
      `texture ${i} ${t.getName()}`,
    )
  })
  ra.listMaterials().forEach((m, i) => {
    if (!asked.materials?.includes(m.getName()))
      check(sameMaterial(m, rb.listMaterials()[i]), `material ${m.getName()}`)
  })
  const byName = (d: Document): Map<string, Node[]> => {
    const map = new Map<string, Node[]>()
    for (const n of d.getRoot().listNodes()) map.set(n.getName(), [...(map.get(n.getName()) ?? []), n])
    return map
  }
  const others = byName(b)
  for (const n of ra.listNodes()) {
    const name = n.getName()
    if (asked.gone?.includes(name)) continue
    const m = others.get(name)?.shift()
    if (!m) {
      out.push(`node ${name}`)
      continue
    }
    const parent = n.getParentNode()?.getName()
    check(asked.gone?.includes(parent ?? '') || parent === m.getParentNode()?.getName(), `parent of ${name}`)
    check(contains(m.getExtras(), n.getExtras()), `extras of ${name}`)
    check((n.getCamera() === null) === (m.getCamera() === null), `camera of ${name}`)
    for (const e of n.listExtensions()) check(m.getExtension(e.extensionName) !== null, `extension of ${name}`)
    const [x, y] = [n.getMesh(), m.getMesh()]
    if (!x) continue
    if (!y) {
      out.push(`mesh of ${name}`)
      continue
    }
    check(
      x.getName() === y.getName() && same(x.getExtras(), y.getExtras()) && same(x.getWeights(), y.getWeights()),
      `mesh ${name}`,
    )
    check(x.listPrimitives().length === y.listPrimitives().length, `surfaces of ${name}`)
    x.listPrimitives().forEach((p, i) =>
      out.push(...missingOf(p, y.listPrimitives()[i], `${name} ${i}`, asked.moved === true)),
    )
  }
  if (!asked.clips) {
    for (const clip of ra.listAnimations()) {
      const twin = rb.listAnimations().find(c => c.getName() === clip.getName())
      if (!twin) {
        out.push(`clip ${clip.getName()}`)
        continue
      }
      check(same(clip.getExtras(), twin.getExtras()), `extras of clip ${clip.getName()}`)
      for (const c of clip.listChannels()) {
        const d = twin
          .listChannels()
          .find(
            o =>
              o.getTargetPath() === c.getTargetPath() && o.getTargetNode()?.getName() === c.getTargetNode()?.getName(),
          )
        check(d !== undefined, `channel ${c.getTargetPath()} of ${c.getTargetNode()?.getName()} in ${clip.getName()}`)
        if (!d || asked.moved) continue
        const [s, t] = [c.getSampler()!, d.getSampler()!]
        check(
          s.getInterpolation() === t.getInterpolation() &&
            values(s.getInput()!.getArray(), t.getInput()!.getArray()) &&
            values(s.getOutput()!.getArray(), t.getOutput()!.getArray()),
          `keys of ${clip.getName()}`,
        )
      }
    }
  }
  return out
}

function missingOf(a: Primitive, b: Primitive | undefined, name: string, moved: boolean): string[] {
  const out: string[] = []
  if (!b) return [`surface ${name}`]
  for (const semantic of a.listSemantics()) {
    const [x, y] = [a.getAttribute(semantic)!, b.getAttribute(semantic)]
    if (!y) {
      if (!moved || !/^(JOINTS|WEIGHTS)_/.test(semantic)) out.push(`${semantic} of ${name}`)
      continue
    }
    if (moved && MOVED.test(semantic)) continue
    if (x.getType() !== y.getType() || x.getNormalized() !== y.getNormalized() || !values(x.getArray(), y.getArray()))
      out.push(`values of ${semantic} of ${name}`)
  }
  if (a.getMaterial()?.getName() !== b.getMaterial()?.getName()) out.push(`material of ${name}`)
  if (!same(a.getExtras(), b.getExtras())) out.push(`extras of surface ${name}`)
  if (
    !moved &&
    (a.getMode() !== b.getMode() || !values(a.getIndices()?.getArray() ?? null, b.getIndices()?.getArray() ?? null))
  )
    out.push(`triangles of ${name}`)
  if (a.listTargets().length !== b.listTargets().length) out.push(`morph shapes of ${name}`)
  a.listTargets().forEach((t, i) => {
    for (const s of t.listSemantics()) {
      const y = b.listTargets()[i]?.getAttribute(s)
      if (!y || y.getCount() !== t.getAttribute(s)!.getCount()) out.push(`${s} of morph shape ${i} of ${name}`)
      else if (!moved && !values(t.getAttribute(s)!.getArray(), y.getArray()))
        out.push(`values of morph shape ${i} of ${name}`)
    }
  })
  return out
}

function sameMaterial(a: Material, b: Material | undefined): boolean {
  return b !== undefined && a.equals(b, new Set(['uri']))
}

const same = (a: unknown, b: unknown): boolean => JSON.stringify(sorted(a)) === JSON.stringify(sorted(b))
const sorted = (v: unknown): unknown =>
  typeof v === 'object' && v !== null && !Array.isArray(v)
    ? Object.fromEntries(
        Object.entries(v)
          .sort(([a], [b]) => (a < b ? -1 : 1))
          .map(([k, x]) => [k, sorted(x)]),
      )
    : v
const contains = (all: Record<string, unknown>, some: Record<string, unknown>): boolean =>
  Object.entries(some).every(([k, v]) => same(all[k], v))

const bytes = (a: Uint8Array | null, b: Uint8Array | null): boolean => values(a, b)
function values(a: ArrayLike<number> | null, b: ArrayLike<number> | null): boolean {
  if (a === null || b === null) return a === b
  if (a.length !== b.length) return false
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false
  return true
}

/**
 * Where every corner of a file's triangles stands at rest, skins applied, by node name: as any reader would show it.
 */
export function shown(document: Document): Map<string, Float64Array> {
  const out = new Map<string, Float64Array>()
  for (const node of document.getRoot().listNodes()) {
    const mesh = node.getMesh()
    if (!mesh) continue
    const points: number[] = []
    const skin = node.getSkin()
    const inverse: number[][] = []
    skin?.listJoints().forEach((joint, i) => {
      const own: number[] = []
      skin.getInverseBindMatrices()?.getElement(i, own)
      inverse.push(multiply(joint.getWorldMatrix(), own.length ? own : PLAIN))
    })
    for (const p of mesh.listPrimitives()) {
      const position = p.getAttribute('POSITION')!
      const element: number[] = []
      const j: number[] = []
      const w: number[] = []
      for (let v = 0; v < position.getCount(); v++) {
        position.getElement(v, element)
        if (!skin) {
          points.push(...at(node.getWorldMatrix(), element))
          continue
        }
        const sum = [0, 0, 0]
        let total = 0
        for (let s = 0; p.getAttribute(`JOINTS_${s}`); s++) {
          p.getAttribute(`JOINTS_${s}`)!.getElement(v, j)
          p.getAttribute(`WEIGHTS_${s}`)!.getElement(v, w)
          for (let k = 0; k < 4; k++) {
            if (!(w[k] > 0)) continue
            total += w[k]
            at(inverse[j[k]], element).forEach((x, i) => (sum[i] += w[k] * x))
          }
        }
        points.push(...sum.map(x => x / (total || 1)))
      }
    }
    const name = node.getName()
    out.set(out.has(name) ? `${name} again` : name, Float64Array.from(points))
  }
  return out
}

const PLAIN = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]
const at = (m: ArrayLike<number>, p: readonly number[]): number[] => [
  m[0] * p[0] + m[4] * p[1] + m[8] * p[2] + m[12],
  m[1] * p[0] + m[5] * p[1] + m[9] * p[2] + m[13],
  m[2] * p[0] + m[6] * p[1] + m[10] * p[2] + m[14],
]
function multiply(a: ArrayLike<number>, b: ArrayLike<number>): number[] {
  const m = new Array<number>(16)
  for (let c = 0; c < 4; c++)
    for (let r = 0; r < 4; r++)
      m[4 * c + r] = a[r] * b[4 * c] + a[4 + r] * b[4 * c + 1] + a[8 + r] * b[4 * c + 2] + a[12 + r] * b[4 * c + 3]
  return m
}

/** Largest distance between two files' corners, node by node, the first moved by a matrix; infinite where some are missing. */
export function apart(a: Document, b: Document, matrix: ArrayLike<number> = PLAIN): number {
  const [x, y] = [shown(a), shown(b)]
  let most = 0
  for (const [name, points] of x) {
    const other = y.get(name)
    if (!other || other.length !== points.length) return Infinity
    for (let i = 0; i < points.length; i += 3) {
      const p = at(matrix, [points[i], points[i + 1], points[i + 2]])
      for (let k = 0; k < 3; k++) most = Math.max(most, Math.abs(p[k] - other[i + k]))
    }
  }
  return most
}
