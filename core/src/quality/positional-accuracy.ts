/** A place as the data has it and as a better source has it, in one CRS whose units are lengths. */
export interface CheckPoint {
  readonly x: number;
  readonly y: number;
  readonly referenceX: number;
  readonly referenceY: number;
}

/** Check points that were found in two datasets. */
export interface MatchedPoints {
  readonly pairs: readonly CheckPoint[];
  /** Points without a like in the better source; and points for which there are several, so that nobody knows which. */
  readonly unmatched: number;
  readonly ambiguous: number;
  /** Pairs beyond those that are told. */
  readonly left: number;
}

interface PositionalAccuracy {
  readonly points: number;
  readonly rmseX: number;
  readonly rmseY: number;
  /** Root mean square error of both together. */
  readonly rmseR: number;
  /** Radius within which 95 % of places lie; null: x and y differ by more than the standard has a formula for. */
  readonly within95: number | null;
  /** Mean errors: a shift that all have. */
  readonly biasX: number;
  readonly biasY: number;
}

/** The standard asks for so many points at least. */
const LEAST_POINTS = 20;
/** 95 % of a circular normal distribution lie within √(−2 ln 0.05) standard deviations. */
const WITHIN_95 = 2.4477;
/** Below this ratio of the smaller error to the larger the standard's approximation does not hold. */
const LEAST_RATIO = 0.6;

/**
 * Horizontal accuracy from check points (FGDC-STD-007.3-1998, National Standard for Spatial Data Accuracy, appendix 3-A: 1.7308 × RMSE_r
 * where both errors agree, else 2.4477 × 0.5 × (RMSE_x + RMSE_y) down to a ratio of 0.6; constants from memory, held against the
 * distribution that they come from).
 * @param points at least one
 */
export function positionalAccuracy(points: readonly CheckPoint[]): PositionalAccuracy {
  const mean = (of: (p: CheckPoint) => number): number => points.reduce((sum, p) => sum + of(p), 0) / points.length;
  const dx = (p: CheckPoint): number => p.x - p.referenceX;
  const dy = (p: CheckPoint): number => p.y - p.referenceY;
  const rmseX = Math.sqrt(mean((p) => dx(p) ** 2));
  const rmseY = Math.sqrt(mean((p) => dy(p) ** 2));
  const ratio = Math.min(rmseX, rmseY) / Math.max(rmseX, rmseY);
  // Where both are the same this is 1.7308 × RMSE_r; where both are 0 so is the radius.
  const within95 = rmseX + rmseY === 0 ? 0 : ratio >= LEAST_RATIO ? (WITHIN_95 * (rmseX + rmseY)) / 2 : null;
  return { points: points.length, rmseX, rmseY, rmseR: Math.hypot(rmseX, rmseY), within95, biasX: mean(dx), biasY: mean(dy) };
}

/** Lines of four numbers: x, y, and both as the better source has them; blanks, tabs, commas or semicolons between. A first line of words is passed over. */
export function readCheckPoints(text: string): { readonly points: readonly CheckPoint[]; readonly odd: readonly number[] } {
  const points: CheckPoint[] = [];
  const odd: number[] = [];
  text.split(/\r\n|\r|\n/).forEach((line, i) => {
    if (line.trim() === '') return;
    const numbers = line
      .trim()
      .split(/\s*[;,\t]\s*|\s+/)
      .map(Number);
    const [x, y, referenceX, referenceY] = numbers;
    if (numbers.length === 4 && numbers.every((n) => Number.isFinite(n)))
      points.push({ x: x!, y: y!, referenceX: referenceX!, referenceY: referenceY! });
    else if (i > 0 || /\d\s*$/.test(line)) odd.push(i + 1);
  });
  return { points, odd };
}

/** What is stated of it, in words. @param unit of the coordinates, as `m` */
export function accuracyWords({ points, rmseX, rmseY, rmseR, within95, biasX, biasY }: PositionalAccuracy, unit: string): string {
  const word = (n: number): string => `${Number(n.toPrecision(3))} ${unit}`;
  return [
    within95 === null
      ? `RMSE ${word(rmseR)}; x and y differ too much for one radius`
      : `${word(within95)} at 95 % (NSSDA), RMSE ${word(rmseR)}`,
    `x ${word(rmseX)}, y ${word(rmseY)}`,
    `mean shift ${word(biasX)}, ${word(biasY)}`,
    `${points} check ${points === 1 ? 'point' : 'points'}${points < LEAST_POINTS ? `, fewer than the ${LEAST_POINTS} that the standard asks for` : ''}`,
  ].join('; ');
}
