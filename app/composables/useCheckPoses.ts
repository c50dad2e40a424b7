import { posesOf, type CheckPose } from '@chiraxis/core/strain'
import { useDerived } from '~/stores/derived'
import { useProject } from '~/stores/project'

/** Every pose the figure is checked in: those of bodies, those of its chains, and those kept by hand. */
export function useCheckPoses(): ComputedRef<readonly CheckPose[]> {
  const derived = useDerived()
  const project = useProject()
  return computed(() => (derived.skeleton ? posesOf(derived.skeleton, project.recipe.checkPoses) : []))
}
