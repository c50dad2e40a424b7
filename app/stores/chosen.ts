import { defineStore } from 'pinia'
import { childrenOf, jointIds, jointRef, partnerJoint } from '@chiraxis/core/skeleton'
import { useDerived } from './derived'

/** The joints that are worked on together: the one in play, which is shown in the bench, and those chosen beside it. */
export const useChosen = defineStore('chosen', () => {
  const derived = useDerived()
  const others = ref<ReadonlySet<string>>(new Set())
  const ids = computed(() => (derived.skeleton ? jointIds(derived.skeleton) : []))
  let own = false
  // whoever chooses one joint elsewhere chooses it alone
  watch(
    () => derived.chosenJoint,
    () => {
      if (!own) others.value = new Set()
    },
    { flush: 'sync' },
  )
  /** All of them, in the order of the skeleton. */
  const joints = computed(() => ids.value.flatMap((id, j) => (j === derived.joint || others.value.has(id) ? [j] : [])))
  const refs = computed(() => (derived.skeleton ? joints.value.map(j => jointRef(derived.skeleton!, j)) : []))
  const many = computed(() => joints.value.length > 1)
  const isAlso = (j: number): boolean => j !== derived.joint && others.value.has(ids.value[j] ?? '')

  /** Chooses joints together; the first is the one in play. */
  function choose(list: readonly number[]): void {
    const [first] = list
    if (first === undefined) return
    own = true
    derived.joint = first
    own = false
    others.value = new Set(list.slice(1).map(j => ids.value[j]!))
  }
  /** Presses a joint as in any list: alone, one more or less, or all from the one in play to it. */
  function press(
    j: number,
    event: { ctrlKey: boolean; metaKey: boolean; shiftKey: boolean },
    order?: readonly number[],
  ): void {
    if (event.shiftKey && order) {
      const [a, b] = [order.indexOf(derived.joint), order.indexOf(j)]
      if (a < 0 || b < 0) return choose([j])
      const run = order.slice(Math.min(a, b), Math.max(a, b) + 1)
      choose([derived.joint, ...run.filter(k => k !== derived.joint)])
    } else if (event.ctrlKey || event.metaKey || event.shiftKey) toggle(j)
    else choose([j])
  }
  function toggle(j: number): void {
    if (!joints.value.includes(j)) choose([j, ...joints.value])
    else if (many.value)
      choose(
        j === derived.joint
          ? joints.value.filter(k => k !== j)
          : [derived.joint, ...joints.value.filter(k => k !== j && k !== derived.joint)],
      )
  }
  /** Everything that hangs below what is chosen comes along. */
  function withBelow(): void {
    const s = derived.skeleton
    if (!s) return
    const children = childrenOf(s)
    const out = new Set<number>()
    const walk = (j: number): void => {
      out.add(j)
      children[j]!.forEach(walk)
    }
    ;[derived.joint, ...joints.value].forEach(walk)
    choose([...out])
  }
  function withOtherSide(): void {
    const s = derived.skeleton
    if (!s) return
    const across = joints.value.map(j => partnerJoint(s, j)).filter(j => j >= 0)
    choose([...new Set([derived.joint, ...joints.value, ...across])])
  }
  const all = (): void => choose([derived.joint, ...ids.value.map((_, j) => j).filter(j => j !== derived.joint)])

  return { joints, refs, many, isAlso, choose, press, withBelow, withOtherSide, all }
})
