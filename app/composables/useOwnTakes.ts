import type { TakeRef } from '@chiraxis/core/recipe'
import { core, RefusedError, tell, unwrap } from '~/workers/client'

/** Takes made here: from one with its layers, or from nothing. */
export function useOwnTakes() {
  const derived = useDerived()
  const project = useProject()
  const view = useView()

  async function make(name: (t: TakeRef) => string, run: () => Promise<TakeRef>): Promise<void> {
    const before = toRaw(project.recipe)
    try {
      const made = await run()
      // what was changed meanwhile is not written over
      if (toRaw(project.recipe) !== before) {
        project.notice = { text: 'The figure was changed meanwhile, so no take was made. Press again.' }
        return
      }
      project.change(name(made), { ...before, takes: [...before.takes, { ...made, ...(!made.kind && kindOf()) }] })
      void derived.showTake(made.id)
    } catch (error) {
      if (!(error instanceof RefusedError)) throw error
      if (!error.stopped) project.notice = { text: error.message }
    }
  }
  const kindOf = (): Pick<TakeRef, 'kind'> => (derived.plan === 'drawn' ? {} : { kind: derived.kind })
  /** The take in play as it is shown, beside the one it came from. */
  const bake = (): Promise<void> =>
    make(
      t => `Bake ${t.name}`,
      () => derived.bake(derived.performed!.id),
    )
  /** A take that stands still, for layers to move. */
  const fromRest = async (): Promise<void> => {
    await make(
      () => 'Begin a take from rest',
      () => unwrap(core().still(tell(project.recipe))),
    )
    view.go('layer')
  }
  return { bake, fromRest }
}
