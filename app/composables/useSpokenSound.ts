/** Plays the voice of the take along with the picture. */
export function useSpokenSound(): void {
  const player = usePlayer()
  const derived = useDerived()
  const voice = useVoice()
  const { take } = useTakeEdit()
  let context: AudioContext | undefined
  let source: AudioBufferSourceNode | undefined
  /** When the sound would have begun, by the sound's own clock, and how fast it goes. */
  let began = 0
  let pace = 1

  function stop(): void {
    try {
      source?.stop()
    } catch {
      // it had ended by itself
    }
    source = undefined
  }
  /** Seconds of the sound at the moment that is shown. */
  const wanted = (): number => player.toRecording(player.time) - (voice.voice.value?.at ?? 0)
  async function start(): Promise<void> {
    stop()
    if (!voice.voice.value || derived.performed?.id !== take.value?.id) return
    try {
      context ??= new AudioContext()
      if (context.state === 'suspended') await context.resume()
      const sound = await voice.soundIn(context)
      if (!sound || !player.playing || !context) return
      const at = wanted()
      if (at >= sound.duration) return
      source = context.createBufferSource()
      source.buffer = sound
      pace = player.rate * (take.value?.adjust?.pace ?? 1)
      source.playbackRate.value = pace
      source.connect(context.destination)
      // what begins later waits for its moment
      const wait = Math.max(0, -at / pace)
      source.start(context.currentTime + wait, Math.max(0, at))
      began = context.currentTime - at / pace
    } catch {
      // where nothing can be heard, the figure speaks silently
    }
  }
  watch(
    [() => player.playing, () => player.rate, () => derived.performed?.id, () => voice.voice.value?.sound.hash],
    ([playing]) => (playing ? void start() : stop()),
  )
  // a picture that falls behind or jumps takes the sound along
  watch(
    () => player.time,
    () => {
      if (!player.playing || !source || !context) return
      if (Math.abs((context.currentTime - began) * pace - wanted()) > 0.12) void start()
    },
  )
  onBeforeUnmount(stop)
}
