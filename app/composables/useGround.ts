import { weldMembers, type Mesh } from '@chiraxis/core/mesh'
import { groundOf, type CanvasGround } from '@chiraxis/core/paint'

/** A body laid open for brushes: vertices at one place are one, and which of the body's each of them stands for. */
export interface LaidOpen {
  readonly mesh: Mesh
  readonly ground: CanvasGround
  readonly starts: Uint32Array
  readonly members: Uint32Array
}

let held: LaidOpen | undefined
let laying: { mesh: Mesh; waiting: (() => void)[] } | undefined

/**
 * The body laid open. A dense one takes a moment; the page stays free meanwhile.
 * @param ready called once it is there, where it is not yet
 */
export function layOpen(mesh: Mesh, height: number, ready: () => void): LaidOpen | undefined {
  if (held?.mesh === mesh) return held
  if (laying?.mesh === mesh) {
    laying.waiting.push(ready)
    return undefined
  }
  const own = (laying = { mesh, waiting: [ready] })
  void groundOf(mesh, height).then(ground => {
    if (laying !== own) return
    laying = undefined
    held = { mesh, ground, ...weldMembers(ground.weld) }
    for (const tell of own.waiting) tell()
  })
  return undefined
}

/** The body's own vertices that welded ones stand for. */
export function membersOf({ starts, members }: LaidOpen, welded: Iterable<number>): number[] {
  const out: number[] = []
  for (const w of welded) for (let e = starts[w]!; e < starts[w + 1]!; e++) out.push(members[e]!)
  return out
}
