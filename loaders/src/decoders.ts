import type { GltfDecoders } from '@chiraxis/core/formats'

/**
 * Decoders of compressed glTF, each loaded when the first such file comes in.
 * @param dracoWasm the Draco decoder's program, where it cannot be found beside its script
 */
export const decodersWith = (dracoWasm?: () => Promise<ArrayBuffer>): GltfDecoders => ({
  draco: async () => {
    const { default: createDecoder } = await import('draco3dgltf/draco_decoder_gltf_nodejs.js')
    return createDecoder(dracoWasm ? { wasmBinary: await dracoWasm() } : {})
  },
  meshopt: async () => {
    const { MeshoptDecoder } = await import('meshoptimizer/decoder')
    await MeshoptDecoder.ready
    return MeshoptDecoder
  },
})
