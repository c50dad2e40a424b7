import { MOST_CORRECTIVES, USUAL_EASE, type Corrective } from '@chiraxis/core/corrective'
import { angleOf } from '@chiraxis/core/math'
import { findJoint, jointRef, turnAt, turnsOf, type PoseTurn } from '@chiraxis/core/skeleton'
import { strike } from '@chiraxis/core/strain'
import { useDerived } from '~/stores/derived'
import { useProject } from '~/stores/project'
import { useView } from '~/stores/view'

/** A turn smaller than this is no pose to correct, radians. */
const LEAST = (5 * Math.PI) / 180

/** The correctives of the figure: begun from a joint and the pose it is shown in, chosen, changed and taken away. */
export function useCorrectives() {
  const view = useView()
  const derived = useDerived()
  const project = useProject()
  const poses = useCheckPoses()

  const list = computed<readonly Corrective[]>(() => (project.recipe.correctives ?? []) as readonly Corrective[])
  const current = computed(() => list.value.find(c => c.id === view.corrective))
  const pose = computed(() => poses.value.find(p => p.id === view.pose))
  const nameOf = (ref: string): string => {
    const s = derived.skeleton
    return s ? jointLabel(s, findJoint(s, ref)) : ref
  }
  const lost = (id: string): string | undefined => derived.correctives.lost.find(l => l.id === id)?.reason

  /** What would be corrected now: the joint in play as the pose turns it, or everything the pose turns. */
  function turnsNow(whole: boolean): PoseTurn[] {
    const s = derived.skeleton
    if (!s || !pose.value) return []
    const rotations = strike(s, pose.value)
    if (whole) return turnsOf(s, rotations).filter(t => angleOf([...t.by]) > LEAST)
    const by = turnAt(s, rotations, derived.joint)
    return angleOf(by) > LEAST ? [{ joint: jointRef(s, derived.joint), by }] : []
  }
  const degrees = (turns: readonly PoseTurn[]): number =>
    turns.length === 1 ? Math.round((angleOf([...turns[0]!.by]) * 180) / Math.PI) : 0

  function replace(next: readonly Corrective[], what: string, joins = false): void {
    project.change(what, { ...project.recipe, correctives: [...next] as Corrective[] }, joins)
  }
  function begin(whole: boolean): void {
    const turns = turnsNow(whole)
    if (turns.length === 0 || list.value.length >= MOST_CORRECTIVES) return
    const wish = whole ? pose.value!.label : `${nameOf(turns[0]!.joint)}, ${pose.value!.label.toLowerCase()}`
    const bare = view.mirror ? wish.replace(/^(Left|Right) (.)/, (_, _s, c: string) => c.toUpperCase()) : wish
    const taken = new Set(list.value.map(c => c.label))
    let label = bare
    for (let i = 2; taken.has(label); i++) label = `${bare} ${i}`
    const id = `corrective-${crypto.randomUUID()}`
    const made: Corrective = { id, label, turns, ease: USUAL_EASE, keep: 1, mirrored: view.mirror, strokes: [] }
    replace([...list.value, made], `Begin the corrective ${label}`)
    choose(id)
  }
  function choose(id: string | undefined): void {
    view.corrective = id
    view.poseShare = 1
    view.plainSkin = false
    const s = derived.skeleton
    const turned = list.value.find(c => c.id === id)?.turns[0]
    const j = s && turned ? findJoint(s, turned.joint) : -1
    if (j >= 0) derived.joint = j
  }
  function change(id: string, part: Partial<Corrective>, what: string, joins = false): void {
    replace(
      list.value.map(c => (c.id === id ? { ...c, ...part } : c)),
      what,
      joins,
    )
  }
  function remove(id: string): void {
    const gone = list.value.find(c => c.id === id)
    if (!gone) return
    if (view.corrective === id) view.corrective = undefined
    replace(
      list.value.filter(c => c.id !== id),
      `Remove the corrective ${gone.label}`,
    )
  }
  return { list, current, pose, nameOf, lost, turnsNow, degrees, begin, choose, change, remove }
}
