import { bodyPart } from '../body'
import { ChiraxisError, conjugate, multiply, quatAt, rotate, setQuat, setVec3, sub, vec3At } from '../math'
import type { Take } from '../motion'
import { recogniseRoles, worldPose, type Skeleton } from '../skeleton'
import { bodyFrame } from '../retarget'
import { writeGlb } from './gltf-write'

/**
 * Writes one take as a VRM Animation: a GLB of the skeleton alone with `VRMC_vrm_animation`, turns of the humanoid's joints
 * and travel of the hips only.
 * @see https://github.com/vrm-c/vrm-specification VRMC_vrm_animation 1.0
 * @throws ChiraxisError `no-roles` where the skeleton is no humanoid, or its rest pose does not stand with Y up, facing +Z
 */
export async function writeVrmAnimation(skeleton: Skeleton, take: Take): Promise<Uint8Array<ArrayBuffer>> {
  const read = recogniseRoles(skeleton)
  if (read.kind !== 'biped' || read.missing.length > 0)
    throw new ChiraxisError('no-roles', 'A VRM Animation holds the motion of a humanoid, and this skeleton is none.')
  const frame = bodyFrame(skeleton, read.joints)
  if (Math.abs(frame[3]) < 0.999)
    throw new ChiraxisError('no-roles', 'A VRM Animation stands with Y up, facing +Z; turn the skeleton first.')
  const moved = onlyHipsTravel(skeleton, read.joints.hips, take)
  const plain: Skeleton = { ...skeleton, roles: skeleton.names.map(() => undefined) }
  const bytes = await writeGlb({ name: take.name, skeleton: plain, takes: [moved] })
  const humanBones = Object.fromEntries(
    Object.entries(read.joints)
      .filter(([role]) => bodyPart(role)?.vrm === true)
      .map(([role, j]) => [role, skeleton.names[j]]),
  )
  return withJson(bytes, json => {
    const nodes = (json.nodes ?? []) as { name?: string }[]
    const told = Object.fromEntries(
      Object.entries(humanBones).map(([role, name]) => [role, { node: nodes.findIndex(n => n.name === name) }]),
    )
    return {
      ...json,
      extensionsUsed: ['VRMC_vrm_animation'],
      extensions: { VRMC_vrm_animation: { specVersion: '1.0', humanoid: { humanBones: told } } },
    }
  })
}

/** A take in which joints turn and only the hips travel; what joints above the hips did is told by the hips. */
function onlyHipsTravel(skeleton: Skeleton, hips: number, take: Take): Take {
  const J = skeleton.names.length
  const rest = worldPose(skeleton)
  const above: number[] = []
  for (let p = skeleton.parents[hips]; p >= 0; p = skeleton.parents[p]) above.push(p)
  const rotations = take.rotations.slice(),
    translations = take.translations.slice()
  for (let f = 0; f < take.frames; f++) {
    for (let j = 0; j < J; j++) if (j !== hips) setVec3(translations, f * J + j, vec3At(skeleton.restTranslations, j))
    if (above.length === 0) continue
    const now = worldPose(skeleton, take.translations, take.rotations, f * J)
    for (const j of above) setQuat(rotations, f * J + j, quatAt(skeleton.restRotations, j))
    const back = conjugate(quatAt(rest.rotations, above[0]))
    setQuat(rotations, f * J + hips, multiply(back, quatAt(now.rotations, hips)))
    setVec3(
      translations,
      f * J + hips,
      rotate(back, sub(vec3At(now.positions, hips), vec3At(rest.positions, above[0]))),
    )
  }
  return { ...take, rotations, translations }
}

/** A GLB with its scene description changed. */
function withJson(
  glb: Uint8Array,
  change: (json: Record<string, unknown>) => Record<string, unknown>,
): Uint8Array<ArrayBuffer> {
  const view = new DataView(glb.buffer, glb.byteOffset, glb.byteLength)
  const length = view.getUint32(12, true)
  const json = change(JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + length))) as Record<string, unknown>)
  const text = new TextEncoder().encode(JSON.stringify(json))
  const padded = Math.ceil(text.length / 4) * 4
  const out = new Uint8Array(glb.length - length + padded).fill(0x20, 20 + text.length, 20 + padded)
  out.set(glb.subarray(0, 20))
  out.set(text, 20)
  out.set(glb.subarray(20 + length), 20 + padded)
  const head = new DataView(out.buffer)
  head.setUint32(8, out.length, true)
  head.setUint32(12, padded, true)
  return out
}
