import { beforeEach, describe, expect, it, vi } from 'vitest'
import { standInForTheFramework, FakeCore, figure } from './window'

vi.mock('comlink', () => ({ proxy: <T>(x: T): T => x, wrap: () => ({}) }))

standInForTheFramework()
const { useCore } = await import('~/workers/client')
const { useProject } = await import('~/stores/project')
const { goingOn } = await import('~/composables/gesture')
const { db } = await import('~/keeping/db')

let project: ReturnType<typeof useProject>
const written = async (): Promise<void> => {
  for (let i = 0; i < 50 && project.saved === 'saving'; i++) await new Promise(done => setTimeout(done, 2))
}
const rename = (name: string): void => project.change('Rename the figure', { ...project.recipe, name })
beforeEach(async () => {
  standInForTheFramework()
  await Promise.all([db.works.clear(), db.changes.clear(), db.snapshots.clear(), db.aside.clear(), db.projects.clear()])
  useCore(new FakeCore().api as never)
  project = useProject()
})

describe('the open project', () => {
  it('is told as saved only when the store has just this', async () => {
    await project.open(figure('one.glb'), 'Open')
    rename('a')
    expect(project.saved).toBe('saving')
    rename('b')
    await written()
    expect(project.saved).toBe('saved')
    expect((await db.works.get(project.id!))!.name).toBe('b')
  })
  it('comes back in the next window, with its line of changes', async () => {
    await project.open(figure('one.glb'), 'Open')
    rename('a')
    rename('b')
    await written()
    const id = project.id
    const storage = sessionStorage
    standInForTheFramework()
    Object.assign(globalThis, { sessionStorage: storage })
    const next = useProject()
    expect(await next.restore()).toBe(true)
    expect(next.id).toBe(id)
    expect(next.recipe.name).toBe('b')
    next.stepBack()
    expect(next.recipe.name).toBe('a')
  })
  it('refuses what could not be read again, in words, and changes nothing', async () => {
    await project.open(figure('one.glb'), 'Open')
    rename('x'.repeat(1000))
    expect(project.recipe.name).toBe('figure')
    expect(project.notice!.text).toMatch(/name/)
    expect(project.undoable).toBeUndefined()
  })
  it('joins nudges that follow each other into one step, and leaves others apart', async () => {
    await project.open(figure('one.glb'), 'Open')
    const lift = (metres: number): void =>
      project.change('Lift', { ...project.recipe, straighten: { ...project.recipe.straighten, lift: metres } })
    lift(0.1)
    for (const metres of [0.2, 0.3, 0.4]) goingOn(() => lift(metres))
    lift(0.9)
    expect(project.history.entries.map(e => e.recipe.straighten.lift)).toEqual([undefined, 0.4, 0.9])
    project.stepBack()
    project.stepBack()
    expect(project.recipe.straighten.lift).toBeUndefined()
  })
  it('keeps what was open when another recipe is opened; only an untouched sample gives way', async () => {
    await project.open(figure('sample.glb'), 'Open the sample', true)
    await project.open(figure('mine.glb'), 'Open mine')
    expect((await project.list()).map(p => p.id)).toEqual([project.id])
    rename('my figure')
    await written()
    await project.open(figure('sample.glb'), 'Open the sample', true)
    rename('touched')
    await written()
    await project.open(figure('third.glb'), 'Open a third')
    expect((await project.list()).map(p => p.name).sort()).toEqual(['figure', 'my figure', 'touched'])
  })
  it('tells that there is no room, goes on in the window, and writes all of it when there is', async () => {
    await project.open(figure('one.glb'), 'Open')
    let full = true
    const refuse = (): void => {
      if (full) throw new DOMException('no room', 'QuotaExceededError')
    }
    db.changes.hook('creating', refuse)
    rename('a')
    await written()
    expect(project.saved).toBe('unsaved')
    expect(project.notice!.text).toMatch(/no room|did not keep/)
    rename('b')
    await written()
    expect(project.recipe.name).toBe('b')
    full = false
    project.notice!.action!.run()
    await written()
    db.changes.hook('creating').unsubscribe(refuse)
    expect(project.saved).toBe('saved')
    expect(await db.changes.count()).toBe(2)
  })
  it('that cannot be read is left as it is, and nothing is put in its place', async () => {
    await project.open(figure('one.glb'), 'Open')
    await written()
    const id = project.id!
    const broken = { project: id, seq: 0, name: 'Start', recipe: { version: 99 } }
    await db.snapshots.put(broken)
    standInForTheFramework()
    const next = useProject()
    expect(await next.restore()).toBe(false)
    expect(next.notice!.text).toMatch(/could not be read/)
    expect(await db.snapshots.get([id, 0])).toEqual(broken)
    expect(await db.works.get(id)).toBeDefined()
  })
})
