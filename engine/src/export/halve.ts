import type { Numbers } from './numbers.js';

/** Rows of a plane that are halved. */
export interface Halved {
  /** Columns before and after. */
  readonly from: number;
  readonly to: number;
  /** An even number, or one row alone. */
  readonly rows: number;
}

/** The upper left one of each four. */
export function firstOfFour(plane: Numbers, out: Numbers, { from, to, rows }: Halved): void {
  for (let row = 0; row < rows; row += 2) for (let col = 0; col < to; col++) out[(row >> 1) * to + col] = plane[row * from + col * 2]!;
}

/** What says that a pixel has nothing: a value of its own, or an opacity of 0. */
export interface Missing {
  readonly nodata: number | null;
  /** Of each pixel of the rows; null: its value tells. */
  readonly opacity: Numbers | null;
}

/** The mean of those of each four that have a value; where none has one, what stands for that. @param isWhole means are rounded */
export function meanOfFour(plane: Numbers, out: Numbers, { from, to, rows }: Halved, missing: Missing, isWhole: boolean): void {
  const { nodata, opacity } = missing;
  for (let row = 0; row < rows; row += 2) {
    const down = row + 1 < rows ? from : 0;
    const pairs = down > 0 ? from >> 1 : 0;
    for (let col = 0, i = row * from, at = (row >> 1) * to; col < to; col++, i += 2, at++) {
      // Nearly everywhere all four have a value.
      if (col < pairs && (opacity === null || isOpaque(opacity, i, down))) {
        const a = plane[i]!;
        const b = plane[i + 1]!;
        const c = plane[i + down]!;
        const d = plane[i + down + 1]!;
        const mean = (a + b + c + d) / 4;
        const isNone = nodata !== null && (a === nodata || b === nodata || c === nodata || d === nodata);
        if (!isNone && (isWhole || !Number.isNaN(mean))) {
          out[at] = isWhole ? Math.round(mean) : mean;
          continue;
        }
      }
      const mean = meanOfSome(plane, i, { across: col * 2 + 1 < from ? 1 : 0, down }, missing);
      out[at] = isWhole ? Math.round(mean) : mean;
    }
  }
}

const isOpaque = (opacity: Numbers, i: number, down: number): boolean =>
  opacity[i] !== 0 && opacity[i + 1] !== 0 && opacity[i + down] !== 0 && opacity[i + down + 1] !== 0;

/** @param beside how far the ones beside and below it are; 0: at an odd edge there are two, or one */
function meanOfSome(
  plane: Numbers,
  i: number,
  { across, down }: { readonly across: number; readonly down: number },
  { nodata, opacity }: Missing,
): number {
  let sum = 0;
  let count = 0;
  for (let k = 0; k < 4; k++) {
    const at = i + (k & 1) * across + (k >> 1) * down;
    if ((k & 1 && across === 0) || (k > 1 && down === 0)) continue;
    if (plane[at] === nodata || Number.isNaN(plane[at]) || opacity?.[at] === 0) continue;
    sum += plane[at]!;
    count++;
  }
  return count === 0 ? (nodata ?? 0) : sum / count;
}
