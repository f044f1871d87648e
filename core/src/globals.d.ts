/** In every browser, worker and Node: the only platform names that the core may use. */
export {};
declare global {
  class TextDecoder {
    constructor(label?: string, options?: { fatal?: boolean; ignoreBOM?: boolean });
    decode(input?: Uint8Array, options?: { stream?: boolean }): string;
  }
  class TextEncoder {
    encode(text: string): Uint8Array<ArrayBuffer>;
  }
  /** ES2024, in Node 20 and every current browser. */
  interface String {
    toWellFormed(): string;
  }
}
