import { useView } from '~/stores/view'

/** Seconds into a pose, held, and back. */
const INTO = 0.7,
  HELD = 0.5

let handle = 0

/** The check poses this figure can strike, and their playing one after another. */
export function usePosePlayer() {
  const view = useView()
  const poses = useCheckPoses()
  const current = computed(() => poses.value.find(p => p.id === view.pose))

  function show(id: string | undefined): void {
    stop()
    view.pose = id
    view.poseShare = 1
  }

  function play(): void {
    if (view.playingPoses || poses.value.length === 0) return
    view.playingPoses = true
    let at = Math.max(
      0,
      poses.value.findIndex(p => p.id === view.pose),
    )
    let since = performance.now()
    const tick = (now: number): void => {
      if (!view.playingPoses) return
      const pose = poses.value[at]
      if (!pose) return stop()
      const t = (now - since) / 1000
      const walking = pose.group === 'walk'
      const into = walking ? 0.14 : INTO
      const held = walking ? 0 : HELD
      if (t > (walking ? into : 2 * into + held)) {
        at = (at + 1) % poses.value.length
        since = now
      } else {
        view.pose = pose.id
        const x = walking ? 1 : t < into ? t / into : t < into + held ? 1 : 1 - (t - into - held) / into
        view.poseShare = x * x * (3 - 2 * x)
      }
      handle = requestAnimationFrame(tick)
    }
    handle = requestAnimationFrame(tick)
  }
  function stop(): void {
    view.playingPoses = false
    cancelAnimationFrame(handle)
    view.poseShare = 1
  }
  const toggle = (): void => (view.playingPoses ? stop() : play())
  function step(way: 1 | -1): void {
    const list = poses.value
    if (list.length === 0) return
    const i = list.findIndex(p => p.id === view.pose)
    show(list[(i + way + list.length) % list.length]!.id)
  }
  return { poses, current, show, play, stop, toggle, step }
}
