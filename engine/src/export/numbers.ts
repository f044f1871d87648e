import type { SampleType } from '../pixels/pixel-source.js';

/** Numbers of one kind, as a file has them. */
export type Numbers =
  | Uint8Array<ArrayBuffer>
  | Int8Array<ArrayBuffer>
  | Uint16Array<ArrayBuffer>
  | Int16Array<ArrayBuffer>
  | Uint32Array<ArrayBuffer>
  | Int32Array<ArrayBuffer>
  | Float32Array<ArrayBuffer>
  | Float64Array<ArrayBuffer>;
const ARRAYS = {
  u8: Uint8Array,
  i8: Int8Array,
  u16: Uint16Array,
  i16: Int16Array,
  u32: Uint32Array,
  i32: Int32Array,
  f32: Float32Array,
  f64: Float64Array,
} satisfies Record<SampleType, new (length: number) => Numbers>;
export const numbersFor = (type: SampleType, length: number): Numbers => new ARRAYS[type](length);
