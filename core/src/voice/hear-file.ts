import type { WorkOptions } from '../math'
import { listen, type Heard } from './listen'
import { readWav } from './wav'

/** What is said in a sound file. @throws ChiraxisError as {@link readWav} and {@link listen} do */
export const hearFile = (bytes: Uint8Array, work: WorkOptions = {}): Promise<Heard> => listen(readWav(bytes), work)
