import { ChiraxisError, type WorkOptions } from '../math'
import type { Mesh } from '../mesh'
import { straighten, type Straightened, type StraightenHints } from '../shape'
import { detectFigure } from './detect'

/**
 * Brings a received body upright as its surface tells it; where that leaves a doubt which way it looks, the figure is
 * looked for both ways, and the way it fits better counts with the rest.
 */
export const standUp = (mesh: Mesh, hints: StraightenHints = {}, work: WorkOptions = {}): Promise<Straightened> =>
  straighten(mesh, hints, { ...work, misfit: figureMisfit })

async function figureMisfit(
  upright: Pick<Mesh, 'positions' | 'indices'>,
  work: WorkOptions,
): Promise<number | undefined> {
  try {
    return (await detectFigure(upright, work)).cost
  } catch (error) {
    if (error instanceof ChiraxisError && error.code === 'not-a-biped') return undefined
    throw error
  }
}
