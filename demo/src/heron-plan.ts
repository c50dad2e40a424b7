import type { Vec3 } from '@chiraxis/core/math'
import { PLAN_DEFAULTS, type OwnPlan } from '@chiraxis/core/recipe'
import { applyRigEdits, chainRecord, rigOf, type RigEdit } from '@chiraxis/core/rig'
import { buildPlan, findJoint } from '@chiraxis/core/skeleton'
import { HERON_LINES, heronLines, type HeronLine, type HeronProportions } from './figures'

/** What each line of a heron hangs on, and how many joints are drawn along it; none for one at every point. */
const DRAWN: Readonly<Record<HeronLine, { readonly on: string; readonly joints?: number }>> = {
  back: { on: 'root', joints: 3 },
  neck: { on: 'back 3', joints: 6 },
  beak: { on: 'neck 6', joints: 1 },
  tail: { on: 'back 1', joints: 2 },
  'left wing': { on: 'back 3', joints: 5 },
  'left leg': { on: 'back 1' },
}

/** The plan of a heron as somebody draws it: chain by chain, each on the skeleton there is. @param height metres */
export async function heronPlanFile(p: HeronProportions, height: number): Promise<OwnPlan> {
  const lines = heronLines(p)
  const edits: RigEdit[] = []
  for (const name of HERON_LINES) {
    const { rig } = await applyRigEdits(rigOf(buildPlan('drawn', [])), edits, height)
    const { on, joints } = DRAWN[name]
    const places = lines[name] as Vec3[]
    edits.push(
      chainRecord(rig.skeleton, findJoint(rig.skeleton, on), places, height, {
        name,
        mirror: name.startsWith('left'),
        ...(joints !== undefined && { joints }),
      }),
    )
  }
  return { chiraxisPlan: 1, name: 'Heron', plan: { ...PLAN_DEFAULTS, kind: 'drawn' }, edits }
}
