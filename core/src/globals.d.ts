// The few timers and codecs that every JavaScript host of the core provides; the DOM library stays out.
declare function setTimeout(callback: () => void, ms?: number): unknown
declare const performance: { now(): number }
declare class TextDecoder {
  constructor(label?: string, options?: { fatal?: boolean })
  decode(bytes: Uint8Array): string
}
declare class TextEncoder {
  encode(text: string): Uint8Array<ArrayBuffer>
}
declare function atob(text: string): string
declare function structuredClone<T>(value: T): T
declare namespace WebAssembly {
  class Module {
    constructor(bytes: Uint8Array)
  }
  class Instance {
    constructor(module: Module)
    readonly exports: object
  }
}
