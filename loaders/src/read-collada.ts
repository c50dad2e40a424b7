import { DOMParser } from 'linkedom'
import { ColladaLoader } from 'three/examples/jsm/loaders/ColladaLoader.js'
import { ChiraxisError } from '@chiraxis/core/math'
import type { BesideFiles, Received } from '@chiraxis/core/formats'
import { checkCollada } from './check-collada'
import { receivedFromScene } from './received'
import { withStandIns } from './stand-ins'

const MOST_BYTES = 200 << 20

/**
 * Reads a COLLADA through the 3D library's loader, which turns it to Y up and metres by the file's own word.
 * @throws ChiraxisError `too-large`, `bad-syntax`, `no-triangles`
 */
export async function readCollada(bytes: Uint8Array, beside?: BesideFiles): Promise<Received> {
  if (bytes.length > MOST_BYTES)
    throw new ChiraxisError('too-large', 'The COLLADA file is larger than 200 MiB and cannot be read. Save it as GLB.')
  const text = new TextDecoder().decode(bytes)
  if (/<!ENTITY|<!DOCTYPE/i.test(text.slice(0, 4096)))
    throw new ChiraxisError('bad-syntax', 'The COLLADA file declares entities, which are not read.')
  if (!/<\/COLLADA>\s*$/.test(text.slice(-4096)))
    throw new ChiraxisError('truncated-file', 'The COLLADA file ends before its last element; it is cut short.')
  checkCollada(text)
  const XmlParser = class {
    parseFromString(source: string): unknown {
      return new DOMParser().parseFromString(source, 'text/xml')
    }
  }
  try {
    const { value, wanted } = withStandIns(({ manager }) => new ColladaLoader(manager).parse(text, ''), {
      DOMParser: XmlParser,
    })
    if (!value) throw new ChiraxisError('bad-syntax', 'The COLLADA file is not well formed.')
    return await receivedFromScene('dae', value.scene, value.scene.animations, wanted, beside, bytes.length)
  } catch (error) {
    if (error instanceof ChiraxisError) throw error
    throw new ChiraxisError(
      'bad-syntax',
      'The COLLADA file could not be read: it is damaged or holds something this reader does not know.',
      { reason: String(error) },
    )
  }
}
