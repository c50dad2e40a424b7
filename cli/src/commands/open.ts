import { basename } from 'node:path'
import { formatFor, deliver } from '@chiraxis/core/formats'
import { withSettings, writeProject, type Recipe } from '@chiraxis/core/recipe'
import { chosenContent } from '@chiraxis/core/steps'
import { besideOf, readBody, readJson, writeBytes } from '../files'
import { runJob } from '../report'
import { openPath } from '../session'

export interface OpenOptions {
  set?: string
  body?: string
  takes: string
  out?: string
  save?: string
  report?: string
}

/**
 * `open PROJECT [--set FILE] [--body FILE] [--out F.glb] [--save P.chiraxis]`: a saved project, or a body as a new one: settings laid
 * over it, made again on another body, delivered, saved.
 */
export async function openCommand(path: string, options: OpenOptions): Promise<void> {
  const { report, out, save, set, body } = options
  await runJob({ report, out, also: { project: save }, reads: [path, set, body] }, async job => {
    if (out) formatFor(out)
    const opened = await job.step('open', () => openPath(path))
    let recipe: Recipe = opened.recipe
    if (body) {
      const beside = [...besideOf(body)].map(([name, bytes]) => opened.put(name, bytes))
      recipe = { ...recipe, body: opened.put(basename(body), readBody(body)), beside }
    }
    if (set) recipe = withSettings(recipe, readJson(set, 'settings file'))
    const { derivation } = opened
    const shape = await job.step('straighten', () => derivation.get('shape', recipe))
    const { skeleton, source } = await job.step('skeleton', () => derivation.get('rig', recipe))
    const takes = options.takes === 'all' ? ('all' as const) : options.takes === 'none' ? [] : options.takes.split(',')
    let proof: object | undefined
    let chosen: string[] = []
    if (out) {
      const made = await job.step('content', () => chosenContent(derivation, recipe, takes))
      chosen = made.chosen
      const delivered = await job.step('write', () => deliver(made.content))
      proof = delivered.proof
      writeBytes(out, delivered.bytes)
    }
    if (save) {
      const archive = await job.step('save', () => writeProject(recipe, async file => opened.bytesOf(file)))
      writeBytes(save, archive)
    }
    job.findings.push(...(await job.step('findings', () => derivation.get('findings', recipe, { of: [] }))))
    return {
      name: recipe.name,
      body: recipe.body?.name ?? null,
      height: shape.straightened.height,
      straighten: shape.straightened,
      joints: skeleton.names.length,
      source,
      takes: recipe.takes.map(t => ({ name: t.name, performer: t.performer })),
      delivered: chosen,
      edits: {
        landmarks: Object.keys(recipe.landmarks.edits).length,
        joints: recipe.bones.edits.length,
        skin: recipe.skin.edits.length,
      },
      ...(proof && { proof }),
    }
  })
}
