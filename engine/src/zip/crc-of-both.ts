/*
 * CRC-32 of two runs of bytes, one behind the other, from the CRC of each: the first is carried over as many zero bytes as
 * the second has, by squaring the matrix that carries it over one bit. As in zlib's `crc32_combine` (Mark Adler).
 */

const POLYNOMIAL = 0xedb88320;
type Matrix = Uint32Array;

function times(matrix: Matrix, vector: number): number {
  let sum = 0;
  for (let i = 0, v = vector >>> 0; v !== 0; v >>>= 1, i++) if (v & 1) sum ^= matrix[i]!;
  return sum >>> 0;
}

const squared = (matrix: Matrix): Matrix => matrix.map((row) => times(matrix, row));

/** @param length bytes of the second run */
export function crcOfBoth(first: number, second: number, length: number): number {
  let crc = first >>> 0;
  let bytes = length;
  let matrix: Matrix = Uint32Array.from({ length: 32 }, (_, i) => (i === 0 ? POLYNOMIAL : 2 ** (i - 1)));
  matrix = squared(squared(squared(matrix))); // over one byte
  while (bytes > 0) {
    if (bytes % 2 === 1) crc = times(matrix, crc);
    matrix = squared(matrix);
    bytes = Math.floor(bytes / 2);
  }
  return (crc ^ second) >>> 0;
}
