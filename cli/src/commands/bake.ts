import { basename } from 'node:path'
import { z } from 'zod'
import { formatFor, deliver, type Delivered } from '@chiraxis/core/formats'
import { layerSchema, MOST_LAYERS, type Layer } from '@chiraxis/core/layers'
import { ChiraxisError } from '@chiraxis/core/math'
import { takeSeconds } from '@chiraxis/core/motion'
import { writeProject, type Recipe } from '@chiraxis/core/recipe'
import { bakeTake, chosenContent, takeNamed } from '@chiraxis/core/steps'
import { readJson, writeBytes } from '../files'
import { runJob } from '../report'
import { openPath } from '../session'

export interface BakeOptions {
  take: string
  layers?: string
  out?: string
  save?: string
  report?: string
}

/**
 * `bake PROJECT --take T [--layers FILE] [--out F.glb|.bvh|.vrma] [--save P.chiraxis]`: a take of a project with its layers, its
 * corrections and its props, as a file, or as a take of its own in a saved project beside the one it came from.
 */
export async function bakeCommand(path: string, options: BakeOptions): Promise<void> {
  const { report, out, save, layers: more } = options
  await runJob({ report, out, also: { project: save }, reads: [path, more] }, async job => {
    if (!out && !save)
      throw new ChiraxisError('bad-settings', 'Tell a file to write (--out) or a project to save (--save).')
    const format = out ? formatFor(out, ['glb', 'bvh', 'vrma']) : 'glb'
    const opened = await job.step('open', () => openPath(path))
    const { derivation } = opened
    const id = takeNamed(opened.recipe, options.take)
    const laid = more ? readLayers(more) : []
    const recipe: Recipe = {
      ...opened.recipe,
      takes: opened.recipe.takes.map(t => (t.id === id ? { ...t, layers: [...(t.layers ?? []), ...laid] } : t)),
    }
    const performed = await job.step('take', () => derivation.get('take', recipe, { of: id }))
    let delivered: Delivered | undefined
    if (out) {
      const { content } = await job.step('content', () => chosenContent(derivation, recipe, [id]))
      // formats of motion alone hold this take and no other
      const takes = format === 'glb' ? content.takes : content.takes?.slice(-1)
      delivered = await job.step('write', () => deliver({ ...content, takes }, format))
      writeBytes(out, delivered.bytes)
    }
    let baked: string | undefined
    if (save) {
      const ref = await job.step('bake', () => bakeTake(derivation, recipe, id, opened.put))
      baked = ref.name
      const archive = await job.step('save', () =>
        writeProject({ ...opened.recipe, takes: [...opened.recipe.takes, ref] }, async file => opened.bytesOf(file)),
      )
      writeBytes(save, archive)
    }
    job.findings.push(...(await job.step('findings', () => derivation.get('findings', recipe, { of: [id] }))))
    const { courses = [] } = performed
    return {
      name: recipe.name,
      take: {
        name: recipe.takes.find(t => t.id === id)?.name ?? performed.take.name,
        frames: performed.take.frames,
        fps: performed.take.fps,
        seconds: takeSeconds(performed.take),
      },
      layers: (recipe.takes.find(t => t.id === id)?.layers ?? []).map(l => ({ name: l.name, keys: l.keys.length })),
      lost: performed.lostChannels ?? [],
      props: courses.map(c => ({
        name: recipe.props?.find(p => p.id === c.prop)?.name ?? c.prop,
        farthestOff: c.off.reduce((a, b) => Math.max(a, b), 0),
      })),
      measures: performed.measures,
      ...(baked && { baked }),
      ...(delivered && { proof: delivered.proof }),
    }
  })
}

/** @throws ChiraxisError `bad-settings` telling what does not fit */
function readLayers(path: string): Layer[] {
  const told = readJson(path, 'file of layers')
  const list = z.array(layerSchema).max(MOST_LAYERS)
  const parsed = z.union([list, z.object({ layers: list }).transform(o => o.layers)]).safeParse(told)
  if (!parsed.success)
    throw new ChiraxisError('bad-settings', `${basename(path)} does not hold layers as a project keeps them.`, {
      issues: parsed.error.issues.slice(0, 5),
    })
  return parsed.data
}
