import {
  emptyRecipe,
  ownTakeIds,
  parseOwnPlan,
  shortName,
  withPlan,
  type FileRef,
  type Recipe,
  type TakeRef,
  ATTACH_DEFAULTS,
  type AttachChoice,
} from '@chiraxis/core/recipe'
import { ChiraxisError, jsonOf } from '@chiraxis/core/math'
import type { Carry } from '@chiraxis/core/props'
import type { Arrival, ArrivalGuess, FileSet } from '@chiraxis/core/steps'
import { core, RefusedError, tell, unwrap } from '~/workers/client'
import type { ReceivedFile } from '~/workers/core-api'

/** Why a file was not taken in, and whether that was checked to have changed nothing. */
export interface Refusal {
  readonly text: string
  readonly unchanged: boolean
}

/** A file with a body that came in while a figure is open, until somebody says what it is. */
export interface Arrived {
  readonly name: string
  readonly received: ReceivedFile
  readonly beside: readonly FileRef[]
  readonly guess: ArrivalGuess
}

const refusal = shallowRef<Refusal>()
const arrived = shallowRef<Arrived>()
const receiving = ref('')
/** Whether the person gave up what is being read. */
let givenUp = false

interface DemoIndex {
  figures: {
    file: string
    name: string
    kind: 'biped' | 'fourleg' | 'drawn'
    /** A plan that was drawn for it. */ plan?: string
  }[]
  takes: { file: string; name: string; performer: string; tags: string[]; kind: 'biped' | 'fourleg'; size: number }[]
  /** SHA-256 of every file, by its name. */
  hashes: Record<string, string>
  /** What the crew carries, and how in takes that ask for it. */
  props?: { file: string; name: string; carry: Carry; takes: Record<string, Carry> }[]
}

/** Files larger than this are not read. */
const LARGEST = 2 ** 30
const BESIDE = /\.(mtl|png|jpe?g|webp|tga|ktx2|avif|bin)$/i
const PROJECT = /\.chiraxis$/i
const PLAN = /\.plan\.json$/i

/** Hands bytes to the person as a file. */
export function saveAs(name: string, content: Uint8Array | readonly (Uint8Array | Blob)[], type: string): void {
  const url = URL.createObjectURL(new Blob([content].flat() as BlobPart[], { type }))
  const link = document.createElement('a')
  link.href = url
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(url), 10_000)
}

const wordsOf = (error: unknown): string =>
  error instanceof RefusedError || error instanceof ChiraxisError
    ? error.message
    : `The file could not be taken in: ${error instanceof Error ? error.message : String(error)}`

