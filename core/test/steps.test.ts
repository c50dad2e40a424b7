import { describe, expect, it } from 'vitest'
import { writeGlb } from '../src/formats'
import {
  chainOf,
  digest,
  emptyRecipe,
  hashBytes,
  PLAN_DEFAULTS,
  type FileRef,
  type Recipe,
  type TakeRef,
} from '../src/recipe'
import { ByteCache, bytesOf, createDerivation, keyOf, STEPS, type StepName } from '../src/steps'
import { EMPTY_NOTE } from '../src/retarget'
import { box } from './shapes'
import { cleanDoll } from './figure'
import { wildTake } from './skeletons'

const file = (name: string): FileRef => ({ name, hash: hashBytes(new TextEncoder().encode(name)), size: 1 })
const take = (id: string, more: Partial<TakeRef> = {}): TakeRef => ({
  id,
  name: id,
  performer: 'somebody',
  file: file(`${id}.bvh`),
  index: 0,
  ...more,
})
const stroke = (x: number): Recipe['skin']['edits'][number] => ({
  kind: 'stroke',
  tool: 'add',
  joint: 'leftUpperArm',
  dabs: [[x, 0.8, 0, 0, 0, 1, 1]],
  radius: 0.05,
  strength: 0.5,
  value: 1,
  falloff: 0.5,
  mirror: false,
  through: false,
  locked: [],
})
const bend: NonNullable<Recipe['correctives']>[number] = {
  id: 'bend',
  label: 'Bend',
  turns: [{ joint: 'head', by: [0, 0, 0.6, 0.8] }],
  ease: 2,
  keep: 1,
  mirrored: true,
  strokes: [],
}
const rise: (typeof bend)['strokes'][number] = {
  tool: 'raise',
  dabs: [[0, 0.8, 0, 0, 0, 1, 1]],
  radius: 0.05,
  strength: 0.5,
  falloff: 0.5,
  mirror: false,
  through: false,
}
/** A table in which one state is never reached. */
const BEHAVES: NonNullable<NonNullable<Recipe['trial']>['states']> = {
  format: 'chiraxis-states',
  version: 1,
  table: {
    first: 'stands',
    states: [
      { name: 'stands', plays: { take: 'idle' } },
      { name: 'lost', plays: { take: 'idle' } },
    ],
    rules: [],
  },
  actions: [],
  values: [],
}
const full: Recipe = {
  ...emptyRecipe('Test'),
  light: { quads: 8000 },
  body: file('body.glb'),
  takes: [take('walk'), take('run')],
  correctives: [bend],
  props: [{ id: 'pole', name: 'Pole', file: file('pole.glb'), beside: [], carry: { by: 'leftHand' } }],
}

/** What every step is asked of in this test. */
const asked = (step: StepName): unknown =>
  step === 'read'
    ? { file: full.body, beside: [] }
    : step === 'weights' || step === 'heard' || step === 'solution'
      ? file('weights.json')
      : step === 'findings'
        ? ['walk']
        : ['performance', 'carried', 'corrected', 'layered', 'held', 'take'].includes(step)
          ? 'walk'
          : step === 'corrective'
            ? 'bend'
            : step === 'prop'
              ? 'pole'
              : undefined
const keysOf = (recipe: Recipe): Record<StepName, string> =>
  Object.fromEntries(
    Object.keys(STEPS).map(step => [step, keyOf(step as 'take', recipe, asked(step as StepName) as string)]),
  ) as Record<StepName, string>

