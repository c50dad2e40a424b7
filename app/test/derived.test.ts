import { beforeEach, describe, expect, it, vi } from 'vitest'
import { standInForTheFramework, FakeCore, figure, fileOf, takeOf } from './window'

vi.mock('comlink', () => ({ proxy: <T>(x: T): T => x, wrap: () => ({}) }))

standInForTheFramework()
const { useCore } = await import('~/workers/client')
const { useDerived } = await import('~/stores/derived')
const { useProject } = await import('~/stores/project')

let core: FakeCore
let project: ReturnType<typeof useProject>
let derived: ReturnType<typeof useDerived>
beforeEach(async () => {
  standInForTheFramework()
  core = new FakeCore()
  useCore(core.api as never)
  project = useProject()
  derived = useDerived()
  await project.open(figure('one.glb'), 'Open')
  derived.start()
})
const told = (value: unknown): string => (value as { of: string }).of

describe('what is worked out', () => {
  it('comes in order, the skin before any take is carried over', async () => {
    derived.wantedTake = 'walk'
    await core.settleAll()
    expect(core.asked).toEqual([
      'shape',
      'landmarks',
      'rig',
      'pieces',
      'skin',
      'correctives',
      'take walk',
      'findings walk',
    ])
    expect(derived.performed?.id).toBe('walk')
    expect(derived.busy).toBe(false)
  })

  it('is never of an old body once a new one is there, however late the old answer comes', async () => {
    await core.breathe()
    const late = core.waitingFor('shape')!
    project.change('Bring in two', { ...project.recipe, body: fileOf('two.glb') })
    await core.breathe()
    expect(late.aborted).toBe(true)
    core.release(core.waiting.find(w => w !== late)!)
    await core.breathe()
    expect(told(derived.shape)).toContain('two.glb')
    core.release(late)
    await core.settleAll()
    for (const value of [derived.shape, derived.rig, derived.findings[0]!.where && { of: derived.findings[0]!.where }])
      expect(told(value)).toContain('two.glb')
  })

  it('of a body and a motion dropped together is of both', async () => {
    await core.breathe()
    project.change('Bring in 2 files', {
      ...project.recipe,
      body: fileOf('two.glb'),
      takes: [...project.recipe.takes, takeOf('jump')],
    })
    void derived.showTake('jump')
    await core.settleAll()
    expect(told(derived.shape)).toContain('two.glb')
    expect(derived.performed?.id).toBe('jump')
    expect(told(derived.performed?.answer)).toContain('two.glb')
  })

  it('takes a new skeleton down before the old skin could be drawn on it', async () => {
    await core.settleAll()
    const seen: string[] = []
    const { watch } = await import('vue')
    watch(
      () => [derived.rig, derived.skin],
      () => {
        if (derived.rig && derived.skin) seen.push(`${told(derived.rig)} / ${told(derived.skin)}`)
      },
      { flush: 'sync' },
    )
    project.change('Bring in two', { ...project.recipe, body: fileOf('two.glb') })
    await core.settleAll()
    expect(seen.length).toBeGreaterThan(0)
    for (const pair of seen) expect(pair.split(' / ').map(p => p.split(' ')[0])).toEqual(['two.glb', 'two.glb'])
  })
})

describe('a change that touches nothing', () => {
  it('such as a rename stops nothing, sends nothing and keeps every object', async () => {
    derived.wantedTake = 'walk'
    await core.settleAll()
    const before = [derived.shape, derived.rig, derived.skin, derived.performed]
    core.asked.length = 0
    core.sent = 0
    project.change('Rename the figure', { ...project.recipe, name: 'somebody else' })
    await core.settleAll()
    expect(core.asked).toEqual([])
    expect(core.sent).toBeLessThan(200)
    ;[derived.shape, derived.rig, derived.skin, derived.performed].forEach((v, i) => expect(v).toBe(before[i]))
  })

  it('leaves what is being worked out alone', async () => {
    await core.breathe()
    core.release(core.waitingFor('shape')!)
    await core.breathe()
    const search = core.waitingFor('landmarks')!
    project.change('Rename the figure', { ...project.recipe, name: 'somebody else' })
    await core.breathe()
    expect(search.aborted).toBe(false)
    expect(core.asked.filter(a => a === 'landmarks')).toHaveLength(1)
    await core.settleAll()
    expect(derived.skin).toBeDefined()
    expect(core.stopped).toEqual([])
  })
})

