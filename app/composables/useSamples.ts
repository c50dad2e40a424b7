/** The figures that come with the program, and what each is for. */
const SAMPLES = [
  { id: 'oda-marl', name: 'Oda Marl', what: 'A pilot in a coat, arms a little away from the body' },
  { id: 'pim', name: 'Pim', what: 'A deckhand with a big head and mittens, arms straight out' },
  { id: 'tolly', name: 'Tolly', what: 'An automaton of rigid shells' },
  { id: 'brindle', name: 'Brindle', what: 'A hound on four legs' },
  { id: 'reed', name: 'Reed', what: 'A heron with a skeleton drawn for it' },
  { id: 'oda-scanned', name: 'Oda, scanned', what: 'A rough scan, turned off its axes' },
  { id: 'pim-received', name: 'Pim, received', what: 'A rigged figure with faults to be found' },
] as const

export const useSamples = () => ({ samples: SAMPLES })
