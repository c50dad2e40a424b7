import { describe, expect, it } from 'vitest'
import { readFile } from '@chiraxis/core/formats'
import { ChiraxisError } from '@chiraxis/core/math'
import { deform } from '@chiraxis/core/skin'
import { worldPose } from '@chiraxis/core/skeleton'
import { OUTER_READERS } from '../src'
import { COLLADA, FBX_TEXT } from './samples'

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text)
const read = (data: Uint8Array, name: string) => readFile(data, name, { readers: OUTER_READERS })
const refusal = async (data: Uint8Array, name: string): Promise<ChiraxisError> => {
  const error = await read(data, name).then(
    () => undefined,
    e => e as unknown,
  )
  expect(error).toBeInstanceOf(ChiraxisError)
  return error as ChiraxisError
}

describe('COLLADA', () => {
  it('gives body, joints, skin and take upright and in metres', async () => {
    const file = await read(bytes(COLLADA), 'strip.dae')
    expect(file.mesh!.indices.length).toBe(12)
    const ys = Array.from(file.mesh!.positions).filter((_, i) => i % 3 === 1)
    expect(Math.max(...ys)).toBeCloseTo(0.2, 5)
    expect(file.skeleton!.names).toEqual(['low', 'high'])
    expect(worldPose(file.skeleton!).positions[4]).toBeCloseTo(0.1, 5)
    const top = [...ys.keys()].filter(i => ys[i] > 0.19)
    expect(top.every(v => file.skin!.joints[4 * v] === 1 && file.skin!.weights[4 * v] === 1)).toBe(true)
    expect(file.takes).toHaveLength(1)
    expect(file.takes[0].frames).toBe(31)
    // at the end the upper half is bent a quarter turn, so the top lies level with the joint
    const take = file.takes[0]
    const last = worldPose(file.skeleton!, take.translations, take.rotations, 2 * (take.frames - 1))
    const bent = deform(file.mesh!.positions, file.skeleton!, file.skin!, last)
    expect(bent[3 * top[0] + 1]).toBeCloseTo(0.1, 2)
  })

  it('keeps its textures: one that came along as it is, one that did not told by name', async () => {
    const textured = COLLADA.replace(
      '<library_geometries>',
      `<library_images><image id="img"><init_from>cloth.png</init_from></image></library_images>
       <library_effects><effect id="fx"><profile_COMMON>
        <newparam sid="surf"><surface type="2D"><init_from>img</init_from></surface></newparam>
        <newparam sid="samp"><sampler2D><source>surf</source></sampler2D></newparam>
        <technique sid="t"><lambert><diffuse><texture texture="samp" texcoord="UV"/></diffuse></lambert></technique>
       </profile_COMMON></effect></library_effects>
       <library_materials><material id="mat" name="cloth"><instance_effect url="#fx"/></material></library_materials>
       <library_geometries>`,
    )
      .replace('<triangles count="4">', '<triangles count="4" material="m">')
      .replace(
        '<skeleton>#low</skeleton>',
        '<skeleton>#low</skeleton><bind_material><technique_common><instance_material symbol="m" target="#mat"/></technique_common></bind_material>',
      )
    const png = Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, 1, 2, 3)
    const read = (beside?: Map<string, Uint8Array>) =>
      readFile(bytes(textured), 'strip.dae', { readers: OUTER_READERS, beside })
    const whole = await read(new Map([['cloth.png', png]]))
    expect(whole.images!.map(i => [...i.bytes])).toEqual([[...png]])
    expect(whole.materials![0]).toMatchObject({ name: 'cloth', maps: { color: 0 } })
    const alone = await read()
    expect(alone.mesh!.indices.length).toBe(12)
    expect(alone.images).toEqual([])
    expect(alone.dropped.join(' ')).toContain('cloth.png was not brought in')
  })

  it('refuses what is cut short or declares entities', async () => {
    expect((await refusal(bytes(COLLADA.slice(0, 2000)), 'cut.dae')).code).toBe('truncated-file')
    expect(
      (await refusal(bytes(COLLADA.replace('<COLLADA', '<!DOCTYPE x [<!ENTITY a "b">]><COLLADA')), 'entity.dae')).code,
    ).toBe('bad-syntax')
    expect((await refusal(bytes('<COLLADA></COLLADA>'), 'empty.dae')).message).toMatch(/COLLADA/)
  })
})

describe('FBX', () => {
  it('gives the triangles of a text file where its node puts them, with the material', async () => {
    const file = await read(bytes(FBX_TEXT), 'sheet.fbx')
    expect(file.format).toBe('fbx')
    expect(file.mesh!.indices.length / 3).toBe(3)
    const ys = Array.from(file.mesh!.positions).filter((_, i) => i % 3 === 1)
    expect(Math.min(...ys)).toBeCloseTo(5, 5)
    expect(file.materials![0].name).toBe('cloth')
  })

  it('refuses versions it does not know, and damage, in plain words', async () => {
    expect((await refusal(bytes(FBX_TEXT.replace('7400', '5000')), 'old.fbx')).code).toBe('bad-version')
    const head = new Uint8Array(400)
    head.set(bytes('Kaydara FBX Binary  '))
    new DataView(head.buffer).setUint32(23, 99, true)
    expect((await refusal(head, 'strange.fbx')).code).toBe('bad-version')
    new DataView(head.buffer).setUint32(23, 7400, true)
    expect((await refusal(head, 'hollow.fbx')).message).not.toMatch(/undefined|TypeError/)
    expect((await refusal(bytes('solid nothing'), 'named.fbx')).code).toBe('wrong-format')
  })
})
