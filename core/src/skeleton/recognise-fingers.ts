import { angleBetween, distance, dot, normalize, sub, type Vec3, maxOf } from '../math'
import { childrenOf, jointsInWorld, type Skeleton } from './skeleton'

const WORDS: readonly (readonly [string, RegExp])[] = [
  ['Thumb', /thumb|pollex/i],
  ['Index', /index|pointer|fore_?finger/i],
  ['Middle', /middle|(^|[^a-z])mid([^a-z]|$)/i],
  ['Ring', /ring/i],
  ['Little', /little|pinky|pinkie|small/i],
]
/** Names of joints that only say where a bone ends. */
export const ENDS = /(end|tip|nub|site)\d*$/i

/**
 * Finds the finger joints below both hands: the unbranched runs that hang on them, told by their names, else by
 * where they stand (the thumb leaves nearest the wrist and most aslant, the others follow across the palm).
 * @param hands joint of each hand
 * @returns joint by VRM role
 */
export function recogniseFingers(
  skeleton: Skeleton,
  hands: { readonly left?: number; readonly right?: number },
): Record<string, number> {
  const children = childrenOf(skeleton)
  const joints = jointsInWorld(skeleton)
  const roles: Record<string, number> = {}
  for (const side of ['left', 'right'] as const) {
    const hand = hands[side]
    if (hand === undefined) continue
    const runs = runsBelow(hand, children).filter(run => run.length >= 1 && run.length <= 5)
    const named = runs.map(run => WORDS.find(([, word]) => run.some(j => word.test(skeleton.names[j])))?.[0])
    const told = named.every(n => n !== undefined) && new Set(named).size === named.length
    const names = told
      ? (named as string[])
      : runs.length >= 2 && runs.length <= 5 && runs.every(r => r.length >= 2)
        ? byPlace(
            runs.map(run => run.map(j => joints[j].position)),
            joints[hand].position,
          )
        : []
    runs.forEach((run, i) => {
      const finger = names[i]
      if (!finger) return
      let chain = run.length > 1 && ENDS.test(skeleton.names[run[run.length - 1]]) ? run.slice(0, -1) : run
      // four joints are a bone of the palm and three of the finger, or three and an end without a name for it
      if (chain.length >= 4)
        chain =
          finger !== 'Thumb' && /meta|palm/i.test(skeleton.names[chain[0]]) ? chain.slice(1, 4) : chain.slice(0, 3)
      const parts = finger === 'Thumb' ? ['Metacarpal', 'Proximal', 'Distal'] : ['Proximal', 'Intermediate', 'Distal']
      chain.forEach((j, k) => {
        if (parts[k]) roles[side + finger + parts[k]] = j
      })
    })
  }
  return roles
}

/** Unbranched runs at the ends of the tree below a joint; joints that carry several are the palm. */
function runsBelow(hand: number, children: readonly number[][]): number[][] {
  const runs: number[][] = []
  const visit = (j: number, run: number[]): void => {
    const own = [...run, j]
    if (children[j].length === 0) runs.push(own)
    else if (children[j].length === 1) visit(children[j][0], own)
    else children[j].forEach(c => visit(c, []))
  }
  children[hand].forEach(c => visit(c, []))
  return runs
}

function byPlace(runs: readonly (readonly Vec3[])[], wrist: Vec3): string[] {
  const tips = runs.map(r => r[r.length - 1])
  const mean = tips.reduce(
    (s, t) => [s[0] + t[0] / tips.length, s[1] + t[1] / tips.length, s[2] + t[2] / tips.length] as Vec3,
    [0, 0, 0] as Vec3,
  )
  const ahead = normalize(sub(mean, wrist))
  const reach = maxOf(runs.map(r => distance(r[r.length - 1], wrist)))
  const scores = runs.map(
    r =>
      angleBetween(normalize(sub(r[r.length - 1], r[0]), ahead), ahead) / 0.6 +
      2 * (1 - dot(sub(r[r.length - 1], wrist), ahead) / reach) +
      1.5 * (1 - dot(sub(r[0], wrist), ahead) / reach),
  )
  const thumb = scores.indexOf(maxOf(scores))
  const rest = [...runs.keys()]
    .filter(i => i !== thumb)
    .sort((a, b) => distance(runs[a][0], runs[thumb][0]) - distance(runs[b][0], runs[thumb][0]))
  const out: string[] = runs.map(() => '')
  out[thumb] = 'Thumb'
  rest.forEach((i, k) => {
    out[i] = ['Index', 'Middle', 'Ring', 'Little'][k]
  })
  return out
}
