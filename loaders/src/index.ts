// eslint-disable-next-line @typescript-eslint/triple-slash-reference -- the decoder ships no types, and every project that includes this file must see ours
/// <reference path="./draco3dgltf.d.ts" />
import { readerWith, type FileReader, type OuterReaders } from '@chiraxis/core/formats'
import { decodersWith } from './decoders'

export { decodersWith }

/** Readers of formats that need the 3D library, each loaded when the first such file comes in. */
export const OUTER_READERS: OuterReaders = {
  fbx: async (bytes, beside) => (await import('./read-fbx')).readFbx(bytes, beside),
  dae: async (bytes, beside) => (await import('./read-collada')).readCollada(bytes, beside),
}

/** Reads every kind of file the program knows, here. */
export const readAny: FileReader = readerWith(OUTER_READERS, decodersWith())
