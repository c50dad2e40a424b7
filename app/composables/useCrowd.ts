import { createSharedComposable } from '@vueuse/core'
import * as Comlink from 'comlink'
import { Bundle } from '@chiraxis/core/delivery'
import { boundsOf } from '@chiraxis/core/mesh'
import { atBind } from '@chiraxis/core/skeleton'
import {
  clipNames,
  CROWD_DEFAULTS,
  placeCrowd,
  type Clip,
  type CrowdDocument,
  type CrowdSettings,
  type Kind,
} from '@chiraxis/core/trial'
import type { Guest } from '@chiraxis/core/steps'
import type { Recipe } from '@chiraxis/core/recipe'
import type { CrowdApi, CrowdFrame } from '~/workers/crowd.worker'
import type { CrowdKind } from '~/stage/crowd'
import { core, progressOf, RefusedError, tell, unwrap } from '~/workers/client'
import { saveAs } from './useFiles'

/** Triangles of one agent: few where the picture is drawn in software. */
const TRIANGLES = { soft: 600, fast: 8000 }
/** Milliseconds a picture may take before fewer are drawn, and below which more are again. */
const SLOW_FRAME = 150,
  QUICK_FRAME = 80

interface Made {
  readonly name: string
  readonly kind: Kind
  readonly mesh: Guest['mesh']
  readonly skin: Guest['skin']
  /** Takes by the names of their clips. */
  readonly takes: readonly { readonly id: string; readonly clip: Clip; readonly name: string }[]
  readonly recipe?: Recipe
}

const soft = ref(true)
const guests = shallowRef<readonly { id: string; guest: Guest; recipe: Recipe }[]>([])
const drawn = shallowRef<readonly CrowdKind[]>([])
const frame = shallowRef<CrowdFrame>()
const shown = shallowRef<readonly number[]>([])
const playing = ref(true)
const spent = ref(0)
const drawing = ref(0)
const busy = ref(false)
let remote: Comlink.Remote<CrowdApi> | undefined
/** Who the worker knows, and light indices by the mesh they are of: neither hangs on how many there are or how they differ. */
let known: readonly Made[] | undefined
const light = new WeakMap<object, Map<number, Uint32Array>>()
let run = 0

