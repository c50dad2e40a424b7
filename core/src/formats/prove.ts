// eslint-disable-next-line @typescript-eslint/triple-slash-reference -- the validator ships no types, and every project that includes this file must see ours
/// <reference path="../gltf-validator.d.ts" />
import { angleOf, ChiraxisError, quatAt } from '../math'
import { boundsOf } from '../mesh'
import { bindPose, worldPose } from '../skeleton'
import { readGltf } from './gltf-read'
import type { GltfContent } from './gltf-write'

/** What reading a written file back showed. */
export interface Proof {
  readonly validatorErrors: number
  readonly validatorWarnings: number
  readonly messages: readonly string[]
  /** Largest distance between written and read vertices, metres, and as a share of the body's size. */
  readonly maxPositionError: number
  readonly maxPositionErrorShare: number
  /** Largest angle between written and read joints, at rest and in every frame, degrees. */
  readonly maxRotationErrorDegrees: number
  readonly bytes: number
}

interface ValidatorReport {
  issues: { numErrors: number; numWarnings: number; messages: { code: string; message: string; severity: number }[] }
}

/**
 * Reads a written GLB back, runs the format's validator over it, and compares it with what was meant.
 * @throws ChiraxisError `unproven` where the file does not hold what it should
 */
export async function proveGlb(bytes: Uint8Array, content: GltfContent): Promise<Proof> {
  const validator = (await import('gltf-validator')) as unknown as {
    validateBytes?: Validate
    default?: { validateBytes: Validate }
  }
  const validate = validator.validateBytes ?? validator.default!.validateBytes
  const report = await validate(bytes, { maxIssues: 50 })
  const errors = report.issues.messages.filter(m => m.severity === 0)
  if (report.issues.numErrors > 0)
    throw new ChiraxisError(
      'unproven',
      `The written file does not keep to its format (${report.issues.numErrors} ${report.issues.numErrors === 1 ? 'error' : 'errors'}: ${errors[0]?.message.slice(0, 200) ?? 'not told'}), so it was not handed over.`,
      { messages: errors.map(m => `${m.code}: ${m.message}`) },
    )
  const read = await readGltf(bytes)
  let position = 0
  let size = 1
  if (content.mesh) {
    const a = content.mesh.positions
    const b = read.mesh?.positions
    if (!b || b.length !== a.length || read.mesh!.indices.length !== content.mesh.indices.length)
      throw new ChiraxisError('unproven', 'The written file lost vertices or triangles of the body.')
    for (let i = 0; i < a.length; i++) position = Math.max(position, Math.abs(a[i] - b[i]))
    const { min, max } = boundsOf(a)
    size = Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2]) || 1
  }
  let rotation = 0
  if (content.skeleton) {
    if (!read.skeleton || read.skeleton.names.length !== content.skeleton.names.length)
      throw new ChiraxisError('unproven', 'The written file lost joints of the skeleton.')
    const order = content.skeleton.names.map(n => read.skeleton!.names.indexOf(n))
    const a = worldPose(content.skeleton)
    const b = worldPose(read.skeleton)
    const n = order.length
    for (let j = 0; j < n; j++) {
      rotation = Math.max(rotation, angleOf(quatAt(a.rotations, j), quatAt(b.rotations, order[j])))
      for (let k = 0; k < 3; k++)
        position = Math.max(position, Math.abs(a.positions[3 * j + k] - b.positions[3 * order[j] + k]))
    }
    if (content.skin) {
      const c = bindPose(content.skeleton),
        d = bindPose(read.skeleton)
      for (let j = 0; j < n; j++)
        rotation = Math.max(rotation, angleOf(quatAt(c.rotations, j), quatAt(d.rotations, order[j])))
    }
    for (const take of content.takes ?? []) {
      const other = read.takes.find(t => t.name === take.name)
      if (!other || other.frames !== take.frames)
        throw new ChiraxisError('unproven', `The written file lost frames of the take ${take.name}.`)
      for (let f = 0; f < take.frames; f++)
        for (let j = 0; j < n; j++) {
          rotation = Math.max(
            rotation,
            angleOf(quatAt(take.rotations, f * n + j), quatAt(other.rotations, f * n + order[j])),
          )
        }
    }
  }
  return {
    validatorErrors: report.issues.numErrors,
    validatorWarnings: report.issues.numWarnings,
    messages: report.issues.messages.filter(m => m.severity <= 1).map(m => `${m.code}: ${m.message}`),
    maxPositionError: position,
    maxPositionErrorShare: position / size,
    maxRotationErrorDegrees: (rotation * 180) / Math.PI,
    bytes: bytes.length,
  }
}

type Validate = (bytes: Uint8Array, options: { maxIssues: number }) => Promise<ValidatorReport>
