import { beforeAll, describe, expect, it } from 'vitest'
import { validateBytes } from 'gltf-validator'
import { writeBvh, writeGlb } from '@chiraxis/core/formats'
import { lightIndex } from '@chiraxis/core/mesh'
import { takeSeconds } from '@chiraxis/core/motion'
import { emptyRecipe, hashBytes, ownTakeIds, type FileRef, type Recipe } from '@chiraxis/core/recipe'
import { crowdFile, createDerivation, guestOf, keepRun } from '@chiraxis/core/steps'
import { createCrowd, createWalkabout, CROWD_DEFAULTS, placeCrowd, quayFloor } from '@chiraxis/core/trial'
import { makeFigure, PIM, variedProportions } from '../src/figures'
import { MOVES, NORTH, record } from '../src/takes'

const files = new Map<string, Uint8Array>()
const keep = (name: string, bytes: Uint8Array): FileRef => {
  const hash = hashBytes(bytes)
  files.set(hash, bytes)
  return { name, hash, size: bytes.length }
}
const derivation = createDerivation(async f => files.get(f.hash)!)
let host: Recipe, guest: Recipe
const IDS = ['idle', 'walk', 'run']
beforeAll(async () => {
  const body = async (name: string, mesh: Parameters<typeof writeGlb>[0]['mesh']): Promise<Recipe> => ({
    ...emptyRecipe(name),
    body: keep(`${name}.glb`, await writeGlb({ name, mesh })),
  })
  const takes = await Promise.all(
    ['lookout idle', 'walk', 'run'].map(async (name, i) => {
      const { skeleton, take } = record(
        MOVES.find(m => m.name === name)!,
        NORTH,
        30,
      )
      return { id: IDS[i]!, name, performer: 'North', file: keep(`${name}.bvh`, writeBvh(skeleton, take)), index: 0 } // prettier-ignore
    }),
  )
  host = { ...(await body('Host', makeFigure(variedProportions(61), { vertices: 2500 }).mesh)), takes }
  guest = await body('Pim', makeFigure(PIM, { vertices: 2500 }).mesh)
}, 240_000)

describe('another figure in the place of one’s own', () => {
  it('is given the takes, is led under the same states, and is of its own size', async () => {
    const came = await guestOf(derivation, host, guest, IDS)
    expect(came.clips.clips.map(c => [c.id, c.clip.kind])).toEqual([
      ['idle', 'stand'],
      ['walk', 'steps'],
      ['run', 'steps'],
    ])
    expect(came.skin.joints.length).toBe((came.mesh.positions.length / 3) * came.skin.influences)
    const own = await guestOf(derivation, host, host, IDS)
    const pace = (g: typeof came): number => {
      const w = createWalkabout({ ...g.clips, skeleton: g.skeleton, clips: g.clips.clips.map(c => c.clip), floor: quayFloor() }) // prettier-ignore
      let last = w.step(1 / 60, {})
      for (let i = 0; i < 120; i++) last = w.step(1 / 60, { to: [0, 1] })
      return last.speed
    }
    // a small body goes slower by the same take
    expect(pace(came)).toBeLessThan(0.9 * pace(own))
    expect(guest.takes).toEqual([])
  })
  it('without takes of its own or of the host it is refused in words', async () => {
    await expect(guestOf(derivation, host, guest, [])).rejects.toThrow('has no takes of its own')
  })
})

