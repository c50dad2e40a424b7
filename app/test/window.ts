import 'fake-indexeddb/auto'
import { createPinia, setActivePinia } from 'pinia'
import * as vue from 'vue'
import {
  applyRecipePatches,
  emptyRecipe,
  hashBytes,
  type FileRef,
  type Recipe,
  type TakeRef,
} from '@chiraxis/core/recipe'
import { keyOf } from '@chiraxis/core/steps'
import type { Answer, Ask, CoreApi, Keyed, Revision, ViewName, Views } from '~/workers/core-api'
import { messageBytes } from '~/workers/lend'

/** What the framework gives every store without an import. */
export function standInForTheFramework(): void {
  const { computed, nextTick, reactive, ref, shallowRef, toRaw, watch } = vue
  Object.assign(globalThis, { computed, nextTick, reactive, ref, shallowRef, toRaw, watch })
  const storage = (): Storage => {
    const held = new Map<string, string>()
    return {
      getItem: (k: string) => held.get(k) ?? null,
      setItem: (k: string, v: string) => void held.set(k, v),
      removeItem: (k: string) => void held.delete(k),
    } as unknown as Storage
  }
  Object.assign(globalThis, { localStorage: storage(), sessionStorage: storage() })
  setActivePinia(createPinia())
}

interface Waiting {
  readonly rev: Revision
  readonly ask: Ask
  readonly key: string
  readonly job: string
  aborted: boolean
  settle(answer: Answer<Keyed<never>>): void
}

/** A worker whose answers come when the test lets them: what the window asked, and in which order. */
export class FakeCore {
  readonly asked: string[] = []
  readonly waiting: Waiting[] = []
  readonly stopped: string[] = []
  /** Bytes of every message to the worker. */
  sent = 0
  private readonly recipes = new Map<Revision, Recipe>()
  private made = 0
  refuse = new Map<ViewName, string>()

  /** Ends everything that waits, and whatever is asked for next, until nothing is asked any more. */
  async settleAll(): Promise<void> {
    for (let idle = 0; idle < 4; idle++) {
      await new Promise(done => setTimeout(done, 0))
      while (this.waiting.length > 0) {
        this.release(this.waiting[0]!)
        idle = 0
        await new Promise(done => setTimeout(done, 0))
      }
    }
  }

  /** Lets the window ask for what it wants next. */
  async breathe(): Promise<void> {
    for (let i = 0; i < 6; i++) await new Promise(done => setTimeout(done, 0))
  }

  release(one: Waiting): void {
    this.waiting.splice(this.waiting.indexOf(one), 1)
    const words = this.refuse.get(one.ask.step)
    if (one.aborted) one.settle({ ok: false, refusal: { code: 'stopped', message: 'The work was stopped.' } })
    else if (words) one.settle({ ok: false, refusal: { code: 'bad-input', message: words } })
    else one.settle({ ok: true, value: { key: one.key, value: this.view(one) as never } })
  }

  waitingFor(step: ViewName): Waiting | undefined {
    return this.waiting.find(w => w.ask.step === step)
  }

  /** A made-up result that tells which recipe it is of. */
  private view({ rev, ask }: Waiting): unknown {
    const recipe = this.recipes.get(rev)!
    const of = `${recipe.body?.name} ${this.made++}`
    const skeleton = {
      names: ['hips', 'spine'],
      roles: ['hips', 'spine'],
      parents: Int16Array.of(-1, 0),
      restTranslations: new Float32Array(6),
      restRotations: new Float32Array(8),
    }
    const views: { readonly [N in ViewName]: unknown } = {
      pieces: [],
      shape: { mesh: { of }, straightened: { height: 1.7 }, pieces: [], materials: [], images: [], of },
      check: { of },
      faults: { rims: [], faces: [] },
      asymmetry: { of },
      landmarks: { plan: 'biped', found: [], placed: [], hands: {}, of },
      rig: { skeleton, takes: [], lost: [], source: 'plan', of },
      skin: { skin: { influences: 4, of }, lost: [], of },
      openSkin: { influences: 8, of },
      correctives: { shapes: [], lost: [], of },
      expressions: { binds: {}, shapes: [], told: [], of },
      face: undefined,
      light: { of },
      strain: { of },
      handles: { of },
      props: { hands: [], list: [], of },
      take: { take: { name: ask.of }, of },
      findings: [{ rule: 'something', severity: 'note', where: of, message: of, mendable: false }],
    }
    return views[ask.step]
  }

  readonly api = {
    follow: (rev: Revision, change: Parameters<CoreApi['follow']>[1]): void => {
      this.sent += messageBytes(change)
      const next =
        'recipe' in change ? change.recipe : applyRecipePatches(this.recipes.get(change.base)!, change.patches)
      this.recipes.set(rev, next)
      for (const one of this.waiting)
        if (keyOf(one.ask.step as 'take', next, one.ask.of as string) !== one.key) one.aborted = true
    },
    keys: async (rev: Revision, asks: readonly Ask[]) => ({
      ok: true as const,
      value: asks.map(a => keyOf(a.step as 'take', this.recipes.get(rev)!, a.of as string)),
    }),
    step: (rev: Revision, ask: Ask, job: string): Promise<Answer<Keyed<Views[ViewName]>>> => {
      this.sent += messageBytes([rev, ask, job])
      this.asked.push(ask.of ? `${ask.step} ${String(ask.of)}` : ask.step)
      const key = keyOf(ask.step as 'take', this.recipes.get(rev)!, ask.of as string)
      return new Promise(settle => {
        this.waiting.push({ rev, ask, key, job, aborted: false, settle: settle as Waiting['settle'] })
      })
    },
    stop: (job: string): void => {
      this.stopped.push(job)
      for (const one of this.waiting) if (one.job === job) one.aborted = true
    },
    compact: async () => ({ ok: true as const, value: undefined }),
    clearResults: async () => ({ ok: true as const, value: undefined }),
    mendAll: async (rev: Revision) => {
      await this.mendingGate
      const recipe = this.recipes.get(rev)!
      return { ok: true as const, value: { recipe: { ...recipe, cleanFaces: true }, mended: ['unclean-faces'] } }
    },
  }
  mendingGate: Promise<void> = Promise.resolve()
}

export const fileOf = (name: string): FileRef => ({ name, hash: hashBytes(new TextEncoder().encode(name)), size: 9 })
export const takeOf = (id: string): TakeRef => ({
  id,
  name: id,
  performer: 'North',
  file: fileOf(`${id}.bvh`),
  index: 0,
})
export const figure = (body: string): Recipe => ({
  ...emptyRecipe('figure'),
  body: fileOf(body),
  takes: [takeOf('walk'), takeOf('run')],
})