/** From the body on. */
const SHAPE: StepName[] = [
  'stance',
  'shape',
  'faults',
  'check',
  'asymmetry',
  'bare',
  'found',
  'hands',
  'landmarks',
  'planned',
  'solid',
  'face',
  'expressions',
]
const TAKE: StepName[] = ['carried', 'corrected', 'layered', 'held', 'take', 'findings']
const LIGHT: StepName[] = ['light', 'lightMaps', 'lightFigure']
const SKIN: StepName[] = [
  'skin',
  'corrective',
  'correctives',
  'expressions',
  ...LIGHT,
  'strain',
  'bodySurface',
  'handles',
  'holding',
  'props',
  'corrected',
  'layered',
  'held',
  'take',
  'findings',
]
const ROUGH: StepName[] = ['automaticSkin', 'openSkin', ...SKIN]
const SHAPED: StepName[] = ['corrective', 'correctives', 'expressions', 'strain']
const RIG: StepName[] = ['rig', 'pieces', 'flesh', 'bleeding', 'carried', ...ROUGH]
const FROM_SHAPE: StepName[] = [...SHAPE, 'ground', ...RIG]

/** Every path of a recipe, a change there, and the steps that are worked out again for it. All others stay. */
const TABLE: readonly (readonly [string, (r: Recipe) => Recipe, readonly StepName[]])[] = [
  ['handles', r => ({ ...r, handles: { holds: [{ joint: 'leftHand', place: true, turn: false }] } }), []],
  [
    'handles.volumes',
    r => ({ ...r, handles: { volumes: { chest: 0.03 } } }),
    ['bodySurface', 'handles', 'corrected', 'layered', 'held', 'take', 'findings'],
  ],
  ['face.places', r => ({ ...r, face: { places: { chin: [0, 0.9, 0.05] } } }), ['face']],
  ['face.make', r => ({ ...r, face: { make: true } }), ['expressions']],
  ['face.binds', r => ({ ...r, face: { binds: { aa: [{ shape: 'Open', weight: 1 }] } } }), ['expressions']],
  [
    'takes.$.face',
    r => ({ ...r, takes: [take('walk', { face: { strength: { mouth: 0.5 } } }), take('run')] }),
    ['take', 'findings'],
  ],
  ['name', r => ({ ...r, name: 'other' }), []],
  ['body', r => ({ ...r, body: file('other.glb') }), ['received', 'reading', 'bumpy', 'half', 'whole', ...FROM_SHAPE]],
  ['bones.given', r => ({ ...r, bones: { ...r.bones, given: { file: file('given.glb'), beside: [] } } }), ['given']],
  ['bones.reading', r => ({ ...r, bones: { ...r.bones, reading: { swapped: true } } }), ['reading', ...FROM_SHAPE]],
  [
    'added',
    r => ({ ...r, added: [{ file: file('hat.glb'), beside: [] }] }),
    ['received', 'reading', 'bumpy', 'half', 'whole', ...FROM_SHAPE],
  ],
  [
    'beside',
    r => ({ ...r, beside: [file('skin.png')] }),
    ['received', 'reading', 'bumpy', 'half', 'whole', ...FROM_SHAPE],
  ],
  ['straighten', r => ({ ...r, straighten: { unit: 'cm' } }), FROM_SHAPE],
  ['surface', r => ({ ...r, surface: [{ kind: 'fill-small', edges: 8 }] }), ['whole', ...FROM_SHAPE]],
  ['cleanFaces', r => ({ ...r, cleanFaces: true }), ['whole', ...FROM_SHAPE]],
  ['mirrorHalf', r => ({ ...r, mirrorHalf: 'left' }), ['whole', ...FROM_SHAPE]],
  ['pieces: hidden', r => ({ ...r, pieces: { coat: { hidden: true, label: 'Coat' } } }), ['findings']],
  ['pieces: left out', r => ({ ...r, pieces: { coat: { role: 'left-out' } } }), ['whole', ...FROM_SHAPE]],
  ['pieces: rigid', r => ({ ...r, pieces: { coat: { role: 'rigid', joint: 'hips' } } }), ['flesh', ...ROUGH]],
  ['pieceRoles', r => ({ ...r, pieceRoles: 'told' }), ['pieces', 'flesh', ...ROUGH]],
  ['light.quads', r => ({ ...r, light: { quads: 5000 } }), LIGHT],
  ['light.density', r => ({ ...r, light: { quads: 8000, density: { head: 2 } } }), LIGHT],
  ['light.bake', r => ({ ...r, light: { quads: 8000, bake: 1024 } }), ['lightMaps', 'lightFigure']],
  ['light.deliver', r => ({ ...r, light: { quads: 8000, deliver: true } }), []],
  ['normalMaps', r => ({ ...r, normalMaps: ['cloth'] }), ['findings']],
  [
    'landmarks.edits',
    r => ({ ...r, landmarks: { edits: { leftKnee: [0.1, 0.3, 0] } } }),
    ['landmarks', 'face', 'planned', ...RIG],
  ],
  [
    'landmarks.edits of an arm',
    r => ({ ...r, landmarks: { edits: { leftWrist: [0.4, 0.8, 0] } } }),
    ['hands', 'landmarks', 'face', 'planned', ...RIG],
  ],
  [
    'landmarks.byHand',
    r => ({ ...r, landmarks: { edits: {}, byHand: true } }),
    ['found', 'hands', 'landmarks', 'face', 'planned', ...RIG],
  ],
  ['bones.source', r => ({ ...r, bones: { ...r.bones, source: 'plan' } }), RIG],
  [
    'checkPoses',
    r => ({ ...r, checkPoses: [{ id: 'own-1', label: 'rail', turns: [{ joint: 'head', by: [0, 0, 0, 1] }] }] }),
    ['strain'],
  ],
  [
    'correctives.label',
    r => ({ ...r, correctives: [{ ...bend, label: 'Elbow' }] }),
    ['correctives', 'expressions', 'findings'],
  ],
  ['correctives.keep', r => ({ ...r, correctives: [{ ...bend, keep: 0.5 }] }), SHAPED],
  ['correctives.ease', r => ({ ...r, correctives: [{ ...bend, ease: 1 }] }), SHAPED],
  ['correctives.mirrored', r => ({ ...r, correctives: [{ ...bend, mirrored: false }] }), SHAPED],
  [
    'correctives.turns',
    r => ({ ...r, correctives: [{ ...bend, turns: [{ joint: 'neck', by: [0, 0, 0.6, 0.8] }] }] }),
    [...SHAPED, 'findings'],
  ],
  ['correctives: strokes', r => ({ ...r, correctives: [{ ...bend, strokes: [rise] }] }), SHAPED],
  [
    'correctives: another one',
    r => ({ ...r, correctives: [bend, { ...bend, id: 'c2' }] }),
    ['correctives', 'expressions', 'strain', 'findings'],
  ],
  [
    'bones.plan.kind',
    r => ({ ...r, bones: { ...r.bones, plan: { ...PLAN_DEFAULTS, kind: 'fourleg' } } }),
    ['found', 'hands', 'landmarks', 'face', 'planned', ...RIG],
  ],
  [
    'bones.plan.fingers',
    r => ({ ...r, bones: { ...r.bones, plan: { ...PLAN_DEFAULTS, fingers: { left: 2, right: 2 } } } }),
    ['hands', 'landmarks', 'face', 'planned', ...RIG],
  ],
  ['bones.plan.flex', r => ({ ...r, bones: { ...r.bones, plan: { ...PLAN_DEFAULTS, flex: 2 } } }), ['planned', ...RIG]],
  [
    'bones.plan.fingerJoints',
    r => ({ ...r, bones: { ...r.bones, plan: { ...PLAN_DEFAULTS, fingerJoints: 2 } } }),
    ['planned', ...RIG],
  ],
  [
    'bones.plan.tailJoints',
    r => ({ ...r, bones: { ...r.bones, plan: { ...PLAN_DEFAULTS, tailJoints: 2 } } }),
    ['planned', ...RIG],
  ],
  ['bones.edits', r => ({ ...r, bones: { ...r.bones, edits: [{ kind: 'number' }] } }), RIG],
  ['skin.source', r => ({ ...r, skin: { ...r.skin, source: 'received' } }), ROUGH],
  ['skin.firmness', r => ({ ...r, skin: { ...r.skin, firmness: 2 } }), ROUGH],
  ['skin.influences', r => ({ ...r, skin: { ...r.skin, influences: 8 } }), SKIN],
  ['skin.edits', r => ({ ...r, skin: { ...r.skin, edits: [stroke(0.3)] } }), ['openSkin', ...SKIN]],
  ['takes.name', r => ({ ...r, takes: [take('walk', { name: 'stroll' }), r.takes[1]!] }), ['findings']],
  ['takes.performer', r => ({ ...r, takes: [take('walk', { performer: 'x' }), r.takes[1]!] }), []],
  ['takes.tags', r => ({ ...r, takes: [take('walk', { tags: ['gait'] }), r.takes[1]!] }), []],
  ['takes.kind', r => ({ ...r, takes: [take('walk', { kind: 'biped' }), r.takes[1]!] }), []],
  [
    'takes.file',
    r => ({ ...r, takes: [take('walk', { file: file('x.bvh') }), r.takes[1]!] }),
    ['performance', ...TAKE],
  ],
  ['takes.index', r => ({ ...r, takes: [take('walk', { index: 1 }), r.takes[1]!] }), ['performance', ...TAKE]],
  [
    'takes.adjust',
    r => ({ ...r, takes: [take('walk', { adjust: { pace: 2 } }), r.takes[1]!] }),
    ['performance', ...TAKE],
  ],
  ['takes.restFrom', r => ({ ...r, takes: [take('walk', { restFrom: 4 }), r.takes[1]!] }), ['performance', ...TAKE]],
  [
    'takes.correct',
    r => ({ ...r, takes: [take('walk', { correct: { limits: false } }), r.takes[1]!] }),
    ['corrected', 'layered', 'held', 'take', 'findings'],
  ],
  [
    'takes.stretches',
    r => ({
      ...r,
      takes: [take('walk', { stretches: [{ from: 0, to: 1, correct: { limits: false } }] }), r.takes[1]!],
    }),
    ['corrected', 'layered', 'held', 'take', 'findings'],
  ],
  [
    'takes.contacts',
    r => ({
      ...r,
      takes: [
        take('walk', { contacts: [{ part: 'leftFoot', onto: 'ground', from: 0, to: 1, holds: true }] }),
        r.takes[1]!,
      ],
    }),
    ['corrected', 'layered', 'held', 'take', 'findings'],
  ],
  [
    'takes.layers',
    r => ({
      ...r,
      takes: [take('walk', { layers: [{ id: 'a', name: 'A', mode: 'add', weight: 1, keys: [] }] }), r.takes[1]!],
    }),
    ['layered', 'held', 'take', 'findings'],
  ],
  [
    'takes.props',
    r => ({ ...r, takes: [take('walk', { props: [{ prop: 'pole', at: 1, by: 'ground' }] }), r.takes[1]!] }),
    ['held', 'take', 'findings'],
  ],
  ['ownProps', r => ({ ...r, ownProps: { walk: [{ prop: 'pole', at: 1, by: 'ground' }] } }), ['take', 'findings']],
  [
    'props: how it is carried',
    r => ({ ...r, props: [{ ...r.props![0]!, carry: { by: 'hips' } }] }),
    ['held', 'take', 'findings'],
  ],
  [
    'props: how large',
    r => ({ ...r, props: [{ ...r.props![0]!, scale: 2 }] }),
    ['prop', 'props', 'held', 'take', 'findings'],
  ],
  [
    'props: its file',
    r => ({ ...r, props: [{ ...r.props![0]!, file: file('oar.glb') }] }),
    ['prop', 'props', 'held', 'take', 'findings'],
  ],
  [
    'takes.root',
    r => ({ ...r, takes: [take('walk', { root: { ahead: 'root' } }), r.takes[1]!] }),
    ['take', 'findings'],
  ],
  ['root', r => ({ ...r, root: { turn: 'dropped' } }), ['take', 'findings']],
  ['root: from feet', r => ({ ...r, root: { fromFeet: true } }), ['take', 'findings']],
  ['cues', r => ({ ...r, cues: { find: ['apex'] } }), ['take', 'findings']],
  [
    'takes.cues',
    r => ({ ...r, takes: [take('walk', { cues: { cues: [{ id: 'a', at: 1, name: 'splash' }] } }), r.takes[1]!] }),
    ['take', 'findings'],
  ],
  ['ownCues', r => ({ ...r, ownCues: { walk: { surface: 'planks' } } }), ['take', 'findings']],
  [
    'ownContacts',
    r => ({
      ...r,
      ownContacts: { walk: [{ part: 'leftFoot', onto: 'ground', from: 0.2, to: 0.4, holds: true }] },
    }),
    ['take', 'findings'],
  ],
  ['trial', r => ({ ...r, trial: { takes: ['walk'] } }), []],
  ['trial.states', r => ({ ...r, trial: { states: BEHAVES } }), ['findings']],
  ['delivery', r => ({ ...r, delivery: { takes: ['walk'] } }), []],
  ['ownRoot', r => ({ ...r, ownRoot: { walk: { ahead: 'hips' } } }), ['take', 'findings']],
  [
    'ownLayers',
    r => ({ ...r, ownLayers: { walk: [{ id: 'a', name: 'A', mode: 'add', weight: 1, keys: [] }] } }),
    ['take', 'findings'],
  ],
  ['takes: another one', r => ({ ...r, takes: [r.takes[0]!, take('run', { adjust: { mirror: true } })] }), []],
  ['transfer.rest', r => ({ ...r, transfer: { ...r.transfer, rest: 'none' } }), TAKE],
  [
    'transfer.ground',
    r => ({ ...r, transfer: { ...r.transfer, ground: false } }),
    ['corrected', 'layered', 'held', 'take', 'findings'],
  ],
  [
    'transfer.asPerformed',
    r => ({ ...r, transfer: { ...r.transfer, asPerformed: false } }),
    ['corrected', 'layered', 'held', 'take', 'findings'],
  ],
  [
    'transfer.limits',
    r => ({ ...r, transfer: { ...r.transfer, limits: false } }),
    ['corrected', 'layered', 'held', 'take', 'findings'],
  ],
  [
    'transfer.girdle',
    r => ({ ...r, transfer: { ...r.transfer, girdle: true } }),
    ['corrected', 'layered', 'held', 'take', 'findings'],
  ],
  [
    'transfer.hands',
    r => ({ ...r, transfer: { ...r.transfer, hands: 0.5 } }),
    ['corrected', 'layered', 'held', 'take', 'findings'],
  ],
  [
    'transfer.elbowRoom',
    r => ({ ...r, transfer: { ...r.transfer, elbowRoom: 0.02 } }),
    ['corrected', 'layered', 'held', 'take', 'findings'],
  ],
  [
    'performers',
    r => ({ ...r, performers: { '9-ab': { ...EMPTY_NOTE, restFrom: 'file' } } }),
    ['performance', ...TAKE],
  ],
]

