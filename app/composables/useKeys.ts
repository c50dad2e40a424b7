import { tinykeys } from 'tinykeys'

/** The program's keys; typing in a field is left alone. */
export function useKeys(): void {
  const view = useView()
  const project = useProject()
  const player = usePlayer()
  const files = useFiles()
  const poses = usePosePlayer()
  const checking = (): boolean => view.step === 'skin' && view.skinMode === 'check'
  const free =
    (run: () => void) =>
    (event: KeyboardEvent): void => {
      const target = event.target as HTMLElement | null
      if (target?.closest('input, textarea, select, [role="dialog"]')) return
      // a focused press is pressed by space itself
      if (event.code === 'Space' && target?.closest('button, [role="switch"], [role="radio"]')) return
      event.preventDefault()
      run()
    }
  const always =
    (run: () => void) =>
    (event: KeyboardEvent): void => {
      event.preventDefault()
      run()
    }
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
      BracketLeft: free(() => view.goBy(-1)),
      BracketRight: free(() => view.goBy(1)),
      m: free(() => {
        view.mirror = !view.mirror
      }),
      'Shift+?': free(() => {
        view.keysOpen = true
      }),
      Escape: () => {
        view.findingsOpen = false
      },
      '$mod+z': free(() => project.stepBack()),
      '$mod+Shift+z': free(() => project.stepForward()),
      '$mod+Shift+Z': free(() => project.stepForward()),
      '$mod+k': always(() => {
        view.paletteOpen = true
      }),
      '$mod+s': always(() => void files.saveProject()),
    })
    onBeforeUnmount(stop)
  })
}
