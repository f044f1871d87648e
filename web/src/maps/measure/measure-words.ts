import { number } from '../../parts/format.js';

const withDigits = (n: number, digits: number): string => number(Number(n.toFixed(digits)));

/** A length: to the centimetre below 10 km, to the metre above. */
export const lengthWords = (metres: number): string =>
  metres < 10_000 ? `${withDigits(metres, 2)} m` : `${withDigits(metres / 1000, 3)} km`;

/** An area: square metres below a hectare, hectares below 10 km², square kilometres above. */
export const areaWords = (square: number): string =>
  square < 10_000
    ? `${withDigits(square, 1)} m²`
    : square < 1e7
      ? `${withDigits(square / 10_000, 3)} ha`
      : `${withDigits(square / 1e6, 3)} km²`;

/** How a figure of the plane stands to the one on the ground. */
export function differenceWords(plane: number, ground: number): string {
  if (ground === 0) return '';
  const percent = (plane / ground - 1) * 100;
  const size = Math.abs(percent);
  if (size < 0.0005) return 'the same to five digits';
  return `${size >= 10 ? size.toFixed(0) : size >= 0.1 ? size.toFixed(2) : size.toFixed(3)} % ${percent > 0 ? 'more' : 'less'}`;
}
