/** The two text converters every host has (browsers, workers, Node); the core is compiled without a DOM library. */
declare class TextEncoder {
  encode(text?: string): Uint8Array<ArrayBuffer>;
}
declare class TextDecoder {
  constructor(label?: string, options?: { fatal?: boolean });
  decode(bytes?: Uint8Array): string;
}
