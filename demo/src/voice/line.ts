import { writeWav, type Said } from '@chiraxis/core/voice'
import { speak, SPEAKER, type Phone } from './speak'

/** What Oda calls over the quay. */
const CALL: readonly Phone[] = [
  { what: 'pause', seconds: 0.25 },
  { what: 'aa', seconds: 0.16 },
  { what: 'oh', seconds: 0.34 },
  { what: 'pause', seconds: 0.3 },
  { what: 'p', seconds: 0.07 },
  { what: 'oh', seconds: 0.2 },
  { what: 's', seconds: 0.1 },
  { what: 'ih', seconds: 0.14 },
  { what: 'm', seconds: 0.09 },
  { what: 'ou', seconds: 0.22 },
  { what: 'p', seconds: 0.08 },
  { what: 'ee', seconds: 0.2 },
  { what: 'm', seconds: 0.08 },
  { what: 'aa', seconds: 0.3 },
  { what: 'pause', seconds: 0.25 },
  { what: 's', seconds: 0.12 },
  { what: 'ih', seconds: 0.18 },
  { what: 'ou', seconds: 0.16 },
  { what: 'aa', seconds: 0.24, loud: 0.8 },
  { what: 'm', seconds: 0.12, loud: 0.8 },
  { what: 'pause', seconds: 0.4 },
]

/** A voice line as WAV, and what the mouth does when. */
export function boardingCall(): { readonly bytes: Uint8Array; readonly said: readonly Said[] } {
  const { sound, said } = speak(CALL, { ...SPEAKER, pitch: [215, 175], tract: 1.14, rate: 22_050, seed: 7 })
  return { bytes: writeWav(sound), said }
}
