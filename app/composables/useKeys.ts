import { useEventListener } from '@vueuse/core'
import { tinykeys } from 'tinykeys'

/** The program's keys; typing in a field is left alone. */
export function useKeys(): void {
  const view = useView()
  const project = useProject()
  const player = usePlayer()
  const files = useFiles()
  const poses = usePosePlayer()
  const draw = useChainDraw()
  const posing = usePosing()
  const stretch = useStretch()
  const layers = useLayers()
  const handles = useHandles()
  const handlePose = useHandlePose()
  const { removeContact } = useTakeEdit()
  const repairing = (): boolean => view.step === 'skin' && view.skinMode === 'repair'
  const checking = (): boolean => view.step === 'skin' && view.skinMode === 'check'
  /** Where letters and numbers are typed. */
  const TEXT = 'textarea, input:not([type]), input[type="text"], input[type="search"], input[type="number"]'
  const free =
    (run: () => void) =>
    (event: KeyboardEvent): void => {
      const target = event.target as HTMLElement | null
      if (target?.closest('input, textarea, select, [role="dialog"], [role="separator"], [role="tab"]')) return
      // a press that was reached by keyboard is pressed by space itself
      if (event.code === 'Space' && target?.closest('button, [role="switch"], [role="radio"]')) return
      event.preventDefault()
      run()
    }
  /** Keys that mean the same whatever is in focus, but for where text is typed. */
  const anywhere =
    (run: () => void) =>
    (event: KeyboardEvent): void => {
      const target = event.target as HTMLElement | null
      // a number that was nudged, and not typed at, is undone like anything else
      if (target?.closest(`${TEXT}, [role="dialog"]`) && !target.closest('[data-settled]')) return
      event.preventDefault()
      run()
    }
  const always =
    (run: () => void) =>
    (event: KeyboardEvent): void => {
      event.preventDefault()
      run()
    }
  /** What is not part of the figure yet is undone where it is: points of a chain, turns of a pose. */
  function back(): void {
    if (draw.drawing.value) draw.takeBack()
    else if (view.step === 'rest' && posing.undoable.value) posing.stepBack()
    else project.stepBack()
  }
  function forward(): void {
    if (view.step === 'rest' && posing.redoable.value) posing.stepForward()
    else project.stepForward()
  }
  /** Keys that belong to a chain while it is drawn. */
  const drawing =
    (run: () => void) =>
    (event: KeyboardEvent): void => {
      if (draw.drawing.value) free(run)(event)
    }
  // what was pressed by pointer gives the keys back to the work; what was reached by keyboard keeps them
  let byPointer = false
  const HELD = 'input[type="range"], input[type="checkbox"], input[type="radio"], select, button'
  const letGo = (): void => {
    const own = document.activeElement as HTMLElement | null
    if (!byPointer || !own?.matches(HELD) || own.closest('[role="dialog"]') || own.matches('[aria-haspopup]')) return
    own.blur()
  }
  useEventListener(window, 'pointerdown', () => {
    byPointer = true
  })
  useEventListener(window, 'keydown', e => {
    if (e.key === 'Tab' || e.key.startsWith('Arrow')) byPointer = false
  })
  useEventListener(window, 'click', e => {
    // pressed by keyboard it keeps the focus; a list that was just opened is still being chosen from
    if (e.detail === 0) return
    if (!(e.target as Element).closest('select')) setTimeout(letGo)
  })
  useEventListener(window, 'change', () => setTimeout(letGo))

  onMounted(() => {
    const stop = tinykeys(window, {
      Space: free(() => {
        if (view.phase === 'motion') player.toggle()
        else if (checking()) poses.toggle()
      }),
      ArrowLeft: free(() => {
        if (view.phase === 'motion') player.stepFrames(-1)
        else if (checking()) poses.step(-1)
      }),
      ArrowRight: free(() => {
        if (view.phase === 'motion') player.stepFrames(1)
        else if (checking()) poses.step(1)
      }),
      // the brush grows and shrinks as on paper: by a tenth
      Period: free(() => {
        view.brush.radius = Math.min(60, view.brush.radius * 1.1)
      }),
      Comma: free(() => {
        view.brush.radius = Math.max(0.2, view.brush.radius / 1.1)
      }),
      Digit1: free(() => view.makeMain('front')),
      Digit2: free(() => view.makeMain('side')),
      Digit3: free(() => view.makeMain('top')),
      Digit0: free(() => view.makeMain('turn')),
      ...Object.fromEntries(
        ['4', '5', '6', '7', '8', '9'].map(key => [
          `Digit${key}`,
          free(() => {
            if (view.phase === 'handles') handles.chooseByKey(key)
          }),
        ]),
      ),
      j: free(() => {
        if (repairing()) view.pointWith('joint')
      }),
      l: free(() => {
        if (repairing()) view.pointWith('place')
      }),
      BracketLeft: free(() => view.goBy(-1)),
      BracketRight: free(() => view.goBy(1)),
      m: free(() => {
        view.mirror = !view.mirror
      }),
      'Shift+?': free(() => {
        view.keysOpen = true
      }),
      Escape: () => {
        if (draw.drawing.value) draw.cancel()
        else if (view.findingsOpen) view.findingsOpen = false
        else stretch.clear()
      },
      Delete: free(() => {
        if (view.step === 'pose') handlePose.rest('chosen')
        else if (view.step === 'layer') layers.removeKey()
        else removeContact()
      }),
      Enter: drawing(() => draw.finish()),
      Backspace: drawing(() => draw.takeBack()),
      '$mod+z': anywhere(back),
      '$mod+Shift+z': anywhere(forward),
      '$mod+Shift+Z': anywhere(forward),
      '$mod+k': always(() => {
        view.paletteOpen = true
      }),
      '$mod+o': always(() => {
        view.shelfOpen = true
      }),
      '$mod+s': always(() => void files.saveProject()),
    })
    onBeforeUnmount(stop)
  })
}
