import { ChiraxisError } from '../math'
import { readReceived, type Received } from '../formats'
import { looseWeights, type LooseWeights } from '../paint'
import { applyStraighten } from '../shape'
import { standUp } from '../landmarks'
import { receivedRig, toldByFile } from './received-rig'

/** The weights of a skinned figure in a file, in its own straightened body. */
export async function weightsOfFile(file: Received, name: string): Promise<LooseWeights> {
  if (!file.mesh || !file.skeleton || !file.skin)
    throw new ChiraxisError('bad-weights', `${name} holds no skinned body, so there are no weights to take from it.`)
  if (file.skin.weights.some(w => !Number.isFinite(w)))
    throw new ChiraxisError('bad-weights', `${name} holds weights that are no numbers.`)
  const reading = readReceived(file)
  const straightened = await standUp(file.mesh, toldByFile(file, reading))
  const mesh = applyStraighten(file.mesh, straightened)
  const rig = receivedRig({ received: file, reading, straightened, mesh })
  return looseWeights(mesh, rig.skeleton, rig.skin ?? file.skin, straightened.height)
}