/** Many of the figure at once: who they are, where they stand and walk, and what they cost. */
export const useCrowd = createSharedComposable(() => {
  const trial = useTrial()
  const derived = useDerived()
  const project = useProject()
  const view = useView()
  const on = computed(() => view.step === 'crowd')
  const settings = computed<CrowdSettings>(() => ({ ...CROWD_DEFAULTS, ...trial.told.value?.crowd }))
  /** @param joins the change goes on with the one before, as one step to take back */
  function set(name: string, part: Partial<CrowdSettings>, joins = false): void {
    const run = (): void => trial.change(name, { crowd: { ...settings.value, ...part } })
    if (joins) goingOn(run)
    else run()
  }

  const madeOf = (name: string, g: Pick<Guest, 'mesh' | 'skin' | 'skeleton' | 'clips'>, recipe?: Recipe): Made => {
    const { min, max } = boundsOf(g.mesh.positions)
    const names = clipNames(g.clips.clips.map(c => c.clip.name))
    const takes = g.clips.clips.map((c, i) => ({ id: c.id, clip: { ...c.clip, name: names[i]! }, name: names[i]! }))
    return { name, mesh: g.mesh, skin: g.skin, takes, recipe, kind: { room: 1.1 * (max[2] - min[2]), skeleton: g.skeleton, frame: g.clips.frame, clips: takes.map(t => t.clip) } } // prettier-ignore
  }
  const made = computed<readonly Made[]>(() => {
    const { shape, skeleton, skin } = derived
    const own = trial.own.value
    if (!on.value || !shape || !skeleton || !skin || !own) return []
    return [
      madeOf(project.recipe.name, { mesh: shape.mesh, skin, skeleton, clips: own }),
      ...guests.value.map(g => madeOf(g.guest.name, g.guest, g.recipe)),
    ]
  })
  const placed = computed(() =>
    placeCrowd(
      settings.value,
      made.value.map(m => ({ clips: m.takes.map(t => t.clip), room: m.kind.room })),
    ),
  )
  const agents = computed(() => (made.value.length > 0 ? placed.value.agents : []))
  /** Clips and how many play each, kind by kind. */
  const roles = computed(() =>
    made.value.map((m, k) => ({
      name: m.name,
      clips: m.takes
        .map(t => ({ ...t, count: agents.value.filter(a => a.kind === k && a.clip === t.name).length }))
        .filter(t => t.count > 0),
    })),
  )

  async function lightOf(mesh: Guest['mesh'], triangles: number): Promise<Uint32Array> {
    const own = light.get(mesh) ?? new Map<number, Uint32Array>()
    light.set(mesh, own)
    const there = own.get(triangles)
    if (there) return there
    const index = await unwrap(core().lightIndex({ positions: mesh.positions, indices: mesh.indices }, triangles))
    own.set(triangles, index)
    return index
  }
  async function begin(): Promise<void> {
    const mine = ++run
    if (!on.value || made.value.length === 0 || agents.value.length === 0) {
      drawn.value = []
      frame.value = undefined
      return
    }
    busy.value = true
    const list: CrowdKind[] = []
    for (const [k, m] of made.value.entries()) {
      const index = await lightOf(toRaw(m.mesh), TRIANGLES[soft.value ? 'soft' : 'fast'])
      if (mine !== run) return
      list.push({
        mesh: toRaw(m.mesh),
        skin: toRaw(m.skin),
        joints: m.kind.skeleton.names.length,
        index,
        tints: agents.value.filter(a => a.kind === k).map(a => a.tint),
      })
    }
    remote ??= Comlink.wrap<CrowdApi>(new Worker(new URL('../workers/crowd.worker.ts', import.meta.url), { type: 'module', name: 'crowd' })) // prettier-ignore
    const plain = <T>(v: T): T => structuredClone(toRaw(v))
    if (known !== made.value) {
      known = made.value
      await remote.meet(
        known.map(m => ({ room: m.kind.room, skeleton: plain(atBind(toRaw(m.kind.skeleton))), frame: m.kind.frame, clips: m.kind.clips.map(c => ({ ...c, cues: [] })) })), // prettier-ignore
      )
    }
    await remote.start(placed.value.ways, agents.value)
    if (mine !== run) return
    busy.value = false
    drawn.value = list
    shown.value = list.map(l => l.tints.length)
    let last = performance.now()
    let pace = 0
    const next = async (): Promise<void> => {
      if (mine !== run || !remote) return
      const at = performance.now()
      const seconds = playing.value ? Math.min(0.1, (at - last) / 1000) : 0
      last = at
      const f = await remote.step(seconds)
      if (mine !== run) return
      frame.value = f
      spent.value = spent.value === 0 ? f.spent : 0.9 * spent.value + 0.1 * f.spent
      await new Promise(requestAnimationFrame)
      const took = performance.now() - at
      pace = pace === 0 ? took : 0.8 * pace + 0.2 * took
      drawing.value = pace
      // fewer are drawn where it gets slow, more where there is room; all are moved on
      const all = list.reduce((s, l) => s + l.tints.length, 0)
      const now = shown.value.reduce((s, n) => s + n, 0)
      const want = pace > SLOW_FRAME ? Math.max(4, 0.9 * now) : pace < QUICK_FRAME ? Math.min(all, 1.1 * now + 1) : now
      if (Math.abs(want - now) >= 1) shown.value = list.map(l => Math.round((l.tints.length * want) / all))
      if (playing.value) void next()
    }
    void next()
  }
  watch([made, placed, soft], () => void begin(), { immediate: true })
  watch(playing, yes => {
    if (yes) void begin()
  })

  /** Another figure among them. */
  async function join(id: string): Promise<void> {
    const find = trial.others.value.find(o => o.id === id)?.recipe
    if (!find || guests.value.some(g => g.id === id)) return
    try {
      const recipe = await find()
      const guest = await derived.trialGuest(recipe, [...trial.wanted.value])
      guests.value = [...guests.value, { id, guest, recipe }]
    } catch (error) {
      if (!(error instanceof RefusedError && error.stopped))
        trial.refused.value = error instanceof Error ? error.message : String(error)
    }
  }
  const leave = (id: string): void => {
    guests.value = guests.value.filter(g => g.id !== id)
  }
  watch(
    () => project.id,
    () => {
      guests.value = []
    },
  )

  const writing = ref(false)
  /** The crowd as an open JSON, with the GLB of each figure in it. */
  async function save(): Promise<void> {
    writing.value = true
    try {
      const bundle = new Bundle()
      const kinds: CrowdDocument['kinds'] = []
      for (const [k, m] of made.value.entries()) {
        const used = m.takes.filter(t => agents.value.some(a => a.kind === k && a.clip === t.name))
        const bytes = await unwrap(core().crowdFile(tell(project.recipe), m.recipe ? toRaw(m.recipe) : undefined, used.map(t => ({ id: t.id, name: t.name })), `crowd-${k}`, progressOf(() => undefined))) // prettier-ignore
        const file = bundle.add(`${m.name}.glb`, bytes)
        kinds.push({
          name: m.name,
          file,
          clips: used.map(({ name, clip, id }) => ({
            name,
            take: project.recipe.takes.find(t => t.id === id)?.name ?? name,
            loops: clip.kind !== 'once',
            speed: clip.speed,
            seconds: clip.seconds,
            phase: 0,
          })),
        })
      }
      const doc: CrowdDocument = { format: 'chiraxis-crowd', version: 1, kinds, ways: [...placed.value.ways], agents: [...agents.value] } // prettier-ignore
      bundle.addJson('crowd.json', doc)
      saveAs(`${project.recipe.name} crowd.zip`, bundle.done(), 'application/zip')
    } catch (error) {
      project.notice = { text: error instanceof Error ? error.message : String(error) }
    } finally {
      writing.value = false
    }
  }
  return { on, soft, settings, set, made, agents, roles, drawn, frame, shown, playing, spent, drawing, busy, guests, join, leave, save, writing } // prettier-ignore
})
