import 'fake-indexeddb/auto'
import { describe, expect, it } from 'vitest'
import { emptyRecipe, hashBytes, type Recipe } from '@chiraxis/core/recipe'
import { writeWav } from '@chiraxis/core/voice'
import { createDerivation, STEPS, type ResultStore, type StepName } from '@chiraxis/core/steps'
import { writeGlb } from '@chiraxis/core/formats'
import { cleanDoll } from '../../core/test/figure'
import { openResultStore } from '~/keeping/result-store'

const settle = (): Promise<void> => new Promise(done => setTimeout(done, 30))

describe('results kept over a reload', () => {
  it('gives back what was put there, typed arrays and all, to the same program only', async () => {
    const value = { weights: Float32Array.from([0.25, 0.75]), names: ['hips'], none: undefined }
    const store = openResultStore('one', { name: 'results-a', delay: 0 })
    expect(await store.find('skin:1')).toBeUndefined()
    await store.put('skin:1', value, 100)
    expect(await store.find('skin:1')).toEqual(value)
    expect(await store.find('skin:2')).toBeUndefined()
    // a newer program never sees it, and throws it out
    expect(await openResultStore('two', { name: 'results-a', delay: 0 }).find('skin:1')).toBeUndefined()
    expect(await openResultStore('one', { name: 'results-a', delay: 0 }).find('skin:1')).toBeUndefined()
  })
  it('makes room for the newest within its budget, and never takes what is too large', async () => {
    const store = openResultStore('p', { name: 'results-b', budget: 1000, delay: 0 })
    for (let i = 0; i < 5; i++) {
      await store.put(`k${i}`, i + 1, 300)
      await new Promise(done => setTimeout(done, 2))
    }
    const left = await Promise.all([0, 1, 2, 3, 4].map(i => store.find(`k${i}`)))
    expect(left).toEqual([undefined, undefined, 3, 4, 5])
    await store.put('huge', 1, 1e12)
    expect(await store.find('huge')).toBeUndefined()
    expect(await store.find('k4')).toBe(5)
    await store.clear()
    expect(await store.find('k4')).toBeUndefined()
  })
  it('of a step that is worked out again and again writes the last result only', async () => {
    const store = openResultStore('p', { name: 'results-e', delay: 30 })
    await Promise.all([1, 2, 3].map(i => store.put(`skin:${i}`, i, 10)))
    await store.put('strain:1', 'other', 10)
    expect(await Promise.all([1, 2, 3].map(i => store.find(`skin:${i}`)))).toEqual([undefined, undefined, 3])
    expect(await store.find('strain:1')).toBe('other')
  })
  it('without a store is as if it were empty', async () => {
    const store = openResultStore('p', { name: 'results-c', delay: 0 })
    // a value that cannot be copied
    await store.put('k', { run: () => 1 }, 10)
    expect(await store.find('k')).toBeUndefined()
  })
})

describe('a derivation with a store of results', () => {
  it('gives the same results after a reload, and works out again only what is quick', async () => {
    const bytes = await writeGlb({ name: 'doll', mesh: (await cleanDoll()).mesh })
    const body = { name: 'doll.glb', hash: hashBytes(bytes), size: bytes.length }
    const recipe: Recipe = { ...emptyRecipe('doll'), body }
    const kept = openResultStore('p', { name: 'results-d', delay: 0 })
    const steps: StepName[] = [
      'shape',
      'landmarks',
      'rig',
      'pieces',
      'skin',
      'strain',
      'findings',
      'check',
      'asymmetry',
      'heard',
      'light',
    ]
    const tone = Float32Array.from({ length: 8000 }, (_, i) => 0.3 * Math.sin(i / 8) + 0.1 * Math.sin(i / 3))
    const sound = writeWav({ rate: 8000, samples: tone })
    const voice = { name: 'line.wav', hash: hashBytes(sound), size: sound.length }
    const asked = (step: StepName): object => (step === 'findings' ? { of: [] } : step === 'heard' ? { of: voice } : {})
    const all = async (store: ResultStore): Promise<unknown[]> => {
      const d = createDerivation(async f => (f.hash === voice.hash ? sound : bytes), { store })
      return Promise.all(steps.map(step => d.get(step as 'take', recipe, asked(step) as { of: string })))
    }
    const first = await all(kept)
    await settle()
    const [found, missed]: string[][] = [[], []]
    const second = await all({
      find: async key => {
        const value = await kept.find(key)
        ;(value === undefined ? missed : found).push(key.replace(/:.*/, ''))
        return value
      },
      put: kept.put,
    })
    expect(second).toEqual(first)
    expect(missed).toEqual([])
    const lasting = (Object.keys(STEPS) as StepName[]).filter(name => STEPS[name].lasting)
    expect(found.sort()).toEqual(lasting.sort())
  })
})
