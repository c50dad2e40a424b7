import { emptyRecipe, parseOwnPlan, withPlan, type FileRef, type Recipe, type TakeRef } from '@chiraxis/core/recipe'
import { core, RefusedError, unwrap } from '~/workers/client'
import type { ReceivedFile } from '~/workers/core-api'

const refusal = ref('')
const receiving = ref('')

interface DemoIndex {
  figures: { file: string; name: string; kind: 'biped' | 'fourleg' }[]
  takes: { file: string; name: string; performer: string; tags: string[]; kind: 'biped' | 'fourleg' }[]
}

/** Hands bytes to the person as a file. */
export function saveAs(name: string, content: Uint8Array | readonly Uint8Array[], type: string): void {
  const url = URL.createObjectURL(new Blob([content].flat() as Uint8Array<ArrayBuffer>[], { type }))
  const link = document.createElement('a')
  link.href = url
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(url), 10_000)
}

/** Files in and out: bodies, motions, projects, the sample figures. A refused file changes nothing. */
export function useFiles() {
  const project = useProject()
  const derived = useDerived()
  const view = useView()

  async function receive(name: string, bytes: Uint8Array, beside: readonly FileRef[] = []): Promise<ReceivedFile> {
    return unwrap(core().receive(name, bytes, beside))
  }

  const takeRefs = (file: ReceivedFile, performer: string, name?: string): TakeRef[] =>
    file.takes.map((t, index) => ({
      id: crypto.randomUUID(),
      name: name ?? t.name,
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

  /** Opens one of the sample figures with all sample takes. */
  async function openSample(which: string): Promise<void> {
    await guarded('sample', async () => {
      const index = JSON.parse(new TextDecoder().decode(await demoFile('index.json'))) as DemoIndex
      const figure = index.figures.find(f => f.file.replace(/\.[a-z]+$/, '') === which) ?? index.figures[0]!
      const body = await receive(figure.file, await demoFile(figure.file))
      // kept as they are; each is read when it is looked at
      const takes = await Promise.all(
        index.takes.map(async (t): Promise<TakeRef> => {
          const file = await unwrap(core().keep(t.file, await demoFile(t.file)))
          return {
            id: crypto.randomUUID(),
            name: t.name,
            performer: t.performer,
            file,
            index: 0,
            tags: t.tags,
            kind: t.kind,
          }
        }),
      )
      const walk = takes.find(t => t.kind === figure.kind && (t.tags ?? []).includes('gait'))
      const recipe: Recipe = { ...emptyRecipe(figure.name), body: body.file, takes }
      if (project.recipe.body) project.change(`Open ${figure.name}`, recipe)
      else project.open(recipe, `Open ${figure.name}`)
      // a body that brought takes of its own shows those first
      void derived.showTake(body.hasSkeleton && body.takes.length > 0 ? 'own:0' : walk?.id)
    })
  }

  async function guarded(what: string, run: () => Promise<void>): Promise<void> {
    refusal.value = ''
    receiving.value = what
    try {
      await run()
    } catch (error) {
      refusal.value =
        error instanceof RefusedError
          ? error.message
          : `The file could not be taken in: ${error instanceof Error ? error.message : String(error)}`
    } finally {
      receiving.value = ''
    }
  }

  const BESIDE = /\.(mtl|png|jpe?g|webp|bin)$/i

  /** Takes in whatever was dropped or picked; textures and libraries go with the body they came with. */
  async function take(list: Iterable<File>): Promise<void> {
    const all = [...list]
    const companions = all.filter(f => BESIDE.test(f.name))
    const main = all.filter(f => !BESIDE.test(f.name))
    if (main.length === 0 && companions.length > 0) {
      refusal.value = 'These files belong to a body. Bring them in together with it.'
      return
    }
    const beside: FileRef[] = []
    await guarded('textures', async () => {
      for (const file of companions)
        beside.push(await unwrap(core().keep(file.name, new Uint8Array(await file.arrayBuffer()))))
    })
    for (const file of main) {
      await guarded(file.name, async () => {
        if (file.size > 2 ** 30)
          throw new RefusedError({
            code: 'too-large',
            message: `${file.name} is larger than 1 GiB and cannot be read.`,
          })
        const bytes = new Uint8Array(await file.arrayBuffer())
        if (/\.chiraxis$/i.test(file.name)) {
          project.open(await unwrap(core().unpack(bytes)), `Open ${file.name}`)
          view.go('straighten')
          return
        }
        if (/\.plan\.json$/i.test(file.name)) {
          const plan = parseOwnPlan(JSON.parse(new TextDecoder().decode(bytes)))
          project.change(`Lay out by ${plan.name}`, withPlan(project.recipe, plan))
          view.go('skeleton')
          return
        }
        const received = await receive(file.name, bytes, beside)
        const stem = file.name.replace(/\.[^.]*$/, '')
        const recipe = project.recipe
        if (received.hasMesh) {
          // what was done by hand belongs to the body it was done on, unless this is an edit of that body
          const sameName = recipe.body?.name === file.name
          const fresh = emptyRecipe(stem)
          project.change(
            `Bring in ${file.name}`,
            sameName
              ? { ...recipe, body: received.file, beside, straighten: {} }
              : { ...fresh, body: received.file, beside, takes: recipe.takes, transfer: recipe.transfer },
          )
          view.go('straighten')
          if (received.hasSkeleton && received.takes.length > 0) void derived.showTake('own:0')
        } else if (received.takes.length > 0) {
          const added = takeRefs(received, 'own file')
          project.addTakes(added, `Bring in ${file.name}`)
          view.go('takes')
          await derived.showTake(added[0]!.id)
        } else
          throw new RefusedError({
            code: 'no-take',
            message: `${file.name} holds a skeleton but neither a body nor a motion.`,
          })
      })
      if (refusal.value) return
    }
  }

  function pick(): void {
    const input = document.createElement('input')
    input.type = 'file'
    input.multiple = true
    input.accept = '.glb,.gltf,.obj,.mtl,.ply,.stl,.fbx,.dae,.bvh,.vrm,.vrma,.bin,.png,.jpg,.jpeg,.webp,.chiraxis,.json'
    input.onchange = () => void take(input.files ?? [])
    input.click()
  }

  async function saveProject(): Promise<void> {
    await guarded('project', async () => {
      const bytes = await project.pack()
      saveAs(`${fileStem(project.recipe.name)}.chiraxis`, bytes, 'application/zip')
    })
  }

  return { refusal, receiving, openSample, take, pick, saveProject }
}

/** A name fit for a file. */
export const fileStem = (name: string): string =>
  name
    .trim()
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '') || 'figure'
