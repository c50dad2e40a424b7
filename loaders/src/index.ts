// eslint-disable-next-line @typescript-eslint/triple-slash-reference -- the decoder ships no types, and every project that includes this file must see ours
/// <reference path="./draco3dgltf.d.ts" />
import { readerWith, type FileReader, type OuterReaders } from '@chiraxis/core/formats'
import { decodersWith } from './decoders'

export { decodersWith }
export { mikkTangents } from './tangents'

/** Readers of formats that need the 3D library, each loaded when the first such file comes in. */
export const OUTER_READERS: OuterReaders = {
  fbx: async (bytes, beside) => (await import('./read-fbx')).readFbx(bytes, beside),
  dae: async (bytes, beside) => (await import('./read-collada')).readCollada(bytes, beside),
}

/** Reads every kind of file the program knows, here. */
export const createReader = (decoders = decodersWith()): FileReader => {
  const read = readerWith(OUTER_READERS, decoders)
  return async (bytes, name, options) => {
    const { beside } = options ?? {}
    const pictured = beside && [...beside.keys()].some(n => /\.tga$/i.test(n))
    return read(bytes, name, pictured ? { ...options, beside: (await import('./tga')).plainPictures(beside) } : options)
  }
}
export const readAny = createReader()
