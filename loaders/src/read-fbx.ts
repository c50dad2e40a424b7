import { FBXLoader } from 'three/examples/jsm/loaders/FBXLoader.js'
import { ChiraxisError } from '@chiraxis/core/math'
import type { BesideFiles, Received } from '@chiraxis/core/formats'
import { checkFbx } from './check-fbx'
import { receivedFromScene } from './received'
import { withStandIns } from './stand-ins'

/** Versions the 3D library's loader reads. */
const OLDEST = { binary: 6400, text: 7000 }

/**
 * Reads an FBX, binary or text, through the 3D library's loader.
 * @throws ChiraxisError `bad-version`, `truncated-file`, `bad-syntax`, `too-large`, `no-triangles`
 */
export async function readFbx(bytes: Uint8Array, beside?: BesideFiles): Promise<Received> {
  const { version, binary } = checkVersion(bytes)
  checkFbx(bytes, version, binary)
  const buffer = new Uint8Array(bytes).buffer
  try {
    const { value: scene, wanted } = withStandIns(({ manager }) => new FBXLoader(manager).parse(buffer, ''))
    return await receivedFromScene('fbx', scene, scene.animations, wanted, beside, bytes.length)
  } catch (error) {
    if (error instanceof ChiraxisError) throw error
    throw new ChiraxisError(
      'bad-syntax',
      'The FBX could not be read: it is damaged, cut short, or holds something this reader does not know. Save it as GLB and bring that in.',
      { reason: String(error) },
    )
  }
}

function checkVersion(bytes: Uint8Array): { version: number; binary: boolean } {
  const binary = new TextDecoder('latin1').decode(bytes.subarray(0, 18)) === 'Kaydara FBX Binary'
  if (binary && bytes.length < 200)
    throw new ChiraxisError('truncated-file', 'The FBX ends within its header; it is cut short.')
  const version = binary
    ? new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength).getUint32(23, true)
    : Number(/FBXVersion:\s*(\d+)/.exec(new TextDecoder('latin1').decode(bytes.subarray(0, 4096)))?.[1] ?? 0)
  const least = binary ? OLDEST.binary : OLDEST.text
  if (!(version >= least && version < 10000))
    throw new ChiraxisError(
      'bad-version',
      `The FBX is of version ${version || 'unknown'}, which cannot be read; ${least} to 7700 can. Save it as GLB or a newer FBX.`,
    )
  return { version, binary }
}