describe('the table of steps', () => {
  const before = keysOf(full)
  it.each(TABLE)('works out again for %s just what reads it', (_, change, expected) => {
    const after = keysOf(change(full))
    const changed = (Object.keys(STEPS) as StepName[]).filter(step => after[step] !== before[step])
    expect(changed.sort()).toEqual([...new Set(expected)].sort())
  })
  it('is asked about every path there is', () => {
    const paths = (value: object, at: string): string[] =>
      Object.entries(value).flatMap(([k, v]) =>
        typeof v === 'object' && v !== null && !Array.isArray(v) && !['body', 'transfer', 'straighten'].includes(k)
          ? paths(v as object, `${at}${k}.`)
          : [`${at}${k}`],
      )
    const told = new Set(TABLE.map(([name]) => name.replace(/[: ].*$/, '')))
    const all = paths(full, '').filter(p => p !== 'version' && p !== 'transfer')
    expect(all.filter(p => !told.has(p) && ![...told].some(t => t.startsWith(p) || p.startsWith(t)))).toEqual([])
    expect(Object.keys(full.transfer).filter(k => !told.has(`transfer.${k}`))).toEqual([])
    const step = (
      [
        'id',
        'name',
        'performer',
        'file',
        'index',
        'tags',
        'kind',
        'adjust',
        'restFrom',
        'correct',
        'stretches',
        'contacts',
        'layers',
        'props',
      ] as const
    ).filter(k => k !== 'id' && !told.has(`takes.${k}`))
    expect(step).toEqual([])
  })
  it('does not let the skin into a take whose arms, hands and feet are let be', () => {
    const transfer = { ...full.transfer, elbowRoom: null, ground: false, hands: 0 }
    // hands that hold something ask for it
    const free: Recipe = { ...full, transfer, props: [] }
    const painted: Recipe = { ...free, skin: { ...free.skin, edits: [stroke(0.2)] } }
    expect(keyOf('take', painted, 'walk')).toBe(keyOf('take', free, 'walk'))
  })
  it('gives equal content equal keys, whatever objects it is made of', () => {
    expect(keysOf(JSON.parse(JSON.stringify(full)) as Recipe)).toEqual(before)
    expect(digest({ x: [1, 2] })).toBe(digest({ x: [1, 2] }))
    expect(digest([{ x: 1 }])).not.toBe(digest([{ x: 2 }]))
    const list = [{ x: 1 }, { x: 2 }]
    expect(chainOf([...list, { x: 3 }]).slice(0, 3)).toEqual(chainOf(list))
  })
  it('keeps two takes of one file from reading it twice', async () => {
    let reads = 0
    const d = createDerivation(async () => {
      reads++
      return new TextEncoder().encode('not a file')
    })
    const file = full.body!
    const ask = (): Promise<unknown> => d.get('read', full, { of: { file, beside: [] } }).catch(() => undefined)
    await Promise.all([ask(), ask()])
    expect(reads).toBe(1)
  })
})

