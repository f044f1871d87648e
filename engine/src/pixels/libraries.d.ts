declare module 'lerc' {
  interface Decoded {
    readonly width: number;
    readonly height: number;
    readonly pixels: readonly (
      Uint8Array | Int8Array | Uint16Array | Int16Array | Uint32Array | Int32Array | Float32Array | Float64Array
    )[];
    readonly pixelType: string;
    /** 1 for each pixel that has a value; null: all have. */
    readonly mask: Uint8Array | null;
  }
  const lerc: { decode(data: ArrayBufferLike, options?: { readonly returnPixelInterleavedDims?: boolean }): Decoded };
  export default lerc;
}
