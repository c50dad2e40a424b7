import { zipSync, strToU8 } from 'fflate'
import { describe, expect, it } from 'vitest'
import {
  applyRemedy,
  currentRecipe,
  emptyRecipe,
  hashBytes,
  parseRecipe,
  readProject,
  record,
  redo,
  redoName,
  startHistory,
  undo,
  undoName,
  writeProject,
  type FileRef,
  type Recipe,
} from '../src/recipe'

const bytes = new TextEncoder().encode('some file')
const ref: FileRef = { name: 'a.glb', hash: hashBytes(bytes), size: bytes.length }
const withBody: Recipe = { ...emptyRecipe('Test'), body: ref, landmarks: { edits: { leftElbow: [0.2, 0.7, 0] } } }

describe('history', () => {
  it('takes back and brings back by name, and drops what was undone before a new change', () => {
    let h = startHistory(emptyRecipe('one'))
    h = record(h, 'Rename', emptyRecipe('two'))
    h = record(h, 'Rename again', emptyRecipe('three'))
    expect(undoName(h)).toBe('Rename again')
    h = undo(h)
    expect(currentRecipe(h).name).toBe('two')
    expect(redoName(h)).toBe('Rename again')
    expect(currentRecipe(redo(h)).name).toBe('three')
    h = record(h, 'Other', emptyRecipe('four'))
    expect(redoName(h)).toBeUndefined()
    expect(currentRecipe(undo(undo(undo(h)))).name).toBe('one')
  })
  it('joins the steps of one drag', () => {
    let h = startHistory(emptyRecipe('one'))
    h = record(h, 'Drag', emptyRecipe('a'), true)
    h = record(h, 'Drag', emptyRecipe('b'), true)
    expect(h.entries).toHaveLength(2)
    expect(currentRecipe(undo(h)).name).toBe('one')
  })
})

describe('recipes', () => {
  it('are checked on the way in; newer ones are refused politely', () => {
    expect(parseRecipe(JSON.parse(JSON.stringify(withBody)))).toEqual(withBody)
    expect(() => parseRecipe({ ...withBody, version: 99 })).toThrow(/newer Chiraxis/)
    expect(() => parseRecipe({ ...withBody, skin: { influences: 99, firmness: 1 } })).toThrow(/readable recipe/)
    expect(() => parseRecipe('nonsense')).toThrow(/readable recipe/)
  })
  it('of the first version are brought up to date, nothing lost', () => {
    const old = {
      version: 1,
      name: 'Oda',
      body: withBody.body,
      straighten: { up: '+z' },
      landmarks: { edits: { chest: [0, 0.7, 0] } },
      skin: { influences: 2, firmness: 3 },
      takes: [],
      transfer: { rest: 'none', ground: false },
    }
    const read = parseRecipe(old)
    expect(read).toMatchObject({
      name: 'Oda',
      straighten: { up: '+z' },
      landmarks: { edits: { chest: [0, 0.7, 0] } },
      skin: { influences: 2, firmness: 3, source: 'auto' },
      bones: { source: 'auto', edits: [] },
    })
    expect(parseRecipe(JSON.parse(JSON.stringify(read)))).toEqual(read)
  })
  it('take remedies', () => {
    expect(applyRemedy(withBody, { rig: [{ kind: 'match', from: 'left' }] }).bones.edits).toEqual([
      { kind: 'match', from: 'left' },
    ])
    expect(applyRemedy(withBody, { normalMap: 'cloth', cleanFaces: true, leaveOut: 'stand' })).toMatchObject({
      normalMaps: ['cloth'],
      cleanFaces: true,
      pieces: { stand: { role: 'left-out' } },
    })
    expect(applyRemedy(withBody, { ground: false }).transfer.ground).toBe(false)
    expect(applyRemedy(withBody, { edits: { chest: [0, 0.7, 0] } }).landmarks.edits).toEqual({ chest: [0, 0.7, 0] })
  })
})

describe('project files', () => {
  it('come back whole, the same bytes each time', async () => {
    const packed = await writeProject(withBody, async () => bytes)
    expect(await writeProject(withBody, async () => bytes)).toEqual(packed)
    const { recipe, files } = await readProject(packed)
    expect(recipe).toEqual(withBody)
    expect(files.get(ref.hash)).toEqual(bytes)
  })
  it('are refused when they are none, damaged, or lack a file', async () => {
    const packed = await writeProject(withBody, async () => bytes)
    await expect(readProject(new Uint8Array(0))).rejects.toMatchObject({ code: 'empty-file' })
    await expect(readProject(packed.subarray(0, packed.length - 30))).rejects.toMatchObject({ code: 'bad-syntax' })
    await expect(readProject(strToU8('not a zip at all'))).rejects.toMatchObject({ code: 'bad-syntax' })
    await expect(readProject(zipSync({ 'other.txt': strToU8('x') }))).rejects.toMatchObject({ code: 'wrong-format' })
    await expect(readProject(zipSync({ 'recipe.json': strToU8(JSON.stringify(withBody)) }))).rejects.toMatchObject({
      code: 'missing-file',
    })
    await expect(
      readProject(
        zipSync({ 'recipe.json': strToU8(JSON.stringify(withBody)), [`files/${ref.hash}`]: strToU8('altered') }),
      ),
    ).rejects.toMatchObject({ code: 'missing-file' })
    await expect(readProject(zipSync({ 'recipe.json': strToU8('{') }))).rejects.toMatchObject({ code: 'bad-syntax' })
  })
})