describe('what a step reads of the recipe', () => {
  /** The recipe, telling every path that is looked at. */
  function spied<T extends object>(value: T, tell: (path: string) => void, at = ''): T {
    return new Proxy(value, {
      get(target, key) {
        const inner = Reflect.get(target, key) as unknown
        if (typeof key === 'symbol' || typeof inner === 'function' || key === 'length') return inner
        const path = at ? `${at}.${key}` : key
        tell(path)
        return typeof inner === 'object' && inner !== null ? spied(inner, tell, path) : inner
      },
    })
  }
  /** Paths a step declares, with those of all it builds on. */
  function declared(recipe: Recipe, step: StepName, of: unknown, seen = new Set<string>()): string[] {
    const name = `${step} ${JSON.stringify(of)}`
    if (seen.has(name)) return []
    seen.add(name)
    const { reads, from } = STEPS[step] as (typeof STEPS)['take']
    const steps = typeof from === 'function' ? from(recipe, of as string) : from
    return [
      ...reads.map(r => (typeof r === 'string' ? r : r.path)),
      ...steps.flatMap(ref =>
        typeof ref === 'string' ? declared(recipe, ref, undefined, seen) : declared(recipe, ref[0], ref[1], seen),
      ),
    ]
  }
  it('is declared in the table, whatever it is asked of', async () => {
    const doll = await cleanDoll()
    const glb = await writeGlb({ name: 'doll', ...doll })
    const motion = await writeGlb({
      name: 'somebody',
      skeleton: doll.skeleton,
      takes: [wildTake(doll.skeleton, 9, 24)],
    })
    const [body, recorded] = [glb, motion].map((bytes, i) => ({ name: `f${i}.glb`, hash: hashBytes(bytes), size: 1 }))
    const recipe: Recipe = {
      ...emptyRecipe(),
      body: body!,
      skin: { ...emptyRecipe().skin, edits: [stroke(0.2)] },
      bones: { ...emptyRecipe().bones, edits: [{ kind: 'number' }] },
      takes: [{ ...take('walk'), file: recorded!, adjust: { onTheSpot: true } }],
      correctives: [{ ...bend, strokes: [rise] }],
    }
    const undeclared: string[] = []
    const before = new Map<StepName, unknown>()
    for (const name of Object.keys(STEPS) as StepName[]) {
      const step = STEPS[name] as unknown as { compute: (context: { recipe: Recipe; of: unknown }) => Promise<unknown> }
      const { compute } = step
      before.set(name, compute)
      step.compute = context => {
        const paths = [...declared(recipe, name, context.of), 'body', 'beside', 'takes', 'correctives.0.id']
        const covers = (path: string): boolean =>
          paths
            .map(p => p.replace('$', '0'))
            .some(p => path === p || path.startsWith(`${p}.`) || p.startsWith(`${path}.`))
        return compute({
          ...context,
          recipe: spied(context.recipe, path => {
            if (!covers(path)) undeclared.push(`${name} reads ${path}`)
          }),
        })
      }
    }
    try {
      const d = createDerivation(async f => (f.hash === body!.hash ? glb : motion))
      for (const name of ['strain', 'asymmetry', 'skin', 'correctives'] as const) await d.get(name, recipe)
      await d.get('take', recipe, { of: 'walk' })
      await d.get('findings', recipe, { of: ['walk'] })
      await d.get('rig', { ...recipe, bones: { ...recipe.bones, source: 'plan' } }).catch(() => undefined)
    } finally {
      for (const [name, compute] of before) Object.assign(STEPS[name], { compute })
    }
    expect([...new Set(undeclared)]).toEqual([])
  })
  it('is all it may ask of others: what is not declared is refused', async () => {
    const step = STEPS.check as unknown as {
      compute: (context: { get: (s: string) => Promise<unknown> }) => Promise<unknown>
    }
    const { compute } = step
    try {
      step.compute = context => context.get('strain')
      const glb = await writeGlb({ name: 'box', mesh: box([-0.2, 0, -0.1], [0.2, 1.8, 0.1]) })
      const d = createDerivation(async () => glb)
      const recipe = { ...emptyRecipe(), body: { name: 'box.glb', hash: hashBytes(glb), size: glb.length } }
      await expect(d.get('check', recipe)).rejects.toThrow(/does not declare/)
    } finally {
      step.compute = compute
    }
  })
})