/** Files in and out: bodies, motions, projects, the sample figures. A refused file changes nothing. */
export function useFiles() {
  const project = useProject()
  const derived = useDerived()
  const view = useView()

  const takeRefs = (file: ReceivedFile, performer: string): TakeRef[] =>
    file.takes.map((t, index) => ({
      id: crypto.randomUUID(),
      name: shortName(t.name),
      performer,
      file: file.file,
      index,
      kind: file.kind,
    }))

  async function demoFile(path: string): Promise<Uint8Array> {
    const answer = await fetch(`/demo/${path}`)
    if (!answer.ok)
      throw new RefusedError({
        code: 'missing-file',
        message: 'The sample figures are not there. Start with npm run demo, which makes them.',
      })
    return new Uint8Array(await answer.arrayBuffer())
  }

  const demoIndex = async (): Promise<DemoIndex> =>
    JSON.parse(new TextDecoder().decode(await demoFile('index.json'))) as DemoIndex

  /** The takes that come with the program; each is fetched when it is looked at, or when there is time. */
  const repertoire = (index: DemoIndex): TakeRef[] =>
    index.takes.map(t => ({
      id: crypto.randomUUID(),
      name: t.name,
      performer: t.performer,
      file: { name: t.file, hash: index.hashes[t.file]!, size: t.size },
      index: 0,
      tags: t.tags,
      kind: t.kind,
    }))

  /** Adds the takes that come with the program to whatever is open, those that are not there yet. */
  async function addRepertoire(): Promise<void> {
    await guarded('the repertoire', async () => {
      const all = repertoire(await demoIndex())
      const there = new Set(project.recipe.takes.map(t => `${t.file.hash} ${t.index}`))
      const added = all.filter(t => !there.has(`${t.file.hash} ${t.index}`))
      if (added.length === 0) return
      project.change(`Add ${added.length} takes of the repertoire`, {
        ...project.recipe,
        takes: [...project.recipe.takes, ...added],
      })
      void derived.showTake(derived.firstTake?.id)
    })
    void fetchAhead()
  }

  /** Fetches what ships with the program and was not needed yet, when there is time; what fails is fetched when it is looked at. */
  async function fetchAhead(): Promise<void> {
    await new Promise(done => (window.requestIdleCallback ?? setTimeout)(done))
    await core().fetchShipped(tell(project.recipe))
    await tellUnkept()
  }

  /** Opens one of the sample figures with all sample takes, as a project of its own. */
  async function openSample(which: string): Promise<void> {
    await guarded('sample', async () => {
      arrived.value = undefined
      const index = await demoIndex()
      const figure = index.figures.find(f => f.file.replace(/\.[a-z]+$/, '') === which) ?? index.figures[0]!
      const body = await derived.receive(figure.file, await demoFile(figure.file))
      const takes = repertoire(index)
      const walk = takes.find(t => t.kind === figure.kind && (t.tags ?? []).includes('gait'))
      derived.wantedTake = undefined
      const plain = { ...emptyRecipe(figure.name), body: body.file, takes }
      const recipe = figure.plan
        ? withPlan(plain, parseOwnPlan(JSON.parse(new TextDecoder().decode(await demoFile(figure.plan)))))
        : plain
      await project.open(recipe, `Open ${figure.name}`, true)
      // a body that brought takes of its own shows those first
      void derived.showTake((body.hasSkeleton && ownTakeIds(body.takes)[0]) || walk?.id)
    })
    void fetchAhead()
  }

  /** Gives up what is being read; nothing of it is brought in. */
  function stop(): void {
    givenUp = true
    derived.stopReceiving()
  }
  const goOn = (): void => {
    if (givenUp) throw new RefusedError({ code: 'stopped', message: 'Reading was stopped; nothing was brought in.' })
  }

  /** Runs something that may be refused; what is told of the project is looked at, not assumed. */
  async function guarded(what: string, run: () => Promise<void>): Promise<void> {
    const before = project.recipe
    refusal.value = undefined
    receiving.value = what
    givenUp = false
    try {
      await run()
    } catch (error) {
      refusal.value = { text: wordsOf(error), unchanged: project.recipe === before }
    } finally {
      receiving.value = ''
    }
  }

  /** Says which files are in this window only. */
  async function tellUnkept(): Promise<void> {
    const names = (await core().unkept()).map(f => f.name)
    if (names.length > 0)
      project.notice = {
        text: `The browser has no room left for ${names.length === 1 ? names[0] : `${names.length} files`}: they are in this window only. Save the project to a file.`,
      }
  }

  /** Takes in whatever was dropped or picked, as one change; what cannot be read is told and the rest goes in. */
  async function take(list: Iterable<File>): Promise<void> {
    const all = [...list]
    const archive = all.find(f => PROJECT.test(f.name))
    if (archive) return openArchive(archive)
    const plan = all.find(f => PLAN.test(f.name))
    if (plan) return layOut(plan)
    await guarded(all.length === 1 ? all[0]!.name : `${all.length} files`, async () => {
      const companions = all.filter(f => BESIDE.test(f.name))
      const main = all.filter(f => !BESIDE.test(f.name))
      if (main.length === 0 && companions.length > 0)
        throw new RefusedError({
          code: 'bad-input',
          message: 'These files belong to a body. Bring them in together with it.',
        })
      const beside: FileRef[] = []
      for (const file of companions) beside.push(await unwrap(core().keep(file.name, await bytesOf(file))))
      const read: { name: string; received: ReceivedFile }[] = []
      const failed: string[] = []
      for (const [i, file] of main.entries()) {
        goOn()
        if (main.length > 1) receiving.value = `${file.name}, ${i + 1} of ${main.length}`
        try {
          const received = await derived.receive(file.name, await bytesOf(file), beside)
          const bare = !received.hasMesh && received.takes.length === 0
          if (bare && received.hasSkeleton && project.recipe.body) {
            laySkeleton(file.name, received, beside)
            continue
          }
          if (bare)
            throw new RefusedError({
              code: 'no-take',
              message: `${file.name} holds a skeleton but neither a body nor a motion. Bring in a body first; then it can be laid on it.`,
            })
          read.push({ name: file.name, received })
        } catch (error) {
          // who stops wants none of it
          goOn()
          if (error instanceof RefusedError && error.stopped) throw error
          failed.push(wordsOf(error))
        }
      }
      goOn()
      await bringIn(read, beside)
      if (failed.length === 0) return
      const others = failed.length > 1 ? ` ${failed.length - 1} more could not be read either.` : ''
      throw new RefusedError({ code: 'bad-input', message: `${failed[0]}${others}` })
    })
    await tellUnkept()
  }

  /** Everything that was read, as one change; of a body beside one that is open it is asked what it is. */
  async function bringIn(read: readonly { name: string; received: ReceivedFile }[], beside: FileRef[]): Promise<void> {
    if (read.length === 0) return
    const bodies = read.filter(r => r.received.hasMesh)
    const motions = read.filter(r => !r.received.hasMesh)
    const [body] = bodies
    const added = motions.flatMap(r => takeRefs(r.received, performerOf(r)))
    if (added.length > 0 && (!body || project.recipe.body)) addTakes(added, motions)
    if (body) {
      if (!project.recipe.body || (await project.isSample())) await asFigure(body, beside, added)
      else {
        const guess = await unwrap(core().arrival(tell(project.recipe), body.received.file, beside))
        arrived.value = { ...body, beside, guess }
      }
    }
    if (bodies.length > 1)
      throw new RefusedError({
        code: 'bad-input',
        message: `A figure has one body: ${body!.name} was taken, ${bodies[1]!.name}${bodies.length > 2 ? ` and ${bodies.length - 2} more` : ''} left out.`,
      })
  }

  /** A file of several takes is a performer of its own; single ones stand together. */
  const performerOf = ({ name, received }: { name: string; received: ReceivedFile }): string =>
    received.takes.length > 1 || received.hasMesh ? shortName(stemOf(name)) : 'own file'

  function addTakes(added: readonly TakeRef[], from: readonly { name: string }[]): void {
    project.change(`Bring in ${from.length === 1 ? from[0]!.name : `${from.length} files`}`, {
      ...project.recipe,
      takes: [...project.recipe.takes, ...added],
    })
    view.go('takes')
    void derived.showTake(added[0]?.id)
  }

  /** A body as a figure of its own: a project that keeps the takes and what is known of their performers. */
  async function asFigure(
    { name, received }: { name: string; received: ReceivedFile },
    beside: readonly FileRef[],
    more: readonly TakeRef[] = [],
  ): Promise<void> {
    const { takes, transfer, performers } = project.recipe
    const own = ownTakeIds(received.takes)[0]
    const next: Recipe = {
      ...emptyRecipe(shortName(stemOf(name))),
      body: received.file,
      beside: [...beside],
      takes: [...takes, ...more],
      transfer,
      performers,
    }
    derived.wantedTake = undefined
    await project.open(next, `Bring in ${name}`)
    view.go('straighten')
    if (received.hasSkeleton && own) void derived.showTake(own)
  }

  /** What came in is taken as what somebody says it is. @param left numbers of takes that are not wanted */
  async function settle(
    what: Arrival,
    left: ReadonlySet<number> = new Set(),
    hung: { joint: string; prefix: string } = { joint: 'hips', prefix: '' },
  ): Promise<void> {
    const came = arrived.value
    if (!came) return
    arrived.value = undefined
    await guarded(came.name, async () => {
      const { name, received, beside } = came
      const base = project.recipe
      if (what === 'figure') await asFigure(came, beside)
      else if (what === 'clips') {
        const added = takeRefs(received, shortName(stemOf(name))).filter(t => !left.has(t.index))
        if (added.length > 0) addTakes(added, [came])
      } else if (what === 'appendage') {
        const set = { file: received.file, beside: [...beside] }
        await attachNow(set, { ...ATTACH_DEFAULTS, ...hung }, `Attach ${name}`)
        view.go('pieces')
      } else if (what === 'skeleton') laySkeleton(name, received, beside)
      else if (what === 'piece') {
        const set = { file: received.file, beside: [...beside] }
        project.change(`Put on ${name}`, { ...base, added: [...base.added, set] })
        view.go('pieces')
      } else {
        // hand work is told by role, by name and by place, so it stays
        project.change(`New version: ${name}`, { ...base, body: received.file, beside: [...beside] })
        view.go('straighten')
      }
    })
    await tellUnkept()
  }
  /** Attaches what a file holds, or what is attached otherwise; refusals are told and change nothing. */
  async function attachNow(set: FileSet, choice: AttachChoice, name: string): Promise<void> {
    const before = toRaw(project.recipe)
    const next = await derived.attach(set, choice)
    // what was changed meanwhile is not written over
    if (toRaw(project.recipe) !== before)
      project.notice = { text: 'The figure was changed meanwhile, so nothing was attached. Do it again.' }
    else project.change(name, next)
  }
  const attach = (set: FileSet, choice: AttachChoice, name: string): Promise<void> =>
    guarded(set.file.name, () => attachNow(set, choice, name))
  const putAside = (): void => {
    arrived.value = undefined
  }

  /** The skeleton of a file, exactly as it is, laid on the open body. */
  function laySkeleton(name: string, received: ReceivedFile, beside: readonly FileRef[]): void {
    if (!received.hasSkeleton)
      throw new RefusedError({ code: 'no-skeleton', message: `${name} holds no skeleton to lay on the body.` })
    const { reading: _, ...bones } = project.recipe.bones
    const given = { file: received.file, beside: [...beside] }
    project.change(`Lay the skeleton of ${name} on the body`, {
      ...project.recipe,
      bones: { ...bones, source: 'given', given, edits: [] },
    })
    view.go('skeleton')
  }

  /** Asks for the file whose skeleton is to be laid on the body. */
  const pickSkeleton = (): void => pickOne((name, received, beside) => laySkeleton(name, received, beside))
  /** Asks for one file, with those it names beside itself. */
  const pickOne = (then: (name: string, received: ReceivedFile, beside: readonly FileRef[]) => void): void =>
    ask(async list => {
      const main = list.find(f => !BESIDE.test(f.name))
      if (!main) return
      await guarded(main.name, async () => {
        const beside: FileRef[] = []
        for (const file of list)
          if (BESIDE.test(file.name)) beside.push(await unwrap(core().keep(file.name, await bytesOf(file))))
        then(main.name, await derived.receive(main.name, await bytesOf(main), beside), beside)
      })
      await tellUnkept()
    })

  async function bytesOf(file: File): Promise<Uint8Array> {
    if (file.size > LARGEST)
      throw new RefusedError({ code: 'too-large', message: `${file.name} is larger than 1 GiB and cannot be read.` })
    return new Uint8Array(await file.arrayBuffer())
  }

  /** A project file becomes a project of its own; the one that was open stays in the list. */
  async function openArchive(file: File): Promise<void> {
    await guarded(file.name, async () => {
      arrived.value = undefined
      const recipe = await unwrap(core().unpack(await bytesOf(file)))
      derived.wantedTake = undefined
      await project.open(recipe, `Open ${file.name}`)
      void derived.showTake(derived.firstTake?.id)
      view.go('straighten')
    })
    await tellUnkept()
  }

  async function layOut(file: File): Promise<void> {
    await guarded(file.name, async () => {
      const plan = parseOwnPlan(jsonOf(await bytesOf(file), file.name))
      project.change(`Lay out by ${plan.name}`, withPlan(project.recipe, plan))
      view.go('skeleton')
    })
  }

  // --- props ---
  const demoProps = async (): Promise<NonNullable<DemoIndex['props']>> => (await demoIndex()).props ?? []
  /** A prop that comes with the program, carried as its takes ask for. */
  async function addDemoProp(which: NonNullable<DemoIndex['props']>[number]): Promise<void> {
    await guarded(which.name, async () => {
      const { file } = await derived.receive(which.file, await demoFile(which.file))
      const { adopt } = useProps()
      adopt(file, [], which.name, which.carry, which.takes)
    })
    await tellUnkept()
  }
  /** Asks for a file that the figure is to carry. */
  const pickProp = (): void =>
    pickOne((name, received, beside) => {
      if (!received.hasMesh)
        throw new RefusedError({ code: 'no-triangles', message: `${name} holds nothing that could be carried.` })
      useProps().adopt(received.file, beside, shortName(stemOf(name)))
    })

  const pick = (): void => ask(take)

  function ask(then: (list: File[]) => Promise<void>): void {
    const input = document.createElement('input')
    input.type = 'file'
    input.multiple = true
    input.accept = '.glb,.gltf,.obj,.mtl,.ply,.stl,.fbx,.dae,.bvh,.vrm,.vrma,.bin,.png,.jpg,.jpeg,.webp,.chiraxis,.json'
    input.onchange = () => void then([...(input.files ?? [])])
    input.click()
  }

  async function saveProject(): Promise<void> {
    await guarded('project', async () => {
      const bytes = await project.pack()
      saveAs(`${fileStem(project.recipe.name)}.chiraxis`, bytes, 'application/zip')
    })
  }

  return {
    refusal,
    receiving,
    arrived,
    settle,
    attach,
    putAside,
    stop,
    demoFile,
    demoIndex,
    openSample,
    addRepertoire,
    fetchAhead,
    take,
    pick,
    pickSkeleton,
    demoProps,
    addDemoProp,
    pickProp,
    saveProject,
  }
}

/** A file's name without its ending. */
const stemOf = (name: string): string => name.replace(/\.[^.]*$/, '') || name

/** A name fit for a file. */
export const fileStem = (name: string): string =>
  name
    .trim()
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '') || 'figure'
