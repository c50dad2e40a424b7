import { beforeEach, describe, expect, it, vi } from 'vitest'
import { standInForTheFramework, FakeCore, fileOf, figure } from './window'

vi.mock('comlink', () => ({ proxy: <T>(x: T): T => x, wrap: () => ({}) }))

standInForTheFramework()
const { useCore } = await import('~/workers/client')
const { useProject } = await import('~/stores/project')
const { useDerived } = await import('~/stores/derived')
const { useView } = await import('~/stores/view')
Object.assign(globalThis, { useProject, useDerived, useView })
const { useFiles } = await import('~/composables/useFiles')

const received: string[] = []
/** Bodies are named .glb, motions .bvh; what is named bad is refused. */
const reading = {
  receive: async (name: string) => {
    received.push(name)
    if (name.includes('bad')) return { ok: false, refusal: { code: 'bad-syntax', message: `${name} is damaged.` } }
    const motion = name.endsWith('.bvh')
    const more = name.includes('moving') ? [{ name: 'wave', seconds: 2 }] : []
    const takes = motion || name.includes('moving') ? [{ name: 'walk', seconds: 1 }, ...more] : []
    return { ok: true, value: { file: fileOf(name), hasMesh: !motion, hasSkeleton: motion, takes } }
  },
  arrival: async () => ({ ok: true, value: { likely: 'version', confidence: 1, why: 'It looks alike.' } }),
  keep: async (name: string) => ({ ok: true, value: fileOf(name) }),
  unkept: async () => [],
}
const file = (name: string): File => new File([new Uint8Array([1, 2, 3])], name)
let project: ReturnType<typeof useProject>
let files: ReturnType<typeof useFiles>
beforeEach(async () => {
  standInForTheFramework()
  received.length = 0
  const core = new FakeCore()
  useCore(Object.assign(core.api, reading) as never)
  project = useProject()
  files = useFiles()
  await project.open(figure('one.glb'), 'Open')
})
const steps = (): number => project.history.entries.length

describe('files that are dropped', () => {
  it('are one change together, however many, each read once', async () => {
    const list = Array.from({ length: 60 }, (_, i) => file(`take ${i}.bvh`))
    await files.take(list)
    expect(received).toHaveLength(60)
    expect(steps()).toBe(2)
    expect(project.recipe.takes).toHaveLength(62)
    expect(project.undoable).toBe('Bring in 60 files')
    project.stepBack()
    expect(project.recipe.takes).toHaveLength(2)
  })
  it('of which some cannot be read bring in the others, and tell truly that something changed', async () => {
    await files.take([file('a.bvh'), file('bad.bvh'), file('b.bvh'), file('bad too.bvh')])
    expect(project.recipe.takes).toHaveLength(4)
    expect(files.refusal.value).toEqual({
      text: 'bad.bvh is damaged. 1 more could not be read either.',
      unchanged: false,
    })
  })
  it('that are all refused change nothing, and that is said', async () => {
    const before = project.recipe
    await files.take([file('bad.glb')])
    expect(project.recipe).toBe(before)
    expect(files.refusal.value).toEqual({ text: 'bad.glb is damaged.', unchanged: true })
  })
  it('a body and a motion: the motion comes in, of the body it is asked what it is', async () => {
    await files.take([file('two.glb'), file('jump.bvh')])
    expect(project.recipe.takes.map(t => t.file.name)).toContain('jump.bvh')
    expect(project.recipe.body!.name).toBe('one.glb')
    expect(files.arrived.value).toMatchObject({ name: 'two.glb', guess: { likely: 'version' } })
  })
  it('a second body is left out, and told', async () => {
    await files.take([file('two.glb'), file('three.glb')])
    expect(files.arrived.value!.name).toBe('two.glb')
    expect(files.refusal.value!.text).toMatch(/three\.glb left out/)
  })
  it('a new version keeps everything that was done by hand, as one change that can be taken back', async () => {
    project.change('Place left knee', {
      ...project.recipe,
      landmarks: { edits: { leftKnee: [0.1, 0.3, 0] } },
      straighten: { unit: 'cm' },
      pieces: { hat: { role: 'rigid', joint: 'head' } },
    })
    const before = project.recipe
    await files.take([file('one v2.glb')])
    await files.settle('version')
    expect(project.recipe).toEqual({ ...before, body: fileOf('one v2.glb') })
    expect(project.undoable).toBe('New version: one v2.glb')
    project.stepBack()
    expect(project.recipe.body!.name).toBe('one.glb')
  })
  it('another figure becomes a project of its own, with the takes and what is known of their performers', async () => {
    const note = { map: { head: 'skull' }, restTurns: {}, restFrom: 'file' as const }
    project.change('Map', {
      ...project.recipe,
      performers: { '3-ab': note },
      landmarks: { edits: { leftKnee: [0, 0, 0] } },
    })
    const open = project.id
    await files.take([file('other.glb')])
    await files.settle('figure')
    expect(project.id).not.toBe(open)
    expect(project.recipe).toMatchObject({ name: 'other', performers: { '3-ab': note }, landmarks: { edits: {} } })
    expect(project.recipe.takes).toHaveLength(2)
  })
  it('motion from a file with a body comes in as takes of a performer named after the file, those that are wanted', async () => {
    await files.take([file('moving dancer.glb')])
    await files.settle('clips', new Set([1]))
    expect(project.recipe.body!.name).toBe('one.glb')
    const added = project.recipe.takes.slice(2)
    expect(added.map(t => [t.name, t.performer, t.index])).toEqual([['walk', 'moving dancer', 0]])
  })
  it('a piece is put on, and what is put aside changes nothing', async () => {
    const before = project.recipe
    await files.take([file('hat.glb')])
    files.putAside()
    expect(project.recipe).toBe(before)
    expect(files.arrived.value).toBeUndefined()
    await files.take([file('hat.glb')])
    await files.settle('piece')
    expect(project.recipe.added).toEqual([{ file: fileOf('hat.glb'), beside: [] }])
    expect(project.recipe.body!.name).toBe('one.glb')
  })
  it('with names longer than any list can show are taken in under shorter ones', async () => {
    const name = `${'long '.repeat(80)}.glb`
    await files.take([file(name)])
    await files.settle('figure')
    expect(project.recipe.name.length).toBeLessThanOrEqual(300)
    expect(files.refusal.value).toBeUndefined()
  })
  it('that belong to a body are refused without one', async () => {
    await files.take([file('skin.png')])
    expect(files.refusal.value!.text).toMatch(/belong to a body/)
  })
  it('a plan that is no JSON is refused in words', async () => {
    await files.take([file('mine.plan.json')])
    expect(files.refusal.value).toEqual({
      text: 'mine.plan.json is not valid JSON, so it cannot be read.',
      unchanged: true,
    })
  })
})