describe('kept results', () => {
  it('stay within their budget, the one asked for longest ago making room', () => {
    const cache = new ByteCache<string>(100)
    cache.set('a', 'A', 40)
    cache.set('b', 'B', 40)
    expect(cache.get('a')?.value).toBe('A')
    cache.set('c', 'C', 40)
    expect([cache.has('a'), cache.has('b'), cache.has('c')]).toEqual([true, false, true])
    expect(cache.bytes).toBe(80)
    cache.set('huge', 'H', 1000)
    expect([cache.has('a'), cache.has('huge')]).toEqual([false, true])
  })
  it('are weighed by their buffers, each once', () => {
    const buffer = new Float32Array(1000)
    const alone = bytesOf({ buffer })
    expect(alone).toBeGreaterThanOrEqual(4000)
    expect(bytesOf({ buffer, again: buffer.subarray(10), map: new Map([['x', buffer]]) })).toBeLessThan(alone + 200)
  })
})

describe('derivation', () => {
  it('does not let one who stops spoil the work for another who still waits', async () => {
    const glb = await writeGlb({ name: 'box', mesh: box([-0.2, 0, -0.1], [0.2, 1.8, 0.1]) })
    const d = createDerivation(async () => glb)
    const recipe = { ...emptyRecipe(), body: { name: 'box.glb', hash: hashBytes(glb), size: glb.length } }
    const impatient = { aborted: false },
      patient = { aborted: false }
    const first = d.get('shape', recipe, { signal: impatient }).then(
      () => 'done',
      (e: { code: string }) => e.code,
    )
    const second = d.get('shape', recipe, { signal: patient })
    impatient.aborted = true
    expect(['stopped', 'done']).toContain(await first)
    expect((await second).straightened.height).toBeCloseTo(1.8)
  })
  it('works each step out once, forgets what failed, and asks for a body', async () => {
    let reads = 0
    const glb = await writeGlb({ name: 'box', mesh: box([-0.2, 0, -0.1], [0.2, 1.8, 0.1]) })
    const file: FileRef = { name: 'box.glb', hash: hashBytes(glb), size: glb.length }
    const d = createDerivation(async () => {
      reads++
      return glb
    })
    const recipe = { ...emptyRecipe(), body: file }
    const first = await d.get('shape', recipe)
    expect(await d.get('shape', { ...recipe, name: 'renamed' })).toBe(first)
    expect(await d.get('shape', { ...recipe, straighten: { unit: 'cm' } })).not.toBe(first)
    expect(reads).toBe(1)
    // a box is no biped: refused each time it is asked, and never cached as a result
    await expect(d.get('landmarks', recipe)).rejects.toMatchObject({ code: 'not-a-biped' })
    await expect(d.get('rig', recipe)).rejects.toMatchObject({ code: 'not-a-biped' })
    await expect(d.get('shape', emptyRecipe())).rejects.toMatchObject({ code: 'missing-file' })
  })
  it('works a stopped step out again', async () => {
    const glb = await writeGlb({ name: 'box', mesh: box([-0.2, 0, -0.1], [0.2, 1.8, 0.1]) })
    const d = createDerivation(async () => glb)
    const recipe = { ...emptyRecipe(), body: { name: 'box.glb', hash: hashBytes(glb), size: glb.length } }
    await expect(d.get('landmarks', recipe, { signal: { aborted: true } })).rejects.toBeDefined()
    expect((await d.get('shape', recipe)).straightened.height).toBeCloseTo(1.8, 3)
  })
  it('tells progress that only grows, of everything that is still to be done', async () => {
    const glb = await writeGlb({ name: 'doll', ...(await cleanDoll()) })
    const d = createDerivation(async () => glb)
    const recipe = { ...emptyRecipe(), body: { name: 'doll.glb', hash: hashBytes(glb), size: glb.length } }
    const told: number[] = []
    await d.get('skin', recipe, { onProgress: share => told.push(share) })
    expect(told.length).toBeGreaterThan(0)
    expect(told.every((x, i) => x >= (told[i - 1] ?? 0) && x <= 1)).toBe(true)
  })
  it('makes only the last of many repairs again', async () => {
    const glb = await writeGlb({ name: 'doll', ...(await cleanDoll()) })
    const d = createDerivation(async () => glb)
    const body = { name: 'doll.glb', hash: hashBytes(glb), size: glb.length }
    let recipe: Recipe = { ...emptyRecipe(), body }
    const list = Array.from({ length: 12 }, (_, i) => stroke(0.15 + 0.02 * i))
    for (const edit of list) {
      recipe = { ...recipe, skin: { ...recipe.skin, edits: [...recipe.skin.edits, edit] } }
      await d.get('skin', recipe)
    }
    const once = createDerivation(async () => glb)
    const fresh = await once.get('skin', { ...emptyRecipe(), body, skin: { ...recipe.skin, edits: list } })
    expect((await d.get('skin', recipe)).weights).toEqual(fresh.weights)
    // a beginning made before is found again after later repairs are taken back
    const beginning: Recipe = { ...recipe, skin: { ...recipe.skin, edits: recipe.skin.edits.slice(0, 5) } }
    expect(d.has(d.key('openSkin', beginning))).toBe(true)
  })
})
