import { ownPoseSchema } from '@chiraxis/core/strain'
import { z } from 'zod'

/** Poses as a file of their own: JSON, told in the axes of the body by the roles of its joints, so that they fit other figures. */
const poseFileSchema = z.object({
  format: z.literal('chiraxis-poses'),
  version: z.literal(1),
  poses: z.array(ownPoseSchema.omit({ id: true })).max(500),
})

export function usePoseFiles() {
  const project = useProject()
  const posing = useHandlePose()
  const { refusal } = useFiles()
  function save(): void {
    const poses = posing.library.value.map(({ id: _, ...p }) => p)
    const text = JSON.stringify({ format: 'chiraxis-poses', version: 1, poses }, undefined, 1)
    saveAs(`${project.recipe.name} poses.json`, new TextEncoder().encode(text), 'application/json')
  }
  async function open(event: Event): Promise<void> {
    const input = event.target as HTMLInputElement
    const file = input.files?.[0]
    input.value = ''
    if (!file) return
    const told = poseFileSchema.safeParse(
      await file
        .text()
        .then(JSON.parse)
        .catch(() => undefined),
    )
    if (!told.success) {
      refusal.value = { text: `${file.name} holds no poses that can be read.`, unchanged: true }
      return
    }
    posing.addPoses(`Add the poses of ${file.name}`, told.data.poses)
  }
  return { save, open }
}
