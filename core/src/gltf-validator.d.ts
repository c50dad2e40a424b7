declare module 'gltf-validator'
