/** The two text converters every host has (browsers, workers, Node); the core is compiled without a DOM library. */
declare class TextEncoder {
  encode(text?: string): Uint8Array<ArrayBuffer>;
}
declare class TextDecoder {
  constructor(label?: string, options?: { fatal?: boolean });
  decode(bytes?: Uint8Array): string;
}
declare function atob(base64: string): string;

/** As much of WebAssembly as the ray kernel needs. */
declare namespace WebAssembly {
  class Module {
    constructor(bytes: Uint8Array<ArrayBuffer>);
  }
  class Instance {
    constructor(module: Module, imports: Record<string, Record<string, unknown>>);
    readonly exports: Record<string, unknown>;
  }
  class Memory {
    constructor(about: { initial: number; maximum?: number; shared?: boolean });
    readonly buffer: ArrayBufferLike;
    grow(pages: number): number;
  }
}