describe('a change in part', () => {
  it('of the settings of transfer works only the take and the findings out again', async () => {
    derived.wantedTake = 'walk'
    await core.settleAll()
    core.asked.length = 0
    core.sent = 0
    project.change('Hands', { ...project.recipe, transfer: { ...project.recipe.transfer, hands: 0.5 } })
    await core.settleAll()
    expect(core.asked).toEqual(['take walk', 'findings walk'])
    expect(core.sent).toBeLessThan(600)
  })

  it('of the skin sends the stroke, whatever there was before', async () => {
    const stroke = (x: number) => ({
      kind: 'stroke' as const,
      tool: 'add' as const,
      joint: 'hips',
      dabs: Array.from({ length: 60 }, (_, i): [number, number, number, number, number, number, number] => [
        x,
        i / 100,
        0,
        0,
        0,
        1,
        1,
      ]),
      radius: 0.05,
      strength: 0.5,
      value: 1,
      falloff: 0.5,
      mirror: false,
      through: false,
      locked: [],
    })
    const paint = (x: number): void => {
      const { recipe } = project
      project.change('Add hips', { ...recipe, skin: { ...recipe.skin, edits: [...recipe.skin.edits, stroke(x)] } })
    }
    for (let i = 0; i < 300; i++) paint(i / 1000)
    await core.settleAll()
    core.sent = 0
    paint(0.9)
    await core.settleAll()
    // 60 dabs of 7 numbers, and the asks
    expect(core.sent).toBeLessThan(60 * 7 * 12 + 2000)
  })

  it('taken back and brought back asks for nothing that is at hand', async () => {
    await core.settleAll()
    const first = derived.skin
    project.change('Influences', { ...project.recipe, skin: { ...project.recipe.skin, influences: 8 } })
    await core.settleAll()
    const second = derived.skin
    core.asked.length = 0
    project.stepBack()
    await core.settleAll()
    expect(derived.skin).toBe(first)
    project.stepForward()
    await core.settleAll()
    expect(derived.skin).toBe(second)
    expect(core.asked).toEqual([])
  })
})

describe('takes', () => {
  it('another one stops the one before, which is never shown in its place', async () => {
    await core.settleAll()
    void derived.showTake('walk')
    await core.breathe()
    const walk = core.waitingFor('take')!
    void derived.showTake('run')
    await core.breathe()
    expect(walk.aborted).toBe(true)
    core.release(walk)
    await core.settleAll()
    expect(derived.performed?.id).toBe('run')
    expect(derived.steps.take.state).toBe('done')
  })

  it('one that is refused is told, and keeps nothing else from being worked out', async () => {
    core.refuse.set('take', 'The performer has no legs.')
    derived.wantedTake = 'walk'
    await core.settleAll()
    expect(derived.steps.take).toMatchObject({ state: 'refused', message: 'The performer has no legs.' })
    expect(derived.performed).toBeUndefined()
    expect(derived.skin).toBeDefined()
    expect(derived.findings).toHaveLength(1)
  })
})

describe('refusals', () => {
  it('of the search leave no skeleton of an earlier choice, and the rules are still gone through', async () => {
    await core.settleAll()
    expect(derived.skeleton).toBeDefined()
    core.refuse.set('landmarks', 'This body has no legs.')
    project.change('Turn', { ...project.recipe, straighten: { turn: 10 } })
    await core.settleAll()
    expect([derived.landmarks, derived.skeleton, derived.skin]).toEqual([undefined, undefined, undefined])
    expect(derived.steps.landmarks.message).toBe('This body has no legs.')
    expect(derived.findings).toHaveLength(1)
  })

  it('of the rules are told, and are not the same as nothing found', async () => {
    core.refuse.set('findings', 'A rule broke.')
    await core.settleAll()
    expect(derived.steps.findings).toMatchObject({ state: 'refused', message: 'A rule broke.' })
  })
})

describe('stopping', () => {
  it('ends what is under way and what would follow, until it is taken up again', async () => {
    await core.breathe()
    core.release(core.waitingFor('shape')!)
    await core.breathe()
    derived.halt()
    await core.settleAll()
    expect(derived.steps.landmarks.state).toBe('stopped')
    expect(derived.skeleton).toBeUndefined()
    // a rename does not begin it again
    project.change('Rename', { ...project.recipe, name: 'x' })
    await core.settleAll()
    expect(derived.skeleton).toBeUndefined()
    void derived.resume()
    await core.settleAll()
    expect(derived.skin).toBeDefined()
  })
})

describe('mending everything', () => {
  it('does not write over what was changed meanwhile', async () => {
    await core.settleAll()
    let open = (): void => undefined
    core.mendingGate = new Promise<void>(done => {
      open = done
    })
    const mending = derived.mendEverything()
    project.change('Rename', { ...project.recipe, name: 'changed meanwhile' })
    open()
    await mending
    expect(project.recipe.name).toBe('changed meanwhile')
    expect(project.recipe.cleanFaces).toBe(false)
    expect(project.notice?.text).toMatch(/changed while/)
    await derived.mendEverything()
    expect(project.recipe.cleanFaces).toBe(true)
  })
})
