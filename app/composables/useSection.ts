import type { Vec3 } from '@chiraxis/core/math'
import { core, RefusedError, tell, unwrap } from '~/workers/client'
import type { SectionAnswer } from '~/workers/core-api'
import { useDerived } from '~/stores/derived'
import { useProject } from '~/stores/project'

const section = shallowRef<SectionAnswer>()
/** Where the section in hand was asked. */
let asked: Vec3 | undefined
let asking = false
let wanted: { point: Vec3; direction: Vec3 } | undefined

/** The true cut of the body at the point in play. Asked faster than answered, only the last question counts. */
export function useSection() {
  const project = useProject()
  const derived = useDerived()

  async function ask(point: Vec3 | undefined, direction: Vec3 = [0, 1, 0]): Promise<void> {
    if (!point || !derived.shape) {
      section.value = wanted = undefined
      return
    }
    wanted = { point: [...point], direction: [...direction] }
    if (asking) return
    asking = true
    try {
      while (wanted) {
        const { point: p, direction: d } = wanted as { point: Vec3; direction: Vec3 }
        wanted = undefined
        const answer = await unwrap(core().section(tell(project.recipe), p, d))
        asked = p
        section.value = answer
      }
    } catch (error) {
      section.value = undefined
      // a cut asked of a body that is no longer there is no news; anything else is
      if (!(error instanceof RefusedError)) throw error
    } finally {
      asking = false
    }
  }

  return { section, ask, askedAt: () => asked }
}
