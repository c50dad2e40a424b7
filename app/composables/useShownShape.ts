import { correctedFor, driveOf } from '@chiraxis/core/corrective'
import { atBind, worldPose } from '@chiraxis/core/skeleton'
import { deform, deformKeepingVolume } from '@chiraxis/core/skin'
import type { ComputedRef, ShallowRef } from 'vue'
import type { Stage } from '~/stage/stage'
import { useDerived } from '~/stores/derived'
import { useView } from '~/stores/view'

interface Struck {
  readonly translations: Float32Array
  readonly rotations: Float32Array
}

/**
 * The body on the stage beyond what its joints do to it: its correctives, and where it is bent on the CPU: keeping its volume, or
 * while a corrective is painted.
 */
export function useShownShape(stage: ShallowRef<Stage | undefined>, posed: ComputedRef<Struck | undefined>) {
  const view = useView()
  const derived = useDerived()
  const sculpt = useSculpt()
  const light = useLight()

  /** Gives the stage the shapes that go with the skin it draws. */
  function bringShapes(): void {
    const { skeleton, skin } = derived
    const shapes = skin ? derived.correctives.shapes : []
    if (skeleton)
      stage.value?.setShapes(
        shapes.map(s => light.onShown(s.offsets)),
        driveOf(skeleton, shapes),
      )
  }
  watch([() => stage.value, () => derived.correctives], bringShapes)
  watch([() => stage.value, () => view.plainSkin, () => view.skinMode, () => view.step], () =>
    stage.value?.showShapes(!(view.plainSkin && view.step === 'skin' && view.skinMode === 'correct')),
  )
  // what was painted gives way to what was worked out from it
  watch([() => derived.correctives, () => view.corrective, () => view.skinMode, () => view.step], () => sculpt.settle())
  watch(
    [
      () => stage.value,
      posed,
      () => view.blending,
      () => view.skinMode,
      () => derived.skin,
      () => sculpt.painted.value,
      () => view.step,
    ],
    () => {
      const s = derived.skeleton,
        skin = derived.skin,
        mesh = derived.shape?.mesh
      const checking = view.step === 'skin' && view.skinMode === 'check' && view.blending === 'volume'
      const pose = checking ? posed.value : undefined
      stage.value?.setBent(
        sculpt.painted.value ??
          (pose && s && skin && mesh
            ? deformKeepingVolume(mesh.positions, s, skin, worldPose(atBind(s), pose.translations, pose.rotations))
            : undefined),
      )
    },
  )

  /** The body as it is shown, 3·V. */
  function shapeNow(): Float32Array | undefined {
    const s = derived.skeleton,
      skin = derived.skin,
      mesh = derived.shape?.mesh
    if (!mesh) return undefined
    if (sculpt.painted.value?.length === mesh.positions.length) return sculpt.painted.value
    if (!posed.value || !s || !skin) return mesh.positions
    const { translations, rotations } = posed.value
    const shapes = view.plainSkin && view.skinMode === 'correct' ? [] : derived.correctives.shapes
    const fit = shapes.every(h => h.offsets.length === mesh.positions.length) ? shapes : []
    const corrected = correctedFor(mesh.positions, s, fit, rotations)
    return deform(corrected, s, skin, worldPose(atBind(s), translations, rotations))
  }
  return { shapeNow, bringShapes }
}
