import { ChiraxisError } from '@chiraxis/core/math'

const LIMITS = {
  elements: 4_000_000,
  depth: 300,
  /** Nodes of the scene once every instance is put in its place. */
  nodes: 20_000,
  /** Corners of one face, or joints of one vertex. */
  corners: 1_000,
} as const

const refuse = (why: string): ChiraxisError =>
  new ChiraxisError('bad-syntax', `The COLLADA file could not be read: ${why}.`)
const tooMuch = (what: string): ChiraxisError =>
  new ChiraxisError('too-large', `The COLLADA file holds ${what}, more than can be read.`)

/**
 * Looks over the text of a COLLADA before the 3D library's loader does: elements that close, as many as can be held, and
 * nothing that grows without end once it is put together.
 * @throws ChiraxisError `bad-syntax`, `too-large`
 */
export function checkCollada(text: string): void {
  checkElements(text)
  checkCounts(text)
}

/** Walks over all tags; a node that is instanced counts wherever it is put. */
function checkElements(text: string): void {
  const open: string[] = []
  /** Nodes by id: how many each holds itself, and which others it puts into its place. */
  const own = new Map<string, { nodes: number; instances: string[] }>()
  const scene = { nodes: 0, instances: [] as string[] }
  const within: { nodes: number; instances: string[] }[] = [scene]
  let elements = 0
  for (let at = text.indexOf('<'); at >= 0; at = text.indexOf('<', at)) {
    if (text.startsWith('<!--', at) || text.startsWith('<![CDATA[', at) || text.startsWith('<?', at)) {
      const [close, long] = text.startsWith('<!--', at)
        ? ['-->', 3]
        : text.startsWith('<?', at)
          ? ['?>', 2]
          : [']]>', 3]
      const end = text.indexOf(String(close), at)
      if (end < 0) throw refuse('a part of it is never closed')
      at = end + Number(long)
      continue
    }
    const end = text.indexOf('>', at)
    if (end < 0 || end - at > 100_000) throw refuse('an element is never closed')
    if (++elements > LIMITS.elements) throw tooMuch('millions of elements')
    const tag = text.slice(at + 1, end)
    at = end + 1
    const name = /^\/?([A-Za-z_][\w:.-]*)/.exec(tag)?.[1]
    if (!name) throw refuse('an element has no name')
    if (tag.startsWith('/')) {
      if (open.pop() !== name) throw refuse(`the element ${name.slice(0, 40)} is closed where it was not opened`)
      if (name === 'node') within.pop()
      continue
    }
    if (name === 'instance_node') {
      const url = /\burl\s*=\s*["']#([^"']*)["']/.exec(tag)?.[1]
      if (url !== undefined) within[within.length - 1].instances.push(url)
    }
    const closed = tag.endsWith('/')
    if (name === 'node') {
      const id = /\bid\s*=\s*["']([^"']*)["']/.exec(tag)?.[1]
      for (const around of within) around.nodes++
      const node = { nodes: 1, instances: [] as string[] }
      if (id !== undefined) own.set(id, node)
      // what lies inside is put in place together with it
      within[within.length - 1].instances.push(`\u0000${id ?? ''}`)
      if (!closed) within.push(node)
    }
    if (closed) continue
    open.push(name)
    if (open.length > LIMITS.depth) throw tooMuch(`elements ${LIMITS.depth} levels deep`)
  }
  if (open.length > 0) throw new ChiraxisError('truncated-file', `The COLLADA file ends within the element ${open[open.length - 1].slice(0, 40)}; it is cut short.`) // prettier-ignore
  let total = scene.nodes
  const known = new Map<string, number>()
  const grown = (id: string, above: ReadonlySet<string>): number => {
    const before = known.get(id)
    if (before !== undefined) return before
    const node = own.get(id)
    if (!node) return 0
    if (above.has(id)) throw new ChiraxisError('cyclic-nodes', `The node ${id.slice(0, 60)} of the COLLADA file holds itself.`) // prettier-ignore
    if (above.size > LIMITS.depth) throw tooMuch('nodes put into each other without end')
    const inner = new Set(above).add(id)
    let sum = node.nodes
    for (const other of node.instances) {
      // nodes written inside are counted; their own instances are not yet
      const inside = other.startsWith('\u0000')
      const at = inside ? other.slice(1) : other
      if (at === '' && inside) continue
      sum += inside ? Math.max(0, grown(at, inner) - (own.get(at)?.nodes ?? 0)) : grown(at, inner)
      if (sum > LIMITS.nodes) throw tooMuch(`more than ${LIMITS.nodes} nodes, each counted wherever it is put`)
    }
    known.set(id, sum)
    return sum
  }
  for (const id of own.keys()) grown(id, new Set())
  for (const other of scene.instances) if (!other.startsWith('\u0000')) total += grown(other, new Set())
  if (total > LIMITS.nodes) throw tooMuch(`more than ${LIMITS.nodes} nodes`)
}

/** Counts of corners and of joints a vertex must be told for real: what they add up to is looped over. */
function checkCounts(text: string): void {
  for (const match of text.matchAll(/<vcount\b[^>]*>([^<]*)</g)) {
    let sum = 0
    for (const word of (match[1] ?? '').trim().split(/\s+/)) {
      if (word === '') continue
      const n = Number(word)
      if (!Number.isInteger(n) || n < 0) throw refuse('a count of corners or weights is no whole number')
      if (n > LIMITS.corners) throw tooMuch(`${n} corners in one face or weights on one vertex`)
      sum += n
    }
    if (sum > text.length) throw new ChiraxisError('truncated-file', 'The COLLADA file promises more corners or weights than it holds; it is cut short.') // prettier-ignore
  }
}
