import { readerWith, type FileReader, type OuterReaders } from '@chiraxis/core/formats'

/** Readers of formats that need the 3D library, each loaded when the first such file comes in. */
export const OUTER_READERS: OuterReaders = {
  fbx: async (bytes, beside) => (await import('./read-fbx')).readFbx(bytes, beside),
  dae: async (bytes, beside) => (await import('./read-collada')).readCollada(bytes, beside),
}

/** Reads every kind of file the program knows, here. */
export const readAny: FileReader = readerWith(OUTER_READERS)
