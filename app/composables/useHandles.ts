import {
  contourWith,
  driveOfLimb,
  isDriven,
  type Contour,
  type DriveChoice,
  type DrivenLimb,
  type Handle,
  type HandleChoices,
  type HandleGroup,
  type ShapeEdit,
} from '@chiraxis/core/handles'
import { isFinger, partnerOf, roleLabel, sideOf } from '@chiraxis/core/body'
import { conjugate, fromRotationVector, quatAt, rotate } from '@chiraxis/core/math'
import { atBind, mirroredName, worldPose } from '@chiraxis/core/skeleton'

/** Handles that are chosen, by what they are known by. */
const chosen = ref<readonly string[]>([])
/** What the handles of the middle are pulled with. */
const KINDS: Record<Handle['kind'], string> = {
  turn: 'turn',
  end: 'end',
  bend: 'bend',
  move: 'place',
  figure: 'whole figure',
}

/** The figure's handles: which there are, how they are shaped and driven, which are chosen. */
export function useHandles() {
  const derived = useDerived()
  const project = useProject()
  const body = computed(() => {
    const b = derived.handles
    // handles of joints that are being worked out anew belong to no figure
    return b && derived.skeleton && b.volumes.volumes.length === derived.skeleton.names.length ? b : undefined
  })
  const choices = computed<HandleChoices>(() => project.recipe.handles ?? {})
  const all = computed<readonly Handle[]>(() => body.value?.set.handles ?? [])
  const byId = computed(() => new Map(all.value.map(h => [h.id, h])))
  const picked = computed(() => chosen.value.flatMap(id => byId.value.get(id) ?? []))
  const one = computed(() => (picked.value.length === 1 ? picked.value[0] : undefined))
  const limbs = computed<readonly DrivenLimb[]>(() => body.value?.set.limbs ?? [])
  const driveOf = (limb: DrivenLimb): DriveChoice => driveOfLimb(limb, choices.value.drives)

  function keep(name: string, change: Partial<HandleChoices>, joins = false): void {
    const next: Record<string, unknown> = { ...choices.value, ...change }
    for (const [key, value] of Object.entries(next)) {
      const empty = Array.isArray(value) ? value.length === 0 : Object.keys((value as object) ?? {}).length === 0
      if (value === undefined || empty) delete next[key]
    }
    const handles = Object.keys(next).length > 0 ? (next as HandleChoices) : undefined
    project.change(name, { ...project.recipe, handles }, joins)
  }

  // --- names ---
  const labelOf = (h: Handle): string => {
    if (h.kind === 'figure') return 'Whole figure'
    const name = derived.skeleton?.roles[h.joint] ? roleLabel(h.ref) : (derived.skeleton?.names[h.joint] ?? h.ref)
    return h.kind === 'turn' ? name : `${name}, ${KINDS[h.kind]}`
  }

  // --- which are shown ---
  /** Hands and faces whose small handles are shown: those something of is chosen of. */
  const opened = computed(
    () => new Set(picked.value.filter(h => h.minor || /Hand$/.test(h.ref)).map(h => sideOf(h.ref))),
  )
  const hidden = (h: Handle): boolean => choices.value.shapes?.[h.id]?.hidden === true
  const shown = computed(() => {
    const b = body.value
    if (!b) return []
    return b.set.handles.filter(h => {
      if (hidden(h) || !isDriven(b.set, h, choices.value.drives)) return false
      return !h.minor || chosen.value.includes(h.id) || (isFinger(h.ref) && opened.value.has(sideOf(h.ref)))
    })
  })
  const bind = computed(() => derived.skeleton && worldPose(atBind(derived.skeleton)))
  /** Shapes as they are drawn: the body's own, a little larger, with what was changed by hand. */
  const shapes = computed(() => new Map(all.value.map(h => [h.id, drawnShape(h)])))
  const shapeOf = (h: Handle): Contour => shapes.value.get(h.id) ?? h.shape
  function drawnShape(h: Handle): Contour {
    const edit = choices.value.shapes?.[h.id]
    const tall = derived.shape?.straightened.height ?? 1.7
    const wide = h.kind === 'figure' ? 0.05 : h.kind === 'move' ? 0.03 : 0.004
    const back = bind.value && conjugate(quatAt(bind.value.rotations, h.shape.joint))
    return contourWith(h.shape, {
      grow: edit?.grow,
      by: h.kind === 'bend' ? 0 : wide * tall,
      offset: edit?.offset && back ? rotate(back, [...edit.offset]) : undefined,
      turn: edit?.turn && back ? fromRotationVector(rotate(back, [...edit.turn])) : undefined,
    })
  }

  // --- choosing ---
  function choose(ids: readonly string[], more = false): void {
    if (!more) chosen.value = [...ids]
    else {
      const now = new Set(chosen.value)
      for (const id of ids)
        if (now.has(id)) now.delete(id)
        else now.add(id)
      chosen.value = [...now]
    }
  }
  /** The handle a joint is worked on by, as its limb is driven. */
  function handleOfJoint(joint: number): Handle | undefined {
    const own = all.value.filter(
      h => h.joint === joint && body.value && isDriven(body.value.set, h, choices.value.drives),
    )
    return own.find(h => h.kind === 'end') ?? own.find(h => h.kind === 'turn') ?? own[0]
  }
  const partnerId = (h: Handle): string | undefined => {
    const ref = sideOf(h.ref) === 'middle' ? mirroredName(h.ref) : partnerOf(h.ref)
    const id = h.kind === 'figure' ? h.id : `${h.kind} ${ref}`
    return id !== h.id && byId.value.has(id) ? id : undefined
  }

  // --- shapes ---
  function editShape(change: Partial<ShapeEdit>, joins = false): void {
    const shapes = { ...choices.value.shapes }
    for (const h of picked.value) {
      const next: ShapeEdit = { ...shapes[h.id], ...change }
      if (next.grow === 1) delete next.grow
      if (next.offset?.every(v => v === 0)) delete next.offset
      if (next.turn?.every(v => v === 0)) delete next.turn
      if (!next.hidden) delete next.hidden
      if (Object.keys(next).length > 0) shapes[h.id] = next
      else delete shapes[h.id]
    }
    keep(`Shape of ${namesOf(picked.value)}`, { shapes }, joins)
  }
  function setBackShapes(): void {
    const shapes = { ...choices.value.shapes }
    for (const h of picked.value) delete shapes[h.id]
    keep(`Own shape of ${namesOf(picked.value)}`, { shapes })
  }
  function shapesToOtherSide(): void {
    const shapes = { ...choices.value.shapes }
    for (const h of picked.value) {
      const other = partnerId(h)
      const edit = shapes[h.id]
      if (!other) continue
      if (!edit) delete shapes[other]
      else
        shapes[other] = {
          ...edit,
          ...(edit.offset && { offset: [-edit.offset[0], edit.offset[1], edit.offset[2]] }),
          ...(edit.turn && { turn: [edit.turn[0], -edit.turn[1], -edit.turn[2]] }),
        }
    }
    keep(`Copy the shape of ${namesOf(picked.value)} to the other side`, { shapes })
  }
  function showAll(): void {
    const shapes = Object.fromEntries(
      Object.entries(choices.value.shapes ?? {}).flatMap(([id, { hidden: _, ...rest }]) =>
        Object.keys(rest).length > 0 ? [[id, rest]] : [],
      ),
    )
    keep('Show all handles', { shapes })
  }
  const hiddenCount = computed(() => all.value.filter(hidden).length)
  const namesOf = (list: readonly Handle[]): string =>
    list.length === 1 ? labelOf(list[0]!) : `${list.length} handles`

  // --- how limbs are driven: the pose stays, whichever way ---
  function drive(limb: DrivenLimb, change: Partial<DriveChoice>): void {
    const { hinge, ...plain } = { ...driveOf(limb), ...change }
    const next: DriveChoice = { ...plain, ...(hinge !== undefined && { hinge }) }
    const how = 'hinge' in change ? 'hinge' : next.by === 'end' ? `by its end, with ${next.follows}` : 'joint by joint'
    keep(`${roleLabel(limb.ref)} ${how}`, {
      drives: { ...choices.value.drives, [limb.ref]: next },
    })
    // what was pulled by a handle that is gone is pulled by the one in its place
    const own = new Set([limb.upper, limb.lower, limb.end])
    if (picked.value.some(h => own.has(h.joint)))
      choose([next.by === 'end' ? `end ${limb.ref}` : `turn ${derived.skeleton!.roles[limb.upper] ?? limb.ref}`])
  }

  // --- groups ---
  const groups = computed<readonly HandleGroup[]>(() => choices.value.groups ?? [])
  function addGroup(name: string): void {
    if (chosen.value.length === 0) return
    const taken = new Set(groups.value.map(g => g.key))
    const key = ['4', '5', '6', '7', '8', '9'].find(k => !taken.has(k))
    const label = name.trim() || namesOf(picked.value)
    const group: HandleGroup = { id: crypto.randomUUID(), name: label, handles: [...chosen.value], ...(key && { key }) }
    keep(`Keep ${label} together`, { groups: [...groups.value, group] })
  }
  function editGroup(id: string, change: Partial<HandleGroup>): void {
    const next = groups.value.map(g =>
      g.id === id
        ? { ...g, ...change }
        : // a key chooses one group
          change.key && g.key === change.key
          ? { ...g, key: undefined }
          : g,
    )
    keep('Change a group of handles', { groups: next.map(({ key, ...g }) => (key ? { ...g, key } : g)) })
  }
  function removeGroup(id: string): void {
    keep(`Remove ${groups.value.find(g => g.id === id)?.name ?? 'a group'}`, {
      groups: groups.value.filter(g => g.id !== id),
    })
  }
  function chooseByKey(key: string): boolean {
    const group = groups.value.find(g => g.key === key)
    if (group) choose(group.handles.filter(id => byId.value.has(id)))
    return group !== undefined
  }
  /** Handles of groups and edits that this figure lacks: kept, and told. */
  const lost = computed(() => {
    if (!body.value) return []
    const told = [...Object.keys(choices.value.shapes ?? {}), ...groups.value.flatMap(g => g.handles)]
    return [...new Set(told.filter(id => !byId.value.has(id)))]
  })

  return {
    body,
    choices,
    all,
    byId,
    shown,
    chosen,
    picked,
    one,
    limbs,
    driveOf,
    drive,
    keep,
    labelOf,
    namesOf,
    hidden,
    hiddenCount,
    bind,
    shapeOf,
    choose,
    handleOfJoint,
    partnerId,
    editShape,
    setBackShapes,
    shapesToOtherSide,
    showAll,
    groups,
    addGroup,
    editGroup,
    removeGroup,
    chooseByKey,
    lost,
  }
}
