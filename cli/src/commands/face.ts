import { z } from 'zod'
import { FACE_LANDMARKS, missingExpressions, type FaceLandmarkId } from '@chiraxis/core/face'
import { deliver, formatFor } from '@chiraxis/core/formats'
import { ChiraxisError, scale, type Vec3 } from '@chiraxis/core/math'
import { keepsReceived } from '@chiraxis/core/recipe'
import { bodyContentOf, contentOf } from '@chiraxis/core/steps'
import { readJson, writeBytes } from '../files'
import { runJob } from '../report'
import { openPath } from '../session'

const placesFile = z.array(
  z.object({ name: z.enum(FACE_LANDMARKS), position: z.tuple([z.number(), z.number(), z.number()]) }),
)

/** `face BODY --out F.glb`: the places of a face, and the expressions nothing makes yet. */
export async function faceCommand(
  body: string,
  options: { out: string; places?: string; report?: string },
): Promise<void> {
  await runJob({ report: options.report, out: options.out, reads: [body, options.places] }, async job => {
    formatFor(options.out)
    const { recipe: fresh, derivation } = await openPath(body)
    const shape = await job.step('read', () => derivation.get('shape', fresh))
    const { height } = shape.straightened
    const places = options.places ? readPlaces(options.places, height) : undefined
    const recipe = { ...fresh, face: { make: true, ...(places && { places }) } }
    const face = await job.step('face', () => derivation.get('face', recipe))
    if (!face) throw new ChiraxisError('bad-input', 'No face is to be seen on this body.')
    const { binds, shapes, told } = await job.step('expressions', () => derivation.get('expressions', recipe))
    const content = keepsReceived(recipe, shape.received)
      ? await contentOf(derivation, recipe, [])
      : await bodyContentOf(derivation, recipe)
    const { bytes, proof } = await job.step('write', () => deliver(content, formatFor(options.out)))
    writeBytes(options.out, bytes)
    return {
      faceLandmarks: face.landmarks.map(l => ({ name: l.id, position: l.position, confidence: l.confidence })),
      headHeight: face.height,
      eyes: face.eyes,
      expressions: binds,
      made: shapes.map(s => s.name),
      missing: missingExpressions(binds),
      told,
      height,
      straighten: shape.straightened,
      proof,
    }
  })
}

function readPlaces(path: string, height: number): Partial<Record<FaceLandmarkId, Vec3>> {
  const parsed = placesFile.safeParse(readJson(path, 'file of places'))
  if (!parsed.success)
    throw new ChiraxisError(
      'bad-syntax',
      'Places of a face are told as a list of { name, position: [x, y, z] } in metres.',
    )
  return Object.fromEntries(parsed.data.map(p => [p.name, scale(p.position, 1 / height)]))
}
