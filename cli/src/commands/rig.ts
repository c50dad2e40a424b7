import { basename } from 'node:path'
import { z } from 'zod'
import { deliver, formatFor } from '@chiraxis/core/formats'
import { landmarkKind, landmarksOf } from '@chiraxis/core/landmarks'
import { ChiraxisError, scale, type Vec3 } from '@chiraxis/core/math'
import { parseOwnPlan, withPlan, type Recipe } from '@chiraxis/core/recipe'
import { contentOf, toldJoints } from '@chiraxis/core/steps'
import { besideOf, readBody, readJson, writeBytes } from '../files'
import { runJob } from '../report'
import { openPath } from '../session'
import { regionScores } from '../strain-report'

const point = z.object({ name: z.string(), position: z.tuple([z.number(), z.number(), z.number()]) })
const landmarkFile = z.union([z.array(point), z.object({ landmarks: z.array(point) })])

export interface RigOptions {
  out: string
  plan: string
  fingers: string
  twistJoints?: string
  /** Older name of `twistJoints`. */
  flex?: string
  landmarks?: string
  skeleton?: string
  influences: string
  strain?: boolean
  report?: string
}

/** `rig BODY --out F.glb`: from a body file to a skinned skeleton. */
export async function rig(body: string, options: RigOptions): Promise<void> {
  await runJob(
    {
      report: options.report,
      out: options.out,
      reads: [body, options.landmarks, options.skeleton, /\.json$/i.test(options.plan) ? options.plan : undefined],
    },
    async job => {
      formatFor(options.out)
      const opened = await openPath(body)
      const { recipe: fresh, derivation } = opened
      const fingers = options.fingers === 'auto' ? ('auto' as const) : Number(options.fingers)
      const own = /\.json$/i.test(options.plan) ? parseOwnPlan(readJson(options.plan, 'plan')) : undefined
      let recipe: Recipe = {
        ...fresh,
        skin: { ...fresh.skin, source: 'auto', influences: Number(options.influences) },
        bones: {
          ...fresh.bones,
          source: 'plan',
          plan: {
            ...fresh.bones.plan,
            kind: options.plan === 'fourleg' || options.plan === 'biped' ? options.plan : 'auto',
            flex: Number(options.twistJoints ?? options.flex ?? 0),
            fingers: { left: fingers, right: fingers },
          },
        },
      }
      if (own) recipe = withPlan(recipe, own)
      if (options.skeleton) {
        const path = options.skeleton
        const beside = [...besideOf(path)].map(([name, bytes]) => opened.put(name, bytes))
        const given = { file: opened.put(basename(path), readBody(path)), beside }
        recipe = { ...recipe, bones: { ...recipe.bones, source: 'given', given } }
        const came = await job.step('readSkeleton', () => derivation.get('given', recipe))
        // a skeleton tells on how many legs it stands
        if (came && options.plan === 'auto')
          recipe = { ...recipe, bones: { ...recipe.bones, plan: { ...recipe.bones.plan, kind: came.reading.kind } } }
      }
      await job.step('read', () =>
        derivation.get('read', recipe, { of: { file: recipe.body!, beside: recipe.beside } }),
      )
      const shape = await job.step('straighten', () => derivation.get('shape', recipe))
      const { height } = shape.straightened
      if (options.landmarks) {
        const given = readLandmarks(options.landmarks)
        const edits = Object.fromEntries(given.map(l => [l.name, scale(l.position as Vec3, 1 / height)]))
        // a body the search refuses can still be rigged when every landmark is given
        const kinds = landmarksOf(recipe.bones.plan.kind === 'fourleg' ? 'fourleg' : 'biped').filter(
          k => !k.group.endsWith('hand'),
        )
        recipe = { ...recipe, landmarks: { edits, ...(kinds.every(k => edits[k.id]) && { byHand: true }) } }
      }
      const { plan, placed, hands } = await job.step('landmarks', () => derivation.get('landmarks', recipe))
      const { skeleton } = await job.step('skeleton', () => derivation.get('rig', recipe))
      await job.step('skin', () => derivation.get('skin', recipe))
      const content = await contentOf(derivation, recipe, [])
      const { bytes, proof } = await job.step('write', () => deliver(content, formatFor(options.out)))
      writeBytes(options.out, bytes)
      job.findings.push(...(await job.step('findings', () => derivation.get('findings', recipe, { of: [] }))))
      return {
        plan,
        fingers: hands.seen,
        landmarks: placed.map(l => ({
          name: l.id,
          role: landmarkKind(l.id)?.role ?? null,
          position: l.position,
          confidence: l.confidence,
        })),
        joints: toldJoints(skeleton),
        height,
        straighten: shape.straightened,
        proof,
        ...(options.strain && (await job.step('strain', () => regionScores(derivation, recipe)))),
      }
    },
  )
}

function readLandmarks(path: string): z.infer<typeof point>[] {
  const parsed = landmarkFile.safeParse(readJson(path, 'landmark file'))
  if (!parsed.success)
    throw new ChiraxisError(
      'bad-syntax',
      'The landmark file must be a list of { name, position: [x, y, z] } in metres.',
    )
  const list = Array.isArray(parsed.data) ? parsed.data : parsed.data.landmarks
  for (const l of list)
    if (!landmarkKind(l.name))
      throw new ChiraxisError('bad-input', `The landmark file names ${l.name}, which is no landmark of any plan.`)
  return list
}
