import { z } from 'zod'
import { findAll } from '@chiraxis/core/findings'
import { proveGlb, writeGlb } from '@chiraxis/core/formats'
import { detectLandmarks, landmarkKind, type Landmark } from '@chiraxis/core/landmarks'
import { ChiraxisError, type Vec3 } from '@chiraxis/core/math'
import { applyStraighten, straighten } from '@chiraxis/core/shape'
import { buildBiped, jointsInWorld } from '@chiraxis/core/skeleton'
import { bind } from '@chiraxis/core/skin'
import { readJson, receive, writeBytes } from '../files'
import { runJob } from '../report'

const landmarkFile = z.union([
  z.array(z.object({ name: z.string(), position: z.tuple([z.number(), z.number(), z.number()]) })),
  z.object({ landmarks: z.array(z.object({ name: z.string(), position: z.tuple([z.number(), z.number(), z.number()]) })) }),
])

export interface RigOptions { out: string; plan: string; fingers: string; landmarks?: string; influences: string; report?: string }

/** `rig BODY --out F.glb`: from a body file to a skinned skeleton. */
export async function rig(body: string, options: RigOptions): Promise<void> {
  await runJob(options.report, async job => {
    if (options.plan !== 'biped') throw new ChiraxisError('bad-settings', `The plan ${options.plan} is not built yet; biped is.`)
    const received = await job.step('read', () => receive(body))
    if (!received.mesh) throw new ChiraxisError('no-triangles', `${body} holds a motion but no body.`)
    const straightened = await job.step('straighten', () => straighten(received.mesh!))
    const mesh = applyStraighten(received.mesh, straightened)
    const given = options.landmarks ? readLandmarks(options.landmarks) : []
    const landmarks = await job.step('landmarks', () => findOrGiven(mesh, given))
    const skeleton = await job.step('skeleton', () => buildBiped(landmarks))
    const skin = await job.step('skin', () => bind(mesh, skeleton, { influences: Number(options.influences) }))
    const content = { name: 'figure', mesh, skeleton, skin }
    const bytes = await job.step('write', () => writeGlb(content))
    const proof = await job.step('prove', () => proveGlb(bytes, content))
    writeBytes(options.out, bytes)
    job.findings.push(...findAll({ mesh, straightened, landmarks, skeleton, skin, dropped: received.dropped }))
    if (Number(options.fingers) > 0) {
      job.findings.push({ rule: 'not-kept', severity: 'note', value: Number(options.fingers), unit: 'fingers', where: 'hands', message: 'Finger joints are not built yet; the hands move as a whole.', mendable: false })
    }
    return {
      landmarks: landmarks.map(l => ({ name: l.id, role: landmarkKind(l.id)?.role ?? null, position: l.position, confidence: l.confidence })),
      joints: jointsInWorld(skeleton).map(j => ({ name: j.name, role: j.role ?? null, parent: j.parent >= 0 ? skeleton.names[j.parent] : null, position: j.position })),
      height: straightened.height, straighten: straightened, proof,
    }
  })
}

async function findOrGiven(mesh: Parameters<typeof detectLandmarks>[0], given: readonly Landmark[]): Promise<Landmark[]> {
  let found: Landmark[]
  try {
    found = await detectLandmarks(mesh)
  } catch (error) {
    // a body the search refuses can still be rigged when every landmark is given
    if (error instanceof ChiraxisError && error.code === 'not-a-biped' && given.length >= 20) return [...given]
    throw error
  }
  return found.map(l => given.find(g => g.id === l.id) ?? l)
}

function readLandmarks(path: string): Landmark[] {
  const parsed = landmarkFile.safeParse(readJson(path, 'landmark file'))
  if (!parsed.success) throw new ChiraxisError('bad-syntax', 'The landmark file must be a list of { name, position: [x, y, z] } in metres.')
  const list = Array.isArray(parsed.data) ? parsed.data : parsed.data.landmarks
  for (const l of list) if (!landmarkKind(l.name)) throw new ChiraxisError('bad-input', `The landmark file names ${l.name}, which is no landmark of the biped plan.`)
  return list.map(l => ({ id: l.name, position: l.position as Vec3, confidence: 1 }))
}
