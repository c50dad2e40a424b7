import { createSharedComposable } from '@vueuse/core'
import { meshFloor, QUAY, quayFloor, standardStates, surfaceByName, type Clip, type Floor, type StatesDocument } from '@chiraxis/core/trial' // prettier-ignore
import type { Guest, TrialClips } from '@chiraxis/core/steps'
import { emptyRecipe, type FileRef, type Recipe } from '@chiraxis/core/recipe'
import type { Mesh } from '@chiraxis/core/mesh'
import { core, RefusedError, unwrap } from '~/workers/client'

/** A take that may be led with, by its name. */
export interface LedTake {
  readonly id: string
  readonly name: string
  readonly performer: string
}
/** A figure that may take the place of one's own. */
export interface OtherFigure {
  readonly id: string
  readonly name: string
  readonly recipe: () => Promise<Recipe>
}
/** Names that tell a take to stand or go, jump, turn or gesture, and those that tell it to do something else on the way. */
const GOES = /(^|[^\p{L}])(idle|stand|wait|walk|run|jog|trot|sprint|pace|gallop)([^\p{L}]|$)/iu
const DOES = /(^|[^\p{L}])(jump|hop|leap|turn|start|set|stop|halt|wave|clap|nod|point)([^\p{L}]|$)/iu
const ELSE = /(sit|crouch|stumble|back|fall|carry|treadmill|climb|limp|arms|hands)/iu
/** Most takes of one performer that are made ready by themselves: those it goes with, and those it does. */
const READY = 6,
  DOING = 7

const made = shallowRef<TrialClips>()
const guest = shallowRef<Guest>()
const other = ref('')
const performer = ref<string>()
const floorMesh = shallowRef<Mesh>()
const refused = ref('')
let turn = 0

