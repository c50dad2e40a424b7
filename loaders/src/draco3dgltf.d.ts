declare module 'draco3dgltf/draco_decoder_gltf_nodejs.js' {
  const createDecoder: (options: { wasmBinary?: ArrayBuffer }) => Promise<unknown>
  export default createDecoder
}
declare module 'draco3dgltf' {
  const draco3d: { createEncoderModule(): Promise<unknown>; createDecoderModule(): Promise<unknown> }
  export default draco3d
}
