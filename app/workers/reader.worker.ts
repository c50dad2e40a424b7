import './without-eval'
import * as Comlink from 'comlink'
import dracoWasm from 'draco3dgltf/draco_decoder_gltf.wasm?url'
import type { BesideFiles } from '@chiraxis/core/formats'
import { ChiraxisError } from '@chiraxis/core/math'
import { createReader, decodersWith } from '@chiraxis/loaders'
import type { ReaderApi } from './read-apart'
import { lend } from './lend'

const readAny = createReader(decodersWith(async () => (await fetch(dracoWasm)).arrayBuffer()))

/** Reads files and nothing else: whatever a file does to it, it can be ended and begun anew. */
const api: ReaderApi = {
  read: async (bytes: Uint8Array, name: string, beside: BesideFiles) => {
    try {
      const { value, buffers } = lend(await readAny(bytes, name, { beside }), true)
      return Comlink.transfer({ ok: true, value }, buffers)
    } catch (error) {
      if (!(error instanceof ChiraxisError)) throw error
      return { ok: false, refusal: { code: error.code, message: error.message } }
    }
  },
}
Comlink.expose(api)