/** The figure on trial: its takes made ready, how it behaves, what it goes on, and who stands in for it. */
export const useTrial = createSharedComposable(() => {
  const derived = useDerived()
  const project = useProject()
  const view = useView()
  const files = useFiles()

  const told = computed(() => project.recipe.trial)
  const takes = computed<readonly LedTake[]>(() => [
    ...(derived.rig?.takes ?? []).map(t => ({ ...t, performer: 'Came with the body' })),
    ...derived.fittingTakes.map(({ id, name, performer: by }) => ({ id, name, performer: by })),
  ])
  const performers = computed(() => [...new Set(takes.value.filter(t => GOES.test(t.name)).map(t => t.performer))])
  const by = computed(() => performer.value ?? performers.value[0])
  const offered = computed(() => takes.value.filter(t => t.performer === by.value || told.value?.takes?.includes(t.id)))
  const wanted = computed<readonly string[]>(() => {
    const known = new Set(takes.value.map(t => t.id))
    if (told.value?.takes) return told.value.takes.filter(id => known.has(id))
    const fit = offered.value.filter(t => !ELSE.test(t.name))
    return [
      ...fit.filter(t => GOES.test(t.name)).slice(0, READY),
      ...fit.filter(t => DOES.test(t.name) && !GOES.test(t.name)).slice(0, DOING),
    ].map(t => t.id)
  })
  const inTrial = computed(() => view.phase === 'trial')
  const current = computed<TrialClips | undefined>(() => guest.value?.clips ?? made.value)
  const clips = computed<readonly Clip[]>(() => current.value?.clips.map(c => c.clip) ?? [])
  const kindOf = (id: string): Clip['kind'] | undefined => current.value?.clips.find(c => c.id === id)?.clip.kind
  /** How it behaves: as it was told, else as it does of itself. */
  const standard = computed<StatesDocument | undefined>(() => (clips.value.length > 0 ? standardStates(clips.value) : undefined)) // prettier-ignore
  const states = computed<StatesDocument | undefined>(() => told.value?.states ?? standard.value)
  const skeleton = computed(() => guest.value?.skeleton ?? derived.skeleton)
  const goes = computed(() => clips.value.some(c => c.kind === 'steps'))
  const stands = computed(() => clips.value.some(c => c.kind === 'stand'))

  // --- the ground ---
  const floor = computed<Floor>(() => (floorMesh.value ? meshFloor(floorMesh.value, surfaceByName) : quayFloor()))
  const floorDrawn = computed(() => floorMesh.value ?? QUAY)
  watch(
    [inTrial, () => told.value?.floor],
    async ([on, file]) => {
      if (!on) return
      if (!file) {
        floorMesh.value = undefined
        return
      }
      try {
        floorMesh.value = await unwrap(core().floorMesh({ ...toRaw(file) }))
      } catch (error) {
        refused.value = error instanceof Error ? error.message : String(error)
      }
    },
    { immediate: true },
  )
  async function bringFloor(file: File): Promise<void> {
    refused.value = ''
    try {
      const received = await derived.receive(file.name, new Uint8Array(await file.arrayBuffer()))
      if (!received.hasMesh) throw new RefusedError({ code: 'no-triangles', message: `${file.name} holds no surface to walk on.` }) // prettier-ignore
      change(`Walk on ${file.name}`, { floor: received.file })
    } catch (error) {
      refused.value = error instanceof Error ? error.message : String(error)
    }
  }

  /** What was settled about the trial; what is undefined is as it is of itself again. */
  function change(name: string, part: Partial<NonNullable<Recipe['trial']>>): void {
    const next = { ...told.value, ...part }
    for (const key of Object.keys(next) as (keyof typeof next)[]) if (next[key] === undefined) delete next[key]
    project.change(name, { ...project.recipe, trial: Object.keys(next).length > 0 ? next : undefined })
  }
  const choose = (id: string, on: boolean): void =>
    change(on ? 'Lead with a take more' : 'Lead with a take less', {
      takes: on ? [...wanted.value, id] : wanted.value.filter(w => w !== id),
    })
  function choosePerformer(name: string): void {
    performer.value = name
    if (told.value?.takes) change(`Lead with takes of ${name}`, { takes: undefined })
  }

  // --- who stands in ---
  const others = shallowRef<readonly OtherFigure[]>([])
  async function findOthers(): Promise<void> {
    const list: OtherFigure[] = []
    try {
      const index = await files.demoIndex()
      for (const f of index.figures)
        if (f.kind === derived.kind)
          list.push({
            id: `sample ${f.file}`,
            name: f.name,
            recipe: async () => ({ ...emptyRecipe(f.name), body: await unwrap(core().keep(f.file, await files.demoFile(f.file))) }), // prettier-ignore
          })
    } catch {
      // without samples there are still projects and files
    }
    for (const p of await project.list().catch(() => []))
      if (p.id !== project.id)
        list.push({ id: `project ${p.id}`, name: p.title ?? p.name, recipe: () => project.recipeOf(p.id) })
    others.value = list
  }
  /** Puts another figure in the place of one's own; '' brings that back. */
  async function swap(id: string, recipe?: () => Promise<Recipe>): Promise<void> {
    refused.value = ''
    if (!id) {
      other.value = ''
      guest.value = undefined
      return
    }
    const find = recipe ?? others.value.find(o => o.id === id)?.recipe
    if (!find) return
    const mine = ++turn
    other.value = id
    try {
      const its = await find()
      const came = await derived.trialGuest(its, [...wanted.value])
      if (mine !== turn || other.value !== id) return
      guest.value = came
    } catch (error) {
      if (mine !== turn) return
      other.value = ''
      guest.value = undefined
      if (!(error instanceof RefusedError && error.stopped)) refused.value = error instanceof Error ? error.message : String(error) // prettier-ignore
    }
  }
  async function swapFile(file: File): Promise<void> {
    await swap(`file ${file.name}`, async () => {
      const received = await derived.receive(file.name, new Uint8Array(await file.arrayBuffer()))
      if (!received.hasMesh) throw new RefusedError({ code: 'no-triangles', message: `${file.name} holds no body.` })
      const ref: FileRef = received.file
      others.value = [
        ...others.value.filter(o => o.id !== `file ${file.name}`),
        { id: `file ${file.name}`, name: file.name, recipe: async () => ({ ...emptyRecipe(file.name), body: ref }) },
      ]
      return { ...emptyRecipe(file.name.replace(/\.[a-z]+$/i, '')), body: ref }
    })
  }

  /** What takes are made of: a change of anything else makes nothing anew. */
  const madeOf = (): unknown[] => {
    const { takes: list, transfer, performers: known, root, ownRoot, ownLayers, ownContacts, props } = project.recipe
    return [derived.skeleton, wanted.value.join(), list, transfer, known, root, ownRoot, ownLayers, ownContacts, props].map(v => toRaw(v)) // prettier-ignore
  }
  async function prepare(): Promise<void> {
    if (!inTrial.value || !derived.skeleton) return
    const mine = ++turn
    if (wanted.value.length === 0) {
      made.value = undefined
      return
    }
    if (other.value && guest.value) return void swap(other.value)
    try {
      const found = await derived.trialClips([...wanted.value])
      // what was asked for since is on its way
      if (mine === turn) made.value = found
    } catch {
      // the step tells its own refusal
    }
  }
  let last: unknown[] = []
  watch(
    () => (inTrial.value ? madeOf() : []),
    now => {
      if (now.length === 0 || (made.value && now.every((k, i) => k === last[i]))) return
      last = now
      void prepare()
    },
    { immediate: true },
  )
  watch(
    inTrial,
    on => {
      if (on) void findOthers()
    },
    { immediate: true },
  )
  // another project is another figure: nobody stands in for it
  watch(
    () => project.id,
    () => void swap(''),
  )

  return { takes: offered, performers, by, choosePerformer, wanted, choose, kindOf, made: current, own: made, clips, standard, states, change, told, skeleton, goes, stands, floor, floorDrawn, bringFloor, others, other, guest, swap, swapFile, refused, inTrial } // prettier-ignore
})
