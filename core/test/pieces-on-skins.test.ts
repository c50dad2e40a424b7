import { beforeAll, describe, expect, it } from 'vitest'
import { deliver, readFile, writeGlb } from '../src/formats'
import { emptyRecipe, hashBytes, type Recipe } from '../src/recipe'
import { contentOf, createDerivation, type Derivation } from '../src/steps'
import { io, richRigged } from './round-trip/rich'
import { missingFrom } from './round-trip/same'

let bytes: Uint8Array
let recipe: Recipe
let derivation: Derivation
beforeAll(async () => {
  bytes = await io().writeBinary((await richRigged()).document)
  recipe = { ...emptyRecipe('a'), body: { name: 'a.glb', hash: hashBytes(bytes), size: bytes.length } }
  derivation = createDerivation(async () => bytes)
})

describe('pieces of a body that came with a skin', () => {
  it('keep it, whatever they are taken for, until somebody says otherwise', async () => {
    const skin = await derivation.get('skin', recipe)
    const { received } = await derivation.get('shape', recipe)
    expect(skin.weights).toEqual(received.skin!.weights)
    // the doll has but one name for head and eyes' place; what is guessed is told and changes nothing
    const guesses = await derivation.get('pieces', recipe)
    expect(guesses.length).toBe(received.mesh!.parts.length)
  })
  it('ride where they are told to, and all else of the file stays as it came', async () => {
    const told: Recipe = { ...recipe, pieces: { Hat: { role: 'rigid', joint: 'leftHand' } } }
    const content = await contentOf(derivation, told, [])
    const part = content.mesh!.parts.find(p => p.name === 'Hat')!
    const hand = content.skeleton!.roles.indexOf('leftHand')
    const { skin } = content
    for (const v of content.mesh!.indices.subarray(part.start, part.start + part.count)) {
      expect(skin!.joints[v * skin!.influences]).toBe(hand)
      expect(skin!.weights[v * skin!.influences]).toBe(1)
    }
    const { bytes: out, proof } = await deliver(content)
    expect(proof).toMatchObject({ validatorErrors: 0, sameAsSource: true })
    const [a, b] = [await io().readBinary(bytes), await io().readBinary(out)]
    expect(missingFrom(a, b, { moved: true })).toEqual([])
    const back = await readFile(out, 'a.glb')
    expect(back.skeleton!.names).toEqual(content.skeleton!.names)
  })
  it('may be a garment over the rest, taking the weights of what lies beneath', async () => {
    const told: Recipe = { ...recipe, pieces: { Hat: { role: 'garment' } } }
    const { skin, mesh } = await contentOf(derivation, told, [])
    const part = mesh!.parts.find(p => p.name === 'Hat')!
    for (const v of mesh!.indices.subarray(part.start, part.start + part.count)) {
      let sum = 0
      for (let k = 0; k < skin!.influences; k++) sum += skin!.weights[v * skin!.influences + k]
      expect(sum).toBeCloseTo(1, 4)
    }
  })
  it('come out of a file of our own as they went in', async () => {
    const content = await contentOf(derivation, recipe, [])
    const again = await readFile(await writeGlb({ ...content, source: undefined }), 'b.glb')
    expect(again.mesh!.parts.map(p => p.name)).toEqual(content.mesh!.parts.map(p => p.name))
  })
})