describe('figures of a crowd', () => {
  it('are written with their clips by name, valid, and as light as is asked for the picture', async () => {
    const takes = [
      { id: 'walk', name: 'stroll' },
      { id: 'idle', name: 'wait' },
    ]
    for (const who of [undefined, guest]) {
      const bytes = await crowdFile(derivation, host, who, takes)
      expect((await validateBytes(bytes)).issues.numErrors).toBe(0)
      const long = new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true)
      const json = JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + long))) as {
        animations?: { name: string }[]
        skins?: unknown[]
      }
      expect(json.animations?.map(a => a.name)).toEqual(['stroll', 'wait'])
      expect(json.skins).toHaveLength(1)
    }
    const { mesh } = await derivation.get('shape', host)
    const light = await lightIndex(mesh, 900)
    expect(light.length / 3).toBeLessThan(1300)
    expect(light.length / 3).toBeGreaterThan(400)
    expect(light.reduce((m, v) => Math.max(m, v), 0)).toBeLessThan(mesh.positions.length / 3)
    expect(await lightIndex(mesh, 1e6)).toBe(mesh.indices)
  })
  it('takes that came with the body go under the names they are asked for, and no others go along', async () => {
    const dressed = await crowdFile(
      derivation,
      host,
      undefined,
      IDS.map(id => ({ id, name: `came ${id}` })),
    )
    const received: Recipe = { ...emptyRecipe('Received'), body: keep('received.glb', dressed), takes: host.takes }
    const { takes } = await derivation.get('rig', received)
    const own = ownTakeIds(takes)
    expect(takes.map(t => t.name)).toEqual(['came idle', 'came walk', 'came run'])
    // asked for the other way around, one from each side
    const asked = [{ id: 'run', name: 'carried' }, { id: own[1]!, name: 'its own' }] // prettier-ignore
    const bytes = await crowdFile(derivation, received, undefined, asked)
    const long = new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true)
    const json = JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + long))) as {
      animations: { name: string }[]
    }
    expect(json.animations.map(a => a.name)).toEqual(['carried', 'its own'])
    const again = await derivation.get('rig', { ...emptyRecipe('Again'), body: keep('again.glb', bytes) })
    const seconds = (name: string): number => takeSeconds(again.takes.find(t => t.name === name)!)
    expect(seconds('its own')).toBeCloseTo(takeSeconds(takes[1]!), 1)
    expect(Math.abs(seconds('carried') - seconds('its own'))).toBeGreaterThan(0.2)
  })
  it('two kinds stand and walk together, each on its own skeleton', async () => {
    const kinds = await Promise.all(
      [host, guest].map(async r => {
        const g = await guestOf(derivation, host, r, IDS)
        return { skeleton: g.skeleton, frame: g.clips.frame, clips: g.clips.clips.map(c => c.clip) }
      }),
    )
    const { ways, agents } = placeCrowd({ ...CROWD_DEFAULTS, agents: 40 }, kinds)
    const crowd = createCrowd(kinds, ways, agents)
    crowd.step(0.5)
    const { joints, matrices } = crowd.pose()
    expect(crowd.order.map(o => o.length).reduce((a, b) => a + b, 0)).toBe(40)
    for (const k of [0, 1]) {
      expect(crowd.order[k]!.length).toBeGreaterThan(8)
      expect(matrices[k]!.length).toBe(16 * crowd.order[k]!.length)
      expect(joints[k]!.every(Number.isFinite)).toBe(true)
    }
  })
})

describe('a run that is kept', () => {
  it('is a take of the figure’s own, with what it stepped on; one of another skeleton is refused', async () => {
    const own = await guestOf(derivation, host, host, IDS)
    const J = own.skeleton.names.length
    const walk = own.clips.clips[1]!.clip
    const take = { name: 'run of noon', fps: 60, frames: walk.samples, rotations: walk.rotations, translations: walk.translations, events: [{ time: 0.2, name: 'footstep', data: { foot: 'left', surface: 'mud' } }] } // prettier-ignore
    const ref = await keepRun(derivation, host, take, keep)
    expect(ref).toMatchObject({ name: 'run of noon', performer: 'Host', root: {} })
    const performed = await derivation.get('take', { ...host, takes: [...host.takes, ref] }, { of: ref.id })
    expect(performed.take.frames).toBe(walk.samples)
    let off = 0
    for (let i = 0; i < 4 * J * 20; i++) off = Math.max(off, Math.abs(Math.abs(performed.take.rotations[i]!) - Math.abs(walk.rotations[i]!))) // prettier-ignore
    expect(off).toBeLessThan(2e-3)
    await expect(keepRun(derivation, host, { ...take, frames: 7 }, keep)).rejects.toThrow('skeleton was changed')
  })
})
